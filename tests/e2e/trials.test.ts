import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest'
import type { Browser, Page } from 'puppeteer-core'
import { ask, copyOf, hasText, launch, openPage, press, reload, text, until } from './browser'
import { freePort, startServer } from './setup'

declare module 'vitest' { interface ProvidedContext { address: string } }

describe('trials', () => {
  let browser: Browser
  const address = inject('address')
  beforeAll(async () => { browser = await launch() })
  afterAll(async () => { await browser.close() })

  const set = async (page: Page, label: string, value: string): Promise<void> => {
    await page.click(`input[aria-label="${label}"]`, { count: 3 })
    await page.keyboard.type(value)
  }
  const choose = async (page: Page, label: string, item: string): Promise<void> => {
    await page.waitForSelector(`.v-select:has([aria-label="${label}"])`)
    await page.click(`.v-select:has([aria-label="${label}"])`)
    await until(page, `[...document.querySelectorAll('.v-list-item')].some(e => e.textContent.includes(${JSON.stringify(item)}))`)
    await page.evaluate((t) => { [...document.querySelectorAll<HTMLElement>('.v-list-item')].find(e => e.textContent.includes(t))!.click() }, item)
  }
  const click = (page: Page, within: string, words: string) => page.evaluate((w, t) => { [...document.querySelectorAll<HTMLElement>(`${w} button`)].find(b => b.textContent.includes(t))!.click() }, within, words)
  const view = async () => {
    const id = await copyOf(address, 'Kiss the fender')
    return { id, ...await openPage(browser, `${address}/projects/${id}/trials`) }
  }
  interface Listed { plans: { id: string, state: string, done: number, total: number }[] }
  const plansOf = async (id: string) => (await ask<Listed>(address, `/api/projects/${id}/trials`)).plans

  test('one dial is tried by keys alone, answered in words and charts, and its best value goes into the program', async () => {
    const { page, id, errors } = await view()
    expect(await text(page, 'main')).toContain('Nothing tried yet')
    await set(page, 'Last seed', '3')
    await choose(page, 'Add a dial', 'near')
    await set(page, 'near from', '9 cm')
    await set(page, 'near to', '13 cm')
    await set(page, 'How many values of near', '2')
    await until(page, hasText('.do', '6 runs'))
    await press(page, 'Control', 'Enter')
    await until(page, `document.querySelector('[data-state=done]') !== null`)
    await until(page, `document.querySelectorAll('.one').length === 2`)
    // The best first.
    await until(page, hasText('.one', 'met all goals in 3 of 3 runs'))
    expect(await text(page, '.one h2')).toContain('near 13 cm')
    expect(await text(page, '.words')).toContain('(95 % sure: 44 % to 100 %)')
    await click(page, '.head', 'Charts')
    await until(page, `document.querySelectorAll('.chart canvas').length === 2`)
    expect(await page.$eval('.chart canvas', e => e.getAttribute('aria-label'))).toContain('near 9 cm: met all goals in 0 of 3 runs')
    await click(page, '.head', 'In words')
    await page.waitForSelector('.one')
    await click(page, '.one', 'use these values')
    await until(page, hasText('.words', 'The program has near 13 cm now.'))
    await until(page, `fetch('/api/projects/${id}').then(r => r.json()).then(p => p.program.includes('dial near = 13 cm'))`)
    expect(errors).toEqual([])
    await page.close()
  })

  test('a way to fail is looked at on the bench, at the instant at which it was decided', async () => {
    const { page, id, errors } = await view()
    const { program } = await ask<{ program: string }>(address, `/api/projects/${id}`)
    await ask(address, `/api/projects/${id}/trials`, { plan: { mindpath: 'trials', version: 1, seeds: [5, 6] }, programs: [{ name: 'pushes', text: program.replace(/near = \d+ cm/, 'near = 3 cm') }] })
    await until(page, `document.querySelector('[data-state=done]') !== null`)
    await until(page, `document.querySelector('.failures button') !== null`)
    expect(await text(page, '.failures')).toMatch(/first lost: .* seed 5 at \d/)
    const at = /at ([\d.]+ s)/.exec(await text(page, '.failures'))![1]!
    await page.click('.failures button')
    await until(page, hasText('.tape', 'kept run seed 5, typical'))
    await until(page, `${hasText('.tape', 'to the newest')} && ${hasText('.tape', at)}`)
    expect(errors).toEqual([])
    await page.close()
  })

  test('two programs are compared; a plan under way is cancelled by its key, put away and brought back, and its values go into the next', async () => {
    const { page, id, errors } = await view()
    await choose(page, 'Add a revision of the program', 'rev. 1')
    await set(page, 'Last seed', '2000')
    await choose(page, 'Let something of the world vary', 'grip')
    await press(page, 'Control', 'Enter')
    await until(page, hasText('.words > .line', 'cannot be told: over these seeds they differ in nothing'))
    await page.evaluate(() => { (document.activeElement as HTMLElement).blur() })
    await page.keyboard.press('c')
    await until(page, hasText('.state', 'cancelled after'))
    const [plan] = await plansOf(id)
    expect(plan).toMatchObject({ state: 'cancelled', total: 4000 })
    expect(plan!.done).toBeGreaterThan(0)
    await page.keyboard.press('Delete')
    await until(page, hasText('main', 'Nothing tried yet'))
    await press(page, 'Control', 'z')
    await until(page, `document.querySelector('[data-state=cancelled]') !== null && document.querySelector('.one') !== null`)
    await set(page, 'Last seed', '7')
    await page.evaluate(() => { (document.activeElement as HTMLElement).blur() })
    await page.keyboard.press('e')
    await until(page, `document.querySelector('input[aria-label="Last seed"]').value === '2000'`)
    expect(errors).toEqual([])
    await page.close()
  })

  test('where it fails is looked for and made small; that is looked at, kept as an arena, and tried with every later plan, which tells of it by itself', async () => {
    const { page, id, errors } = await view()
    await click(page, '.aim', 'Find where it fails')
    await press(page, 'Control', 'Enter')
    await until(page, hasText('.wrong', 'something of the world varies where it may fail'))
    await choose(page, 'Let something of the world vary', 'turned right by')
    await set(page, 'start, turned right by from', '-70 deg')
    await set(page, 'start, turned right by to', '0 deg')
    await choose(page, 'Let a thing stand elsewhere', 'crate_1, north by')
    await set(page, 'How many runs it may take', '24')
    await until(page, hasText('.form .do', 'up to 24 runs'))
    await press(page, 'Control', 'Enter')
    await until(page, `document.querySelector('[data-state=done]') !== null`)
    await until(page, hasText('.words', 'fails with'))
    expect(await text(page, '.words')).toMatch(/fails with (crate_1 north -?[\d.]+ cm and )?turn -[\d.]+ deg.*found and made small in \d+ runs/)
    await click(page, '.words', 'keep as an arena')
    await until(page, hasText('.words', 'Kept among the arenas as fender_quay_fails'))
    expect(JSON.stringify(await ask(address, '/api/shelf/arena'))).toContain('fender_quay_fails')
    await click(page, '.words', 'try it with every plan')
    await until(page, hasText('.form', 'known to be hard'))
    await set(page, 'Last seed', '2')
    await until(page, hasText('.form .do', '3 runs'))
    await press(page, 'Control', 'Enter')
    await until(page, `document.querySelectorAll('[data-state=done]').length === 2`)
    await until(page, hasText('.words', 'in worlds known to be hard: meets its goals in 0 of 1; fails with'))
    // Who comes again has it in the plan, and in the search the run that fails.
    await reload(page)
    await until(page, hasText('.form', 'known to be hard'))
    await page.evaluate(() => document.querySelectorAll<HTMLElement>('[data-plan]')[1]!.click())
    await until(page, hasText('.words', 'fails with'))
    await click(page, '.head', 'Every run')
    await until(page, `[...document.querySelectorAll('[data-trial]')].some(r => /turn -[\\d.]+ deg/.test(r.textContent))`)
    await click(page, '.head', 'In words')
    await page.waitForSelector('.words')
    await click(page, '.words', 'look at it')
    await until(page, hasText('.tape', 'kept run'))
    await until(page, hasText('.tape', 'to the newest'))
    expect(await ask(address, `/api/trials/${(await plansOf(id))[1]!.id}/runs/99`)).toMatchObject({ statusCode: 404 })
    expect(errors.filter(e => !/400|404/.test(e))).toEqual([])
    await page.close()
  })

  test('good values are looked for, judged against those that the program has, and go into it', async () => {
    const { page, id, errors } = await view()
    await click(page, '.aim', 'Find good values')
    await choose(page, 'Add a dial', 'near')
    await set(page, 'near from', '20 cm')
    await set(page, 'near to', '40 cm')
    await set(page, 'How many runs it may take', '119')
    await set(page, 'Seconds after which each run ends', '1')
    await press(page, 'Control', 'Enter')
    await until(page, hasText('.wrong', 'search.runs 119: allowed is 120 or more'))
    await set(page, 'How many runs it may take', '120')
    await press(page, 'Control', 'Enter')
    await until(page, `document.querySelector('[data-state=done]') !== null`)
    // Within a second nothing meets its goals.
    await until(page, hasText('.words', 'nothing found that can be told to be better after 120 runs: near'))
    expect(await page.$$eval('.one h2', all => all.map(e => e.textContent.trim()))).toEqual(['found', 'as the text has it'])
    await click(page, '.words', 'use them all the same')
    const [found] = /near [\d.]+ cm/.exec(await text(page, '.words > .line'))!
    await until(page, hasText('.words', `The program has ${found} now.`))
    await until(page, `fetch('/api/projects/${id}').then(r => r.json()).then(p => p.program.includes('dial ${found.replace('near ', 'near = ')}'))`)
    expect(errors.filter(e => !e.includes('400'))).toEqual([])
    await page.close()
  })

  test('what cannot be tried is said where it is, before anything is sent and by whoever is asked', async () => {
    const { page, id } = await view()
    await set(page, 'Last seed', 'many')
    await until(page, hasText('.wrong', 'seeds'))
    await set(page, 'Last seed', '3')
    await until(page, `document.querySelector('.wrong') === null`)
    await choose(page, 'Add a dial', 'near')
    await set(page, 'near to', '9 m')
    await press(page, 'Control', 'Enter')
    await until(page, hasText('.wrong', 'dials.near 9 m: allowed is from 3 cm to 60 cm'))
    expect(await plansOf(id)).toEqual([])
    for (const [body, problem] of [
      [{ plan: { mindpath: 'trials', version: 1, seeds: [1, 200_000] }, programs: [{ name: 'a', text: 'otherwise -> halt' }] }, 'allowed are up to 100000 here'],
      [{ plan: { mindpath: 'trials', version: 1, seeds: [1, 2] }, programs: [{ name: 'a', text: 'when' }] }, 'a:1:'],
      [{ plan: { mindpath: 'trials', version: 1, seeds: [1, 2] }, programs: [] }, 'programs'],
    ] as const) expect(JSON.stringify(await ask(address, `/api/projects/${id}/trials`, body))).toContain(problem)
    expect(await ask(address, `/api/trials/${id}/runs?after=x`)).toMatchObject({ statusCode: 400 })
    expect(await ask(address, `/api/trials/${id}`)).toMatchObject({ statusCode: 404 })
    await page.close()
  })

  test('a plan goes on where the server was told to end, though somebody listened, and where it was killed; it comes to what an undisturbed one comes to, row by row', async () => {
    const [data, port] = [mkdtempSync(join(tmpdir(), 'mindpath-trials-')), await freePort()]
    const at = `http://127.0.0.1:${port}`
    let server = await startServer(port, data)
    const id = await copyOf(at, 'Kiss the fender')
    const { program } = await ask<{ program: string }>(at, `/api/projects/${id}`)
    const body = { plan: { mindpath: 'trials', version: 1, seeds: [1, 40], realisms: ['rough'] }, programs: [{ name: 'own', text: program }] }
    const { id: plan } = await ask<{ id: string }>(at, `/api/projects/${id}/trials`, body)
    const reached = async (state: string, done: number): Promise<void> => {
      for (let now = (await ask<Listed>(at, `/api/projects/${id}/trials`)).plans.at(-1)!; now.state !== state || now.done < done;) {
        await new Promise(r => setTimeout(r, 50))
        now = (await ask<Listed>(at, `/api/projects/${id}/trials`)).plans.at(-1)!
      }
    }
    const ended = (): Promise<unknown> => new Promise(r => server.once('exit', r))
    const listening = await fetch(`${at}/api/projects/${id}/trials/events`)
    await reached('running', 4)
    let end = ended()
    server.kill('SIGTERM')
    // It would wait half a minute for whoever still listens.
    expect(await Promise.race([end.then(() => 'ended'), new Promise(r => setTimeout(() => r('waits'), 15_000))])).toBe('ended')
    await listening.body?.cancel().catch(() => undefined)
    server = await startServer(port, data)
    await reached('running', 12)
    end = ended()
    server.kill('SIGKILL')
    await end
    server = await startServer(port, data)
    await reached('done', 40)
    const rowsOf = async (of: string) => (await ask<{ answers: { number: number }[] }>(at, `/api/trials/${of}/runs`)).answers.toSorted((a, b) => a.number - b.number)
    const { id: again } = await ask<{ id: string }>(at, `/api/projects/${id}/trials`, body)
    while ((await ask<Listed>(at, `/api/projects/${id}/trials`)).plans.find(p => p.id === again)!.state !== 'done') await new Promise(r => setTimeout(r, 100))
    const rows = await rowsOf(plan)
    expect(rows).toHaveLength(40)
    expect(rows).toEqual(await rowsOf(again))
    server.kill('SIGKILL')
  })
})
