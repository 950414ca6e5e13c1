import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { spawnSync } from 'node:child_process'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest'
import { writeKept } from '../../core/runs/kept'
import { openRun, type RunInputs } from '../../core/simulation'
import { ask, copyOf, go, hasText, keepRuns, launch, openPage, pick, savedFile, text, typeProgram, until } from './browser'

/** Runs that are kept by themselves, gone on from, looked through and compared. */

let browser: Browser
beforeAll(async () => { browser = await launch() })
afterAll(() => browser.close())

interface Kept { readonly id: string, readonly revision: number | null, readonly origin: string | null, readonly originTicks: number | null, readonly ticks: number, readonly fingerprint: string, readonly name: string, readonly starred: boolean, readonly outline: { readonly ended: string } }
const keptOf = async (id: string): Promise<readonly Kept[]> => (await ask<{ runs: Kept[] }>(inject('address'), `/api/projects/${id}/runs`)).runs

/** Too late: where it sees the fender there is no room to stop. */
const demoProgram = 'when sonar.distance < 3 cm\n  halt\notherwise\n  drive 25 cm/s\n'

/** A kept run of a program on limpet in an empty yard. */
async function openYardRun(program: string): Promise<Uint8Array<ArrayBuffer>> {
  const inputs: RunInputs = { robot: JSON.parse(await readFile('demo/robots/limpet.json', 'utf8')) as object, arena: { mindpath: 'arena', version: 1, name: 'yard', size: ['3 m', '3 m'], start: { at: ['1.2 m', '1.5 m'], heading: '0 deg' } }, task: null, program, realism: 'typical', seed: 2, limit: 60 }
  const opened = await openRun(inputs)
  if (!opened.ok) throw new Error(JSON.stringify(opened.problems))
  opened.simulation.runToEnd()
  return writeKept('yard', inputs, opened.simulation)
}

/** What a board would report of a program on limpet, a line a tick: as it goes in the simulation, every device looking in every tick. */
async function reportOf(program: string): Promise<readonly string[]> {
  const read = async (path: string): Promise<unknown> => JSON.parse(await readFile(`demo/${path}`, 'utf8'))
  const opened = await openRun({ robot: await read('robots/limpet.json'), arena: await read('arenas/fender-quay.json'), task: null, program, realism: 'ideal', seed: 1, limit: null })
  if (!opened.ok) throw new Error('it cannot run')
  const { simulation } = opened
  const { facts } = simulation
  const names = ['wheels', 'sonar', 'gyro']
  return Array.from({ length: 120 }, (_, tick) => {
    simulation.advance()
    const row = simulation.tape.at(tick)
    const { layout } = simulation.tape
    const reads = names.map((name) => { const d = facts.devices.find(x => x.name === name)!; return `${name}* ${d.readings.map((_r, i) => Number(row[layout.readings + d.first + i]!.toFixed(6))).join(' ')}` })
    return `tick ${tick} | 3 | ${reads.join('; ')} | wheels ${[0, 1, 2].map(i => Number(row[layout.commands + i]!.toFixed(6))).join(' ')}`
  })
}

const LATE = 'when sonar.distance < 3 cm\n  halt\n  wait 2 s\n  finish "alongside"\notherwise\n  drive 25 cm/s\n'

async function bench(program: string): Promise<{ page: Page, errors: string[], id: string }> {
  const id = await copyOf(inject('address'), 'Kiss the fender')
  await ask(inject('address'), `/api/projects/${id}/revisions`, { base: 1, program })
  const { page, errors } = await openPage(browser, `${inject('address')}/projects/${id}`)
  await until(page, `${hasText('.decide .head', 'ready to run')} && document.querySelector('.sense [data-device]') !== null`)
  for (let i = 0; i < 6; i++) await page.keyboard.press(']')
  return { page, errors, id }
}
const kept = (page: Page, count: number): Promise<void> => until(page, `document.querySelector('.tape .kept')?.textContent === '● kept' && performance.getEntriesByType('resource').filter(r => /\\/projects\\/[^/]+\\/runs$/.test(r.name.split('?')[0])).length >= ${count}`)

