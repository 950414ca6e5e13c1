import { readFileSync } from 'node:fs'
import { strFromU8, unzipSync } from 'fflate'
import type { Browser, Page } from 'puppeteer-core'
import { afterAll, beforeAll, beforeEach, describe, expect, inject, test } from 'vitest'
import type { Wiring } from '../../core/robot'
import { ask, copyOf, go, hasText, launch, openPage, pick, press, reload, savedFile, text, until } from './browser'

let browser: Browser
let page: Page
let errors: string[]
let id = ''
beforeAll(async () => { browser = await launch() })
beforeEach(async () => {
  id = await copyOf(inject('address'), 'Kiss the fender');
  ({ page, errors } = await openPage(browser, `${inject('address')}/projects/${id}/hardware`))
  await page.waitForSelector('.plan svg')
  return () => page.close()
})
afterAll(() => browser.close())

const kept = async (of = id): Promise<Wiring | undefined> => (await ask<{ robot: { wiring?: Wiring } }>(inject('address'), `/api/projects/${of}`)).robot.wiring
/** Writes into a field, in place of what stands there. */
async function write(field: string, what: string): Promise<void> {
  await page.click(field, { count: 3 })
  await page.keyboard.type(what)
  await page.keyboard.press('Tab')
}
const board = async (name: string, robot = 'limpet'): Promise<void> => {
  await page.evaluate((wanted) => { [...document.querySelectorAll<HTMLElement>('.boards .v-list-item')].find(e => e.textContent?.startsWith(wanted) === true)!.click() }, name)
  await until(page, `document.querySelector('.plan svg title').textContent === ${JSON.stringify(`Wiring of ${robot} to ${name}`)}`)
}

