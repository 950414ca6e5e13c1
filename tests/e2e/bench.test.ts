import { execFile } from 'node:child_process'
import { promisify } from 'node:util'
import type { Browser, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest'
import { copyOf, hasText, launch, openPage, press, text, typeProgram, until } from './browser'
import { sampled } from '../sample'

const run = promisify(execFile)
let browser: Browser
beforeAll(async () => { browser = await launch() })
afterAll(() => browser.close())


/** A fresh copy of a demo project, on the bench. */
async function bench(title: string): Promise<{ page: Page, errors: string[], id: string }> {
  const id = await copyOf(inject('address'), title)
  const opened = await openPage(browser, `${inject('address')}/projects/${id}`)
  await until(opened.page, hasText('.decide .head', 'ready to run'))
  await until(opened.page, `document.querySelector('.sense [data-device] [data-figure]')?.textContent.length > 0`)
  return { ...opened, id }
}

/** The clock once it rests: it is renewed a few times a second, more rarely by a busy machine. */
async function clock(page: Page): Promise<number> {
  let rests = 0
  for (let last = Number.NaN; ;) {
    const now = parseFloat(await text(page, '.clock'))
    rests = now === last ? rests + 1 : 0
    if (rests === 3) return now
    last = now
    await new Promise(resolve => setTimeout(resolve, 400))
  }
}
const fastest = async (page: Page): Promise<void> => { for (let i = 0; i < 6; i++) await page.keyboard.press(']') }
const over = (page: Page) => page.waitForSelector('.outcome[data-hash]', { timeout: 60_000 })

describe('the bench', () => {
  test('runs by one key: readings, the rule in control, goals and the end', async () => {
    const { page, errors } = await bench('Kiss the fender')
    await page.click('.head h2')
    await page.keyboard.press('Enter')
    await until(page, hasText('.now', 'rule 2'))
    expect(await page.$$eval('.mp-control', e => e.length)).toBeGreaterThan(0)
    const first = await text(page, '[data-device=sonar] [data-figure]')
    await until(page, `document.querySelector('[data-device=sonar] [data-figure]').textContent !== ${JSON.stringify(first)}`)
    await fastest(page)
    await over(page)
    expect(await text(page, '.outcome')).toContain('finished: alongside')
    expect(await page.$$eval('.goal', all => all.map(g => g.getAttribute('data-status')))).toEqual(['met', 'met', 'met'])
    expect(errors).toEqual([])
    await page.close()
  })

  test('a run goes on while another view is open', async () => {
    const { page, errors, id } = await bench('Night rounds')
    await page.click('.head h2')
    await page.keyboard.press('Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 1`)
    const before = parseFloat(await text(page, '.clock'))
    await page.click('a[href$="/robot"]')
    await page.waitForSelector('[aria-label="Devices"], .devices, h1, h2')
    await until(page, `location.pathname.endsWith('/robot')`)
    await new Promise(resolve => setTimeout(resolve, 1500))
    await page.click(`a[href="/projects/${id}"]`)
    await page.waitForSelector('.clock')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > ${before + 1.2}`)
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > ${before + 2}`)
    // It is the run that it was, to its end: the tape is that of one that nobody left.
    await fastest(page)
    await over(page)
    const left = await page.$eval('.outcome', e => e.getAttribute('data-hash'))
    await page.keyboard.press('Enter')
    // What is over must have gone before the next one is.
    await until(page, `document.querySelector('.outcome[data-hash]') === null`)
    await over(page)
    expect(await page.$eval('.outcome', e => e.getAttribute('data-hash'))).toBe(left)
    expect(errors).toEqual([])
    await page.close()
  })

  test('the same seed gives the same tape here, on the server and from the command line', async () => {
    const { page, id } = await bench('Kiss the fender')
    await fastest(page)
    await page.keyboard.press('Enter')
    await over(page)
    const here = await page.$eval('.outcome', e => e.getAttribute('data-hash'))
    const server = await (await fetch(`${inject('address')}/api/runs`, {
      method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ project: id, seed: 1 }),
    })).json() as { hash: string, ended: string }
    const { stdout } = await run(process.execPath, ['--liftoff-only', '.build/cli.mjs', 'sim', 'demo/projects/kiss-the-fender', '--seed', '1', '--json'])
    const line = JSON.parse(stdout) as { hash: string }
    expect(here).toMatch(/^[0-9a-f]{16}$/)
    expect([here, server.hash]).toEqual([line.hash, line.hash])
    expect(server.ended).toBe('finished')
    await page.close()
  })

  test('Fetch the floats meets its goals on the page', async () => {
    const { page, errors } = await bench('Fetch the floats')
    await fastest(page)
    await page.keyboard.press('Enter')
    await over(page)
    expect(await page.$$eval('.goal', all => all.map(g => g.getAttribute('data-status')))).toEqual(['met', 'met', 'met'])
    expect(errors).toEqual([])
    await page.close()
  })

  test.each(sampled([['Find the buoy', 'find-the-buoy'], ['Lids home', 'lids-home'], ['Sort the floats', 'sort-the-floats']] as const, 1))('%s, rough, with every device on: the same tape in Chromium and Node', async (title, folder) => {
    const { page } = await bench(title)
    await page.keyboard.press('r')
    await until(page, hasText('.bar', 'rough'))
    await fastest(page)
    await page.keyboard.press('Enter')
    await over(page)
    const here = await page.$eval('.outcome', e => e.getAttribute('data-hash'))
    const { stdout } = await run(process.execPath, ['--liftoff-only', '.build/cli.mjs', 'sim', `demo/projects/${folder}`, '--seed', '1', '--realism', 'rough', '--json']).catch((e: { stdout: string }) => e)
    expect(here).toBe((JSON.parse(stdout) as { hash: string }).hash)
    await page.close()
  })

  test('pauses, ticks once, goes back to the start', async () => {
    const { page } = await bench('Night rounds')
    await page.keyboard.press('.')
    await page.keyboard.press('Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 0.5`)
    await page.keyboard.press('Space')
    await until(page, hasText('.pause', 'Go on'))
    const paused = await clock(page)
    await page.keyboard.press('.')
    await until(page, `Math.abs(parseFloat(document.querySelector('.clock').textContent) - ${paused + 0.02}) < 0.001`)
    await page.keyboard.press('0')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) === 0`)
    await page.close()
  })

  test('the tape goes back to any instant, and all of the bench with it', async () => {
    const { page } = await bench('Night rounds')
    await fastest(page)
    await page.keyboard.press('Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 20`)
    await page.keyboard.press('Space')
    await until(page, hasText('.pause', 'Go on'))
    const end = await clock(page)
    const box = await (await page.$('.tape canvas'))!.boundingBox()
    await page.mouse.click(box!.x + box!.width * 0.3, box!.y + 40)
    await until(page, hasText('.tape .head', 'looking back'))
    const time = await clock(page)
    expect(time).toBeGreaterThan(end * 0.28)
    expect(time).toBeLessThan(end * 0.34)
    // Two instants may read alike; so many do not.
    const read = new Set<string>()
    for (const share of [0.15, 0.3, 0.4, 0.5, 0.6, 0.7]) {
      await page.mouse.click(box!.x + box!.width * share, box!.y + 40)
      await until(page, `Math.abs(parseFloat(document.querySelector('.clock').textContent) / ${end} - ${share}) < 0.04`)
      read.add(await text(page, '[data-device=sonar] [data-figure]'))
    }
    expect(read.size).toBeGreaterThan(2)
    await page.keyboard.press('End')
    await until(page, hasText('.tape .head', 'the newest instant'))
    await page.close()
  })

  test('the tape traces what one chooses, goes from takeover to takeover by a key, and tells what changed since a mark', async () => {
    const { page, errors } = await bench('Night rounds')
    await page.click('.head h2')
    await fastest(page)
    await page.keyboard.press('Enter')
    await over(page)
    const traced = () => page.$$eval('[data-trace]', all => all.map(e => e.getAttribute('data-trace')))
    expect(await traced()).toEqual(['sonar.distance'])
    await page.click('.tape .head .v-btn')
    await page.waitForSelector('[data-source="wheels.travel"]')
    await page.click('[data-source="wheels.travel"]')
    await page.waitForSelector('[data-source="wants main  1"]')
    await page.click('[data-source="wants main  1"]')
    await page.keyboard.press('Escape')
    // While the list is open it keeps the focus, and keys are its own.
    await until(page, `document.querySelectorAll('[data-trace]').length === 3 && document.querySelector('[data-source]') === null`)
    expect(await traced()).toEqual(['wheels.travel', 'sonar.distance', 'wants main  1'])
    // Back over two takeovers, from one to the other.
    await until(page, `document.querySelector('.v-overlay--active') === null && (document.querySelector('.tape canvas').focus(), document.activeElement === document.querySelector('.tape canvas'))`)
    await page.keyboard.press('<')
    const at = () => page.$eval('.tape [role=slider]', e => Number(e.getAttribute('aria-valuenow')))
    await until(page, `Number(document.querySelector('.tape [role=slider]').getAttribute('aria-valuenow')) < 4499`)
    const last = await at()
    await page.keyboard.press('x')
    await page.keyboard.press('<')
    await until(page, `Number(document.querySelector('.tape [role=slider]').getAttribute('aria-valuenow')) < ${last}`)
    // Both at one instant: where it stands may be read before it has come to rest.
    await until(page, `document.querySelector('.between')?.textContent.includes('Δ -' + ((${last} - Number(document.querySelector('.tape [role=slider]').getAttribute('aria-valuenow'))) * 0.02).toFixed(2) + ' s')`)
    expect(Number.parseFloat(await text(page, '[data-trace="wheels.travel"] .change'))).toBeLessThanOrEqual(0)
    await page.keyboard.press('>')
    await until(page, `document.querySelector('.tape [role=slider]').getAttribute('aria-valuenow') === '${last}'`)
    expect(errors).toEqual([])
    await page.close()
  })

  test('mistakes show as one types, with a fix; the last program that ran stays at hand', async () => {
    const { page, errors } = await bench('Kiss the fender')
    await page.keyboard.press('Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 0.1`)
    await page.keyboard.press('Space')
    await typeProgram(page, 'when sonar.distnce < 20\n  halt\notherwise\n  drvie 20 cm/s\n')
    await until(page, hasText('.run', '2 mistakes'))
    const said = await page.$$eval('.notes li:not([hidden])', all => all.map(e => e.textContent))
    expect(said[0]).toContain('it has no reading distnce')
    expect(said[1]).toContain('drvie is not a step. Did you mean drive?')
    expect(await page.$eval('.run', b => (b as HTMLButtonElement).disabled)).toBe(true)
    await page.evaluate(() => [...document.querySelectorAll('button')].find(b => b.textContent?.includes('Run the last'))!.click())
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 0.3`)
    await typeProgram(page, 'when sonar.distance < 20 cm\n  halt\notherwise\n  drive 20 cm/s\n')
    await until(page, hasText('.run', 'Run'))
    await press(page, 'Control', 'Enter')
    await until(page, hasText('.now', 'rule 2'))
    expect(errors).toEqual([])
    await page.close()
  })

  test('what the checker says goes with its mistake, and its row serves the next one', async () => {
    const { page, errors } = await bench('Night rounds')
    const seen = (): Promise<string[]> => page.$$eval('.notes li', all => all.filter(e => e.checkVisibility()).map(e => e.textContent))
    await typeProgram(page, 'when sonar.distance < 30 cm -> halt\notherwise -> drvie 20 cm/s')
    await until(page, hasText('.decide .head', '1 mistake'))
    expect(await seen()).toEqual([expect.stringContaining('drvie is not a step')])
    const row = await page.$('.notes li')
    await page.click('.notes .fix')
    await until(page, hasText('.decide .head', 'ready to run'))
    expect(await seen()).toEqual([])
    await typeProgram(page, 'when sonar.distnce < 30 cm -> halt\notherwise -> halt')
    await until(page, hasText('.decide .head', '1 mistake'))
    expect(await seen()).toEqual([expect.stringContaining('it has no reading distnce')])
    expect(await page.evaluate(li => li === document.querySelector('.notes li'), row)).toBe(true)
    // The editor shows it with the next frame.
    await page.waitForSelector('.cm-lintRange-error')
    expect(errors).toEqual([])
    await page.close()
  })

  test('a key that runs it is not lost where the program was wrong a moment ago', async () => {
    const { page, errors } = await bench('Night rounds')
    await typeProgram(page, 'when sonar.distance < -> halt\n')
    await until(page, hasText('.decide .head', '1 mistake'))
    await typeProgram(page, 'otherwise -> drive 20 cm/s\n')
    await press(page, 'Control', 'Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 0.2`)
    await until(page, hasText('.now', 'rule 1'))
    expect(errors).toEqual([])
    await page.close()
  })

  test('a loop in which no time passes is stopped and named; the page stays alive', async () => {
    const { page } = await bench('Kiss the fender')
    await typeProgram(page, 'memory n = 0\notherwise\n  repeat until n > 5\n    set n = n * 1\n')
    await until(page, hasText('.decide .head', 'ready to run'))
    await press(page, 'Control', 'Enter')
    await until(page, hasText('.outcome', 'no time passes in this loop'))
    expect(await text(page, '.outcome')).toContain('line 3')
    await typeProgram(page, 'otherwise\n  drive 10 cm/s\n')
    await until(page, hasText('.decide .head', 'ready to run'))
    await press(page, 'Control', 'Enter')
    await until(page, hasText('.now', 'rule 1'))
    await page.close()
  })

  test('a dial acts on the text and on the running robot', async () => {
    const { page } = await bench('Kiss the fender')
    await page.focus('[data-dial=cruise] [role=slider]')
    await page.keyboard.press('Home')
    await until(page, hasText('.cm-content', 'cruise = 5 cm/s'))
    await until(page, hasText('[role=status]', 'saved'))
    // What stands, stands.
    expect(await text(page, '.clock')).toBe('0.00 s')
    await press(page, 'Control', 'Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 0.8`)
    await page.focus('[data-dial=cruise] [role=slider]')
    await page.keyboard.press('End')
    await until(page, hasText('.cm-content', 'cruise = 60 cm/s'))
    await until(page, `parseFloat(document.querySelector('[data-device=wheels] [data-figure]').textContent) > 40`)
    await page.close()
  })

  test('three dimensions can be shown, and the plan again', async () => {
    const { page, errors } = await bench('Night rounds')
    await page.click('.head h2')
    await page.keyboard.press('2')
    await page.waitForSelector('canvas[aria-label="The arena in three dimensions"]')
    await page.keyboard.press('Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 1`)
    await page.keyboard.press('1')
    await page.waitForSelector('canvas[aria-label="The arena from above"]')
    expect(errors).toEqual([])
    await page.close()
  })
})

describe('why this', () => {
  test('one key answers, beside the rule in control, and follows the tape', async () => {
    const { page, errors } = await bench('Kiss the fender')
    await page.keyboard.press('Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 1`)
    await page.keyboard.press('w')
    await until(page, hasText('.why .control', 'rule 2 (line 12) has control since'))
    expect(await text(page, '.decide .why')).toContain('sonar.distance < near')
    await until(page, hasText('.pause', 'Go on'))
    const before = await text(page, '.decide .why h3')
    const box = await (await page.$('.tape canvas'))!.boundingBox()
    await page.mouse.click(box!.x + 8, box!.y + 40)
    await page.waitForFunction((h: string) => document.querySelector('.decide .why h3')?.textContent !== h, { polling: 50 }, before)
    await page.keyboard.press('w')
    await until(page, `document.querySelector('.decide .why') === null`)
    expect(errors).toEqual([])
    await page.close()
  })
})