describe('kept runs', () => {
  test('by keys alone: a run that goes wrong, back to before it did, another threshold, on from there; both are kept, and where they went apart is found', async () => {
    const { page, errors, id } = await bench(LATE)
    await page.keyboard.press('Enter')
    await page.waitForSelector('.outcome[data-hash]')
    expect(await page.$$eval('.goal', all => all.map(g => g.getAttribute('data-status')))).toContain('failed')
    await kept(page, 1)
    const [first] = await keptOf(id)
    expect(first).toMatchObject({ revision: 2, origin: null, originTicks: null })
    // Back by the keys of the tape.
    await page.focus('canvas[role=slider]')
    for (let i = 0; i < 4; i++) await page.keyboard.press('PageUp')
    const from = first!.ticks - 1 - 4 * 50
    await until(page, `document.querySelector('canvas[role=slider]').getAttribute('aria-valuenow') === '${from}'`)
    await typeProgram(page, LATE.replace('3 cm', '13 cm'))
    await until(page, hasText('.decide .head', 'ready to run'))
    await page.keyboard.press('Escape')
    await page.evaluate(() => { (document.activeElement as HTMLElement).blur() })
    await page.keyboard.press('p')
    await until(page, hasText('.tape .hint', `went on at ${(from * 0.02).toFixed(2)} s · begins anew: the rule of line 1: its condition is another`))
    await page.waitForSelector('.outcome[data-hash]')
    expect(await text(page, '.outcome')).toContain('finished: alongside')
    await kept(page, 2)
    const [second] = await keptOf(id)
    expect(second).toMatchObject({ origin: first!.id, originTicks: from, outline: { ended: 'finished' } })
    // What was before the instant is still on the tape.
    await page.focus('canvas[role=slider]')
    await page.keyboard.press('Home')
    await until(page, `document.querySelector('canvas[role=slider]').getAttribute('aria-valuenow') === '0'`)
    // And why is answered there, by the program as it was.
    await page.keyboard.press('w')
    await until(page, `${hasText('.why', 'as it was before the run went on')} && ${hasText('.why', 'sonar.distance < 3 cm')}`)
    await page.keyboard.press('w')

    await go(page, `${inject('address')}/projects/${id}/runs`)
    await page.waitForSelector(`[data-run="${second!.id}"]`)
    await page.keyboard.press('x')
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('x')
    await until(page, hasText('[data-difference=B]', 'first differs at'))
    expect(await text(page, '[data-difference=B]')).toMatch(/rule 1 wants: true in A, false in B/)
    expect((await page.$$('.compare .way')).length).toBe(2)
    // A rule with another threshold is the same rule.
    expect(await text(page, '.figures')).toMatch(/when sonar\.distance < 13 cm\s*[\d.]+ %\s*[\d.]+ %/)
    const csv = await savedFile(page, () => page.click('[aria-label="csv of B"]'))
    const lines = Buffer.from(csv, 'base64').toString('utf8').split('\r\n')
    expect(lines[0]).toMatch(/^time \[s\],wheels\.speed \[cm\/s\],.*,robot\.z \[cm\]$/)
    expect(lines.length).toBe(first!.ticks + 2)
    expect(errors).toEqual([])
    await page.close()
  })

  test('one is opened on the bench, is the same to the bit when it is run again there, and goes on from any instant of it', async () => {
    const { page, errors, id } = await bench(LATE.replace('3 cm', '20 cm'))
    await page.keyboard.press('Enter')
    await page.waitForSelector('.outcome[data-hash]')
    await kept(page, 1)
    const hash = await page.$eval('.outcome', e => e.getAttribute('data-hash'))
    await go(page, `${inject('address')}/projects/${id}/runs`)
    await page.waitForSelector('[data-run]')
    await page.keyboard.press('Enter')
    await until(page, hasText('.tape .hint', 'the same to the bit when it is run again'))
    expect(await page.$eval('.outcome', e => e.getAttribute('data-hash'))).toBe(hash)
    await page.focus('canvas[role=slider]')
    for (let i = 0; i < 3; i++) await page.keyboard.press('PageUp')
    await page.keyboard.press('w')
    await until(page, hasText('.why', 'has control since'))
    await page.evaluate(() => { (document.activeElement as HTMLElement).blur() })
    for (let i = 0; i < 6; i++) await page.keyboard.press(']')
    await page.keyboard.press('p')
    await until(page, hasText('.tape .hint', 'all of the program goes on as it was'))
    await page.waitForSelector('.outcome[data-hash]')
    expect(await page.$eval('.outcome', e => e.getAttribute('data-hash'))).toBe(hash)
    expect(errors).toEqual([])
    await page.close()
  })

  test('a run is named, starred, saved as a file that the command line runs again, put away and brought back; a file brings one in', async () => {
    const { page, errors, id } = await bench(LATE.replace('3 cm', '15 cm'))
    await page.keyboard.press('Enter')
    await page.waitForSelector('.outcome[data-hash]')
    await kept(page, 1)
    await go(page, `${inject('address')}/projects/${id}/runs`)
    await page.waitForSelector('[data-run]')
    await page.click('.name input')
    await page.keyboard.type('a good one')
    await page.keyboard.press('Enter')
    await page.evaluate(() => { (document.activeElement as HTMLElement).blur() })
    await page.keyboard.press('s')
    await until(page, `document.querySelector('.does [aria-pressed=true]') !== null`)
    await expect.poll(async () => (await keptOf(id))[0]).toMatchObject({ name: 'a good one', starred: true })
    const file = await savedFile(page, () => page.click('[aria-label="Save it as a file"]'))
    const path = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'kept.mindrun')
    writeFileSync(path, Buffer.from(file, 'base64'))
    const { status, stdout } = spawnSync(process.execPath, ['--liftoff-only', '.build/cli.mjs', 'replay', path], { encoding: 'utf8' })
    expect([status, stdout]).toEqual([0, expect.stringContaining('the same to the bit')])
    await page.keyboard.press('Delete')
    await until(page, hasText('main', 'No runs yet'))
    await page.keyboard.down('Control')
    await page.keyboard.press('z')
    await page.keyboard.up('Control')
    await page.waitForSelector('[data-run]')
    const drop = (bytes: Buffer, name: string) => page.evaluate((b, n) => {
      const data = new DataTransfer()
      data.items.add(new File([Uint8Array.from(atob(b), c => c.charCodeAt(0))], n))
      document.querySelector('main')!.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }))
    }, bytes.toString('base64'), name)
    await drop(readFileSync(path), 'kept.mindrun')
    await until(page, `document.querySelectorAll('[data-run]').length === 2`)
    await drop(Buffer.from('no run'), 'other.mindrun')
    await until(page, hasText('.trouble', 'the file: this is no tape'))
    expect((await keptOf(id)).map(r => r.fingerprint)).toEqual(Array(2).fill((await keptOf(id))[0]!.fingerprint))
    expect(errors.filter(e => !e.includes('400'))).toEqual([])
    await page.close()
  })

  test('a value is traced of all, as it is and as it is off the first', async () => {
    const { page, id, errors } = await bench(demoProgram)
    await keepRuns(inject('address'), id, 2)
    await go(page, `${inject('address')}/projects/${id}/runs`)
    await until(page, `document.querySelectorAll('[data-run]').length === 2`)
    await page.keyboard.press('x')
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('x')
    await page.waitForSelector('.traced .column')
    await pick(page, '.traced .column', 'sonar.distance')
    await until(page, `document.querySelectorAll('.trace polyline').length === 2`)
    await page.click('[aria-label="as it is off A"], .traced .v-checkbox input')
    await until(page, `document.querySelectorAll('.trace polyline').length === 1`)
    expect(await text(page, '.traced p')).toMatch(/^B is off A by [\d.]+ cm in the mean, at the most [\d.]+ cm at [\d.]+ s$/)
    expect(errors).toEqual([])
    await page.close()
  })

  test('they tell what their robot is really like, and it is kept with it', async () => {
    const { page, id, errors } = await bench(demoProgram)
    const square = (side: string): string => `start\n  repeat 4 times\n    drive 60 cm at 25 cm/s\n    turn ${side} 90 deg\n  wait 0.5 s\n  finish "back"\n`
    for (const program of [square('left'), square('right'), 'start\n  drive 80 cm at 25 cm/s\n  wait 2 s\n  finish "there"\n']) {
      const body = await openYardRun(program)
      // Running it took all of this process: a connection that the server closed meanwhile is noticed first.
      await new Promise(done => setTimeout(done, 50))
      await fetch(`${inject('address')}/api/projects/${id}/runs`, { method: 'POST', headers: { 'content-type': 'application/octet-stream' }, body })
    }
    await go(page, `${inject('address')}/projects/${id}/runs`)
    await until(page, `document.querySelectorAll('[data-run]').length === 3`)
    for (let i = 0; i < 3; i++) { await page.keyboard.press('x'); await page.keyboard.press('ArrowDown') }
    await until(page, hasText('.measure', 'Measure the robot'))
    await page.click('.measure .v-btn')
    await until(page, hasText('.measure', 'wheels, by 3 ways'))
    expect(await text(page, '.measure pre')).toMatch(/radius 3\.[23]\d* ± .* cm \(by the document 3\.2 cm\)/)
    expect(await page.$$eval('.measure .led', all => all.length)).toBe(3)
    // What a sensor read beside what was found of it, drawn.
    expect(await page.$$eval('.measure .fit', all => all.map(e => e.ariaLabel))).toContain('gyro')
    expect(await page.$eval('.measure .fit[aria-label=gyro] canvas', e => [e.ariaLabel?.replace(/[\d.]+/g, 'N'), (e as HTMLCanvasElement).getContext('2d')!.getImageData(0, 0, e.width, e.height).data.some(x => x !== 0)])).toEqual(['N looks while it stood, off their mean; lines: the noise, ±N deg/s', true])
    await page.type('[aria-label="What is true in A"]', 'periscope 3 cm')
    await page.keyboard.press('Tab')
    await until(page, hasText('.measure', 'expected a device and a value, such as sonar 50 cm'))
    await page.click('[aria-label="What is true in A"]', { count: 3 })
    await page.keyboard.press('Backspace')
    await page.keyboard.press('Tab')
    await until(page, hasText('.measure', 'Keep it with the robot'))
    await page.evaluate(() => { [...document.querySelectorAll<HTMLElement>('.measure .v-btn')].find(b => b.textContent?.includes('Keep it') === true)!.click() })
    await until(page, hasText('.measure', '● kept with the robot'))
    await expect.poll(async () => Object.keys((await ask<{ robot: { measured?: { wheels?: object } } }>(inject('address'), `/api/projects/${id}`)).robot.measured?.wheels ?? {})).toEqual(['radius', 'track', 'difference'])
    await go(page, `${inject('address')}/projects/${id}`)
    await until(page, hasText('.decide', 'ready to run'))
    for (let i = 0; i < 2; i++) await page.keyboard.press('r')
    await until(page, hasText('.bar', 'measured'))
    await page.keyboard.press('Enter')
    await until(page, 'Number.parseFloat(document.querySelector(".clock").textContent) > 0.5')
    expect(errors).toEqual([])
    await page.close()
  })

  test('what a board reported becomes one, and it is said where the board did something else', async () => {
    const { page, id, errors } = await bench(demoProgram)
    await go(page, `${inject('address')}/projects/${id}/runs`)
    await until(page, hasText('main', 'No runs yet'))
    const drop = (report: string) => page.evaluate((text) => {
      const data = new DataTransfer()
      data.items.add(new File([text], 'serial.txt'))
      document.querySelector('main')!.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }))
    }, report)
    const lines = await reportOf(demoProgram)
    await drop(lines.join('\n'))
    await until(page, hasText('.told', 'From the board: 120 ticks, from tick 0 on. With the same readings the board did what is done here, in every tick.'))
    await expect.poll(async () => (await keptOf(id))[0]).toMatchObject({ name: 'from the board', ticks: 120 })
    await page.waitForSelector('[data-run]')
    await page.keyboard.press('Enter')
    await until(page, hasText('.tape .hint', 'the same to the bit when it is run again'))
    await go(page, `${inject('address')}/projects/${id}/runs`)
    await page.waitForSelector('[data-run]')
    await drop(lines.map((l, i) => i === 70 ? l.replace('wheels 2 0.25', 'wheels 2 0.2') : l).join('\n'))
    await until(page, hasText('.told', 'At 1.40 s (tick 70) what wheels is told: 2 0.2 0.25 on the board, 2 0.25 0.25 here.'))
    await drop('hello')
    await until(page, hasText('.trouble', 'serial.txt: the report: found 1 lines; expected lines such as "tick 12 |'))
    expect(errors).toEqual([])
    await page.close()
  })

  test('one that was left, for another or for another project, is kept as far as it came; a touch of the key is not', async () => {
    const { page, id } = await bench('otherwise -> turn right 40 deg/s\n')
    for (let i = 0; i < 4; i++) await page.keyboard.press('[')
    await page.keyboard.press('Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 1.5`)
    await page.keyboard.press('0')
    await until(page, hasText('.tape .kept', '● kept'))
    await page.keyboard.press('Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 0.1`)
    await page.keyboard.press('0')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) === 0`)
    const all = await keptOf(id)
    expect(all.map(r => r.outline.ended)).toEqual(['left'])
    await page.close()
  })

  /** Sets a run going, claps, closes the page in the middle of it; what the server has then. */
  async function closedInTheMiddle(program: string): Promise<Awaited<ReturnType<typeof keptOf>>> {
    const { page, id } = await bench(program)
    for (let i = 0; i < 4; i++) await page.keyboard.press('[')
    await page.keyboard.press('Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 0.1`)
    await page.keyboard.press('c')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 1.7`)
    await page.goto('about:blank')
    let all = await keptOf(id)
    for (let i = 0; i < 100 && all.length === 0; i++) { await new Promise(r => setTimeout(r, 100)); all = await keptOf(id) }
    await page.close()
    return all
  }

  test('one whose page is closed in the middle is kept by the server, as far as it came, once', async () => {
    const all = await closedInTheMiddle('otherwise -> turn right 40 deg/s\n')
    expect(all).toMatchObject([{ revision: 2, outline: { ended: 'left', pokes: 1 } }])
    expect(all[0]!.ticks).toBeGreaterThan(75)
  })

  test('also one that is larger than a page may say while it goes', async () => {
    const all = await closedInTheMiddle(`${'# What a good user writes to herself about every thing that she has seen.\n'.repeat(1000)}otherwise -> turn right 40 deg/s\n`)
    expect(all).toMatchObject([{ revision: 2, outline: { ended: 'left', pokes: 1 } }])
    expect(all[0]!.ticks).toBeGreaterThan(75)
  })

  test('at an instant: which line moves the wheels and set a memory, what was true, when a condition was true last, where it got nowhere', async () => {
    const { page, errors } = await bench('memory tries = 0\nwhen sonar.distance > 100 m for 1 s\n  halt\nwhen bumper_left.pressed or bumper_right.pressed once\n  set tries = tries + 1\n  drive back 5 cm at 20 cm/s\nwhen run.time > 25 s\n  finish "enough"\notherwise\n  drive 20 cm/s\n')
    await page.keyboard.press('Enter')
    await page.waitForSelector('.outcome[data-hash]')
    await page.keyboard.press('w')
    await until(page, `${hasText('.why', 'Memories')} && ${hasText('.why', 'set tries = tries + 1')}`)
    expect(await text(page, '.sense')).toMatch(/true [\d.]+ c?m · \d\.\d\d s old/)
    // No echo counts as farther than anything: when that was last is looked at.
    await page.evaluate(() => { [...document.querySelectorAll<HTMLElement>('.why .part')].find(p => p.textContent!.includes('sonar.distance > 100 m'))!.querySelector('button')!.click() })
    await until(page, hasText('.tape .hint', 'looking back'))
    await until(page, hasText('.why', '● sonar.distance > 100 m'))
    expect(errors).toEqual([])
    await page.close()
  })

  test('one goes on with other noise from an instant, and says so', async () => {
    const { page, errors, id } = await bench(LATE.replace('3 cm', '20 cm'))
    await page.keyboard.press('Enter')
    await page.waitForSelector('.outcome[data-hash]')
    await kept(page, 1)
    await page.focus('canvas[role=slider]')
    for (let i = 0; i < 4; i++) await page.keyboard.press('PageUp')
    await until(page, hasText('.tape', 'looking back'))
    await page.evaluate(() => { (document.activeElement as HTMLElement).blur() })
    await page.keyboard.press('y')
    await until(page, hasText('.tape .hint', 'all of the program goes on as it was'))
    await page.waitForSelector('.outcome[data-hash]')
    await kept(page, 2)
    const [second, first] = await keptOf(id)
    expect(second).toMatchObject({ origin: first!.id, outline: { pokes: 1 } })
    expect(second!.originTicks).toBeLessThan(first!.ticks - 150)
    expect(second!.fingerprint).not.toBe(first!.fingerprint)
    expect(errors).toEqual([])
    await page.close()
  })
})