describe('the Hardware view', () => {
  test('shows what would do for every board, and writes it into the robot by a key; undo takes it back', async () => {
    for (const [name, pin] of [['esp32', 'IO21'], ['firmata', 'D13'], ['rp2040', 'GP28']] as const) {
      await board(name)
      expect(await page.$$eval('.plan text', all => all.map(e => e.textContent))).toContain(pin)
    }
    expect(await text(page, '[aria-label="How it is wired"]')).toContain('As would do: the robot does not say yet.')
    await page.keyboard.press('k')
    await until(page, hasText('[aria-label="How it is wired"]', 'As the robot says.'))
    await expect.poll(async () => (await kept())?.board).toBe('rp2040')
    expect((await kept())!.ports['P2']).toMatchObject({ by: 'trigger and echo', divider: [10, 20] })
    await press(page, 'Control', 'z')
    await until(page, hasText('[aria-label="How it is wired"]', 'the robot does not say yet'))
    await expect.poll(() => kept()).toBeUndefined()
    expect(errors).toEqual([])
  })
  test('a board of one’s own is dropped, wired, travels with the robot and is put away; what is none is refused and named', async () => {
    const drop = (name: string, content: string) => page.evaluate((n, c) => {
      const data = new DataTransfer()
      data.items.add(new File([c], n))
      document.querySelector('.plan')!.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }))
    }, name, content)
    const rp2040 = JSON.parse(readFileSync('core/hardware/boards/rp2040.json', 'utf8')) as { name: string }
    await drop('odd.json', JSON.stringify({ ...rp2040, MHz: 'fast' }))
    await until(page, hasText('[role=alert]', 'odd.json is no board that can be used: MHz: found "fast"; expected a plain number without quotes'))
    await drop('same.json', JSON.stringify(rp2040))
    await until(page, hasText('[role=alert]', 'one of our boards is called so'))
    expect(await kept()).toBeUndefined()
    await drop('workbench.json', JSON.stringify({ ...rp2040, name: 'workbench', chip: 'RP2040 on a socket' }))
    await until(page, `document.querySelector('.plan svg title').textContent === 'Wiring of limpet to workbench'`)
    await until(page, hasText('[aria-label="The program on the board"]', 'memory: about'))
    await expect.poll(async () => (await kept())?.board).toBe('workbench')
    // A pin by hand leaves it with the robot; also where the robot is wired to another.
    await pick(page, '[aria-label="bumper_left, port P4"] .line:nth-of-type(2)', 'GP22')
    await expect.poll(async () => (await kept())?.ports['P4']?.pins).toEqual({ signal: 'GP22' })
    await board('esp32')
    await page.click('.keep')
    await expect.poll(async () => (await kept())?.board).toBe('esp32')
    expect((await kept())?.['own board']).toMatchObject({ name: 'workbench' })
    await reload(page)
    await until(page, hasText('.boards', 'RP2040 on a socket, of your own'))
    await page.evaluate(() => { [...document.querySelectorAll<HTMLElement>('button')].find(b => b.textContent?.includes('Put workbench away') === true)!.click() })
    await until(page, `!document.querySelector('.boards').textContent.includes('workbench')`)
    await expect.poll(async () => (await kept())?.['own board']).toBeUndefined()
    expect((await kept())?.board).toBe('esp32')
    expect(errors).toEqual([])
  })
  test('a pin that another has is said at both places, and in the plan', async () => {
    await pick(page, '[aria-label="bumper_left, port P4"] .line:nth-of-type(2)', 'D2 (left wheel, encoder a)')
    await until(page, hasText('[aria-label="bumper_left, port P4"] .wrong', 'D2 has encoder a of left wheel already; a pin takes one'))
    expect(await text(page, '.count')).toContain('✕ 1 in the way')
    expect(await text(page, '.said .error')).toContain('bumper_left: D2 has encoder a of left wheel already')
    await expect.poll(async () => (await kept())?.ports['P4']?.pins).toEqual({ signal: 'D2' })
    await page.click('[aria-label="How it is wired"] .v-btn')
    await until(page, hasText('.count', '● nothing in the way'))
  })
  test('another way to connect a device has its own lines, and a voltage its curve', async () => {
    await pick(page, '[aria-label="sonar, port P2"] .line', 'voltage')
    await until(page, hasText('[aria-label="sonar, port P2"]', 'a voltage that grows with the distance'))
    await pick(page, '[aria-label="sonar, port P2"] .line:nth-of-type(2)', 'A3')
    await page.click('[aria-label="sonar, port P2"] .more .v-btn')
    await until(page, `document.querySelectorAll('[aria-label="sonar, port P2"] .point').length === 2`)
    const far = '[aria-label="What sonar reads at point 2"]'
    await write(far, '2.5 kg')
    await until(page, hasText('[aria-label="sonar, port P2"] .wrong', 'expected a length'))
    await write(far, '2.5 m')
    await until(page, hasText('.count', '● nothing in the way'))
    await expect.poll(async () => (await kept())?.ports['P2']).toEqual({ by: 'voltage', pins: { signal: 'A3' }, curve: [{ volts: 0, reads: '0 cm' }, { volts: 5, reads: '2.5 m' }] })
    expect(errors).toEqual([])
  })
  test('of a joint behind a motor it asks how much its encoder counts; what is no number is kept as it was written, and told', async () => {
    const other = await copyOf(inject('address'), 'Fetch the floats')
    await go(page, `${inject('address')}/projects/${other}/hardware`)
    await board('atmega2560', 'cuttle')
    const lift = '[aria-label="lift, port C"]'
    await pick(page, `${lift} .line`, 'pin and direction')
    const counts = '[aria-label="Edges that the encoder of lift counts from end to end"]'
    await page.waitForSelector(counts)
    await until(page, hasText('[aria-label="How it is wired"]', 'how many edges the encoder of lift counts from one end to the other is not given'))
    await write(counts, 'many')
    await until(page, hasText('[aria-label="How it is wired"]', 'wiring.ports.C.counts "many": expected a plain number'))
    await write(counts, '950')
    await until(page, `!document.querySelector('[aria-label="How it is wired"]').textContent.includes('edges the encoder')`)
    await expect.poll(async () => (await kept(other))?.ports['C']?.counts).toBe(950)
    expect(errors).toEqual([])
  })
  test('hands over the plan as a drawing of its own, and prints it alone', async () => {
    const file = await savedFile(page, () => page.evaluate(() => { [...document.querySelectorAll('button')].find(b => b.textContent?.includes('Save the plan'))!.click() }))
    expect(Buffer.from(file, 'base64').toString()).toMatch(/^<svg xmlns="http:\/\/www\.w3\.org\/2000\/svg"[^]*limpet on atmega328p/)
    await page.emulateMediaType('print')
    const [top, width] = await page.$eval('.plan', e => { const { top: t, width: w } = e.getBoundingClientRect(); return [t, w] as const })
    expect([top, width]).toEqual([0, 1280])
    const covered = await page.evaluate(() => [[100, 20], [1200, 400], [60, 700]].map(([x, y]) => document.elementFromPoint(x!, y!)?.closest('.plan') !== null))
    expect(covered).toEqual([true, true, true])
  })
  test('hands over the program for a board by a key, in what that is programmed in, and says which of its lines have nothing there', async () => {
    const saved = async (): Promise<Record<string, Uint8Array>> => unzipSync(Buffer.from(await savedFile(page, () => page.keyboard.press('m')), 'base64'))
    await until(page, hasText('.carried', 'In C++: a function for each rule'))
    expect(await page.$$eval('.carried .said li', all => all.map(e => e.textContent))).toEqual([expect.stringMatching(/^●memory: about 1\d{3} of 2048 bytes/), expect.stringMatching(/^●flash: /), expect.stringMatching(/^●time: looks take about 0.4 ms of a tick of 20 ms, the program itself about 0.\d ms/)])
    const sketch = await saved()
    expect(Object.keys(sketch).sort()).toEqual(['README.md', 'limpet/hardware.h', 'limpet/limpet.ino', 'limpet/mindpath.h', 'limpet/program.h', 'wiring.svg'])
    expect(strFromU8(sketch['limpet/program.h']!)).toContain('bool when_0() { return sonar.distance < my.near; }')
    await board('firmata')
    await until(page, hasText('[aria-label=Wire]', 'the board reads and obeys. Programs go to atmega328p, atmega2560, rp2040, esp32.'))
    await board('rp2040')
    await until(page, hasText('.carried', 'In MicroPython: a function for each rule'))
    expect(await page.$('.carried .said .note')).toBe(null)
    const files = await saved()
    expect(Object.keys(files).sort()).toEqual(['README.md', 'hardware.py', 'main.py', 'mindpath.py', 'program.py', 'wiring.svg'])
    expect(strFromU8(files['program.py']!)).toContain('def when_0():\n    return sonar.distance < my.near')
    await go(page, `${inject('address')}/projects/${await copyOf(inject('address'), 'Fetch the floats')}/hardware`)
    await page.waitForSelector('.plan svg')
    await page.evaluate(() => { [...document.querySelectorAll<HTMLElement>('.boards .v-list-item')].find(e => e.textContent?.startsWith('rp2040') === true)!.click() })
    await page.waitForSelector('.carried .said .note')
    expect(await page.$$eval('.carried .said .note', all => all.map(e => e.textContent))).toEqual([
      expect.stringContaining('cam (lines 15, 31, 32): no such board can have one'),
      expect.stringContaining('lift (lines 13, 21, 36, 44): that it is blocked is not known'),
      expect.stringContaining('claw (lines 12, 25, 26, 28, 45): that it is blocked, and so whether it holds anything, is not known'),
    ])
  })
})
