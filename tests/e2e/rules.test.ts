import type { Browser, KeyInput, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest'
import { ask, copyOf, hasText, launch, openPage, press, text, typeProgram, until } from './browser'
import { sampled } from '../sample'

let browser: Browser
beforeAll(async () => { browser = await launch() })
afterAll(() => browser.close())

const saved = (page: Page) => until(page, hasText('.bar', '● saved'))
/** The program as it is saved. */
async function program(page: Page): Promise<string> {
  await saved(page)
  return page.evaluate(async () => ((await (await fetch(`/api/projects/${location.pathname.split('/').at(-1)}`)).json()) as { program: string }).program)
}
const becomes = async (page: Page, wanted: string): Promise<void> => {
  let now = ''
  for (let i = 0; i < 60; i++) {
    now = await program(page)
    if (now === wanted) return
    await new Promise(r => setTimeout(r, 100))
  }
  expect(now).toBe(wanted)
}
const offer = async (page: Page, what: string): Promise<void> => {
  await page.waitForSelector(`[data-offer=${JSON.stringify(what)}]`)
  await page.evaluate((t) => { document.querySelector<HTMLElement>(`[data-offer=${JSON.stringify(t)}]`)!.click() }, what)
}

async function fresh(text: string | null): Promise<{ page: Page, errors: string[] }> {
  const { id } = await ask<{ id: string }>(inject('address'), '/api/projects', {})
  if (text !== null) await ask(inject('address'), `/api/projects/${id}/revisions`, { base: 1, program: text })
  const opened = await openPage(browser, `${inject('address')}/projects/${id}`, 'rules')
  await opened.page.waitForSelector('.rules footer button')
  await opened.page.waitForSelector('.sense [data-device]')
  await opened.page.bringToFront()
  return opened
}

describe('Rules', () => {
  test('a newcomer: from nothing to a robot that wanders and turns away, without a word of syntax; then as text; then back to nothing', async () => {
    const { page, errors } = await fresh(null)
    let actions = 0
    const act = async (what: () => Promise<unknown>): Promise<void> => { actions++; await what() }
    await act(() => page.click('.first .new-rule'))
    await act(() => offer(page, 'sonar.distance < 30 cm'))
    await act(() => offer(page, 'turn right 90 deg'))
    await act(() => page.click('.new-otherwise'))
    await act(() => offer(page, 'drive 20 cm/s'))
    await until(page, hasText('.decide .head', 'ready to run'))
    await act(() => press(page, 'Control', 'Enter'))
    expect(actions).toBeLessThanOrEqual(15)
    await until(page, `document.querySelector('[data-row="3"][data-state=control]') !== null`)
    await until(page, `document.querySelector('[data-row="1"][data-state=control]') !== null`)
    await becomes(page, 'when sonar.distance < 30 cm\n  turn right 90 deg\notherwise\n  drive 20 cm/s\n')

    // What is typed and is no condition is refused, and nothing is changed.
    await page.click('.new-rule')
    await page.waitForSelector('.finder input')
    await page.keyboard.type('sonar.distance < <')
    await page.keyboard.press('Enter')
    await until(page, hasText('.finder .told', 'is no condition'))
    await page.keyboard.press('Escape')

    // A second rule; it comes last but for otherwise, and goes above by a key.
    await page.click('.new-rule')
    await offer(page, 'bumper_left.pressed')
    await offer(page, 'drive 20 cm')
    await page.focus('[data-key="0.1"]')
    await press(page, 'Alt', 'ArrowUp')
    const two = 'when bumper_left.pressed\n  drive 20 cm\nwhen sonar.distance < 30 cm\n  turn right 90 deg\notherwise\n  drive 20 cm/s\n'
    await becomes(page, two)
    expect(await page.evaluate(() => (document.activeElement as HTMLElement).dataset['key'])).toBe('0.0')

    // The same as text.
    await page.keyboard.press('F8')
    await page.waitForSelector('.cm-content')
    await typeProgram(page, two.replace('drive 20 cm\n', 'drive back 20 cm\n'))
    await page.keyboard.press('F2')
    await until(page, hasText('.rules', 'drive back'))

    // One history over both, back to where it began.
    await page.focus('[data-key="0.0"]')
    for (let i = 0; i < 30 && (await page.$$('.row')).length > 0; i++) {
      await press(page, 'Control', 'z')
      await page.evaluate(() => { document.querySelector<HTMLElement>('.handle, .first button')?.focus() })
    }
    await becomes(page, '')
    expect(errors).toEqual([])
    await page.close()
  })

  test('values are nudged, typed, converted and made dials in place; readings bring their own comparison', async () => {
    const { page, errors } = await fresh('when sonar.distance < 24 cm -> halt  # near\notherwise -> drive 20 cm/s\n')
    await page.focus('[data-key="0.0.w.2"]')
    await page.keyboard.press('ArrowUp')
    await page.keyboard.press('ArrowUp')
    await becomes(page, 'when sonar.distance < 26 cm -> halt  # near\notherwise -> drive 20 cm/s\n')
    expect(await page.evaluate(() => (document.activeElement as HTMLElement).dataset['key'])).toBe('0.0.w.2')
    await page.keyboard.press('Enter')
    await page.waitForSelector('.finder input')
    await page.keyboard.type('31')
    await page.keyboard.press('Enter')
    await until(page, hasText('[data-key="0.0.w.2"]', '31 cm'))
    await page.click('[data-key="0.0.w.2"]')
    await offer(page, '310 mm')
    await until(page, hasText('[data-key="0.0.w.2"]', '310 mm'))
    await page.click('[data-key="0.0.w.2"]')
    await page.keyboard.type('31 <')
    await page.keyboard.press('Enter')
    await until(page, hasText('.finder .told', 'cannot stand here'))
    await page.keyboard.press('Escape')
    await page.click('[data-key="0.0.w.2"]')
    await offer(page, 'a dial')
    await becomes(page, 'dial sonar_limit = 310 mm from 78 mm to 930 mm\n\nwhen sonar.distance < sonar_limit -> halt  # near\notherwise -> drive 20 cm/s\n')
    await page.waitForSelector('.dial input')
    await page.click('[data-key="0.0.w.0"]')
    await offer(page, 'floor.color is red')
    await becomes(page, 'dial sonar_limit = 310 mm from 78 mm to 930 mm\n\nwhen floor.color is red -> halt  # near\notherwise -> drive 20 cm/s\n')
    expect(errors).toEqual([])
    await page.close()
  })

  test('a nudge before a run changes what it changes: no sign of a rule goes and comes, nothing in the bar moves while it is saved', async () => {
    const id = await copyOf(inject('address'), 'Fetch the floats')
    const { page, errors } = await openPage(browser, `${inject('address')}/projects/${id}`, 'rules')
    await until(page, `${hasText('.decide .head', 'ready to run')} && document.querySelectorAll('.row[data-state]').length > 5`)
    await saved(page)
    await page.evaluate(() => {
      const w = globalThis as unknown as { gone: number, moved: Set<string>, drawn: number }
      w.gone = 0
      w.drawn = 0
      w.moved = new Set()
      const clear = CanvasRenderingContext2D.prototype.clearRect
      CanvasRenderingContext2D.prototype.clearRect = function (...box) { if (this.canvas.closest('.sense') !== null) w.drawn++; clear.apply(this, box) }
      const places = (): string => [...document.querySelectorAll('.bar .title, .bar .tabs a, .bar .v-btn, .decide .faces')].map((e) => { const b = e.getBoundingClientRect(); return `${b.left} ${b.width}` }).join(', ')
      w.moved.add(places())
      new MutationObserver((all) => {
        w.gone += all.filter(m => m.type === 'attributes' && m.oldValue !== null && (m.target as HTMLElement).dataset['state'] === undefined).length
      }).observe(document.querySelector('.rules')!, { subtree: true, attributeFilter: ['data-state'], attributeOldValue: true })
      new MutationObserver(() => w.moved.add(places())).observe(document.querySelector('.save')!, { subtree: true, characterData: true, childList: true, attributes: true })
    })
    // A number of a step: no threshold that a trace shows.
    await page.focus('.steps .number')
    const before = await page.$eval('.steps .number', e => e.textContent)
    await page.keyboard.press('ArrowUp')
    await until(page, hasText('.save', 'unsaved'))
    await saved(page)
    expect(await page.$eval('.steps .number', e => e.textContent)).not.toBe(before)
    expect(await page.evaluate(() => { const w = globalThis as unknown as { gone: number, moved: Set<string>, drawn: number }; return { gone: w.gone, places: w.moved.size, drawn: w.drawn } })).toEqual({ gone: 0, places: 1, drawn: 0 })
    // With a run under way, what the rules of another text say is taken away.
    await press(page, 'Control', 'Enter')
    await until(page, `document.querySelector('.row[data-state=control]') !== null`)
    await page.focus('.steps .number')
    await page.keyboard.press('ArrowDown')
    await until(page, `document.querySelectorAll('.row[data-state]').length === 0`)
    expect(errors).toEqual([])
    await page.close()
  })

  test('rules are switched off, joined, dragged to another mode; modes are made, renamed and gone to', async () => {
    const { page, errors } = await fresh('mode a\n  when run.time > 2 s -> halt\n  otherwise -> drive 9 cm/s\n')
    await page.focus('[data-key="0.0"]')
    await press(page, 'Alt', 'o')
    await until(page, `document.querySelector('.row.off') !== null`)
    await press(page, 'Alt', 'o')
    await press(page, 'Alt', 'a')
    await offer(page, 'sonar.distance < 30 cm')
    await press(page, 'Alt', 'f')
    await becomes(page, 'mode a\n  when run.time > 2 s and sonar.distance < 30 cm for 0.2 s -> halt\n  otherwise -> drive 9 cm/s\n')
    await page.click('.new-mode')
    await until(page, `document.activeElement?.dataset.key === '1.name'`)
    await page.keyboard.press('Enter')
    await page.keyboard.type('b')
    await page.keyboard.press('Enter')
    await becomes(page, 'mode a\n  when run.time > 2 s and sonar.distance < 30 cm for 0.2 s -> halt\n  otherwise -> drive 9 cm/s\n\nmode b\n  otherwise\n    halt\n')
    await page.$eval('[data-key="0.0"]', e => e.dispatchEvent(new DragEvent('dragstart', { bubbles: true })))
    await page.$eval('[data-key="1.0"]', e => e.dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true })))
    await becomes(page, 'mode a\n  otherwise -> drive 9 cm/s\n\nmode b\n  when run.time > 2 s and sonar.distance < 30 cm for 0.2 s -> halt\n  otherwise\n    halt\n')
    // A step is put in below the only one, and taken out again.
    await page.focus('[data-key="0.0.0"]')
    await press(page, 'Alt', 'Enter')
    await offer(page, 'go b')
    await until(page, `document.querySelectorAll('.card:first-of-type .stepline').length === 2 || document.querySelector('[data-card=a]').querySelectorAll('.stepline').length === 2`)
    await page.keyboard.press('F9')
    await page.waitForSelector('.map [data-mode=b]')
    await page.click('.map [data-mode=b]')
    await page.waitForSelector('.rules [data-card=b]')
    expect(errors).toEqual([])
    await page.close()
  })

  test('what is true, what is in control and what is outranked can be told while it runs', async () => {
    const { page, errors } = await fresh('when sonar.distance < 3 m -> drive 10 cm/s\nwhen sonar.distance < 2.9 m\n  drive 3 cm\notherwise -> halt\n')
    await until(page, hasText('.decide .head', 'ready to run'))
    await press(page, 'Control', 'Enter')
    await until(page, `document.querySelector('[data-row="1"]').dataset.state === 'control' && document.querySelector('[data-row="2"]').dataset.state === 'outranked'`)
    expect(await text(page, '[data-row="2"] [data-sign]')).toBe('◐')
    expect(await text(page, '[data-row="1"] [data-live]')).toMatch(/^● \d+(\.\d)? cm|^● no echo/)
    expect(await page.$$eval('.arrow small', all => all.map(e => e.textContent))).toEqual(['live', 'steps', 'live'])
    const before = await text(page, '[data-row="1"] [data-live]')
    await until(page, `document.querySelector('[data-row="1"] [data-live]').textContent.trim() !== ${JSON.stringify(before)}`)
    // A caret in the finder stays while the values go on.
    await page.click('[data-key="0.0.w.2"]')
    await page.keyboard.type('4')
    const then = await text(page, '.clock')
    await until(page, `document.querySelector('.clock').textContent !== ${JSON.stringify(then)}`)
    expect(await page.$eval('.finder input', e => [(e as HTMLInputElement).value, document.activeElement === e])).toEqual(['4', true])
    await page.keyboard.press('Escape')
    expect(errors).toEqual([])
    await page.close()
  })

  test('a line that cannot be read is marked; all else stays as rules, and comments are written in place', async () => {
    const { page } = await fresh('# plan\nwhen sonar.distance < 30 cm\n  drvie 9 cm  # oh\n  halt\notherwise -> halt\n')
    await page.waitForSelector('.stepline .unread')
    expect(await page.$$eval('.rules .row', all => all.length)).toBe(2)
    await until(page, hasText('.notes', 'drvie is not a step'))
    await page.click('.notes .fix')
    await until(page, `document.querySelector('.unread') === null`)
    await page.click('.row .comments button')
    await page.keyboard.down('Control')
    await page.keyboard.press('a')
    await page.keyboard.up('Control')
    await page.keyboard.type('keep off')
    await page.keyboard.press('Enter')
    await becomes(page, '# keep off\nwhen sonar.distance < 30 cm\n  drive 9 cm  # oh\n  halt\notherwise -> halt\n')
    await page.close()
  })

  test.each(sampled(['Night rounds', 'Fetch the floats', 'Lids home', 'Sort the floats', 'Find the buoy', 'Kiss the fender'], 3, 1))('%s is shown whole, and is the same text after', async (title) => {
    const id = await copyOf(inject('address'), title)
    const { page, errors } = await openPage(browser, `${inject('address')}/projects/${id}`, 'rules')
    await page.bringToFront()
    await page.waitForSelector('.row')
    const before = await program(page)
    expect(await page.$$('.unread')).toEqual([])
    await page.focus('.handle')
    await press(page, 'Alt', 'o')
    await until(page, hasText('.save', 'saved'))
    await press(page, 'Control', 'z')
    await becomes(page, before)
    expect(errors).toEqual([])
    await page.close()
  })
})

describe('Text', () => {
  const chord = async (page: Page, ...keys: KeyInput[]): Promise<void> => {
    for (const k of keys.slice(0, -1)) await page.keyboard.down(k)
    await page.keyboard.press(keys.at(-1)!)
    for (const k of keys.slice(0, -1)) await page.keyboard.up(k)
  }
  test('a program without modes is a ladder of its rules on the map, the one in control lit with its step', async () => {
    const { page, errors } = await fresh('when sonar.distance < 35 cm\n  turn right random 50 deg to 140 deg\notherwise -> drive 22 cm/s\n')
    await page.keyboard.press('F9')
    await page.waitForSelector('.ladder [data-rung]')
    expect(await page.$$eval('.ladder .when', all => all.map(e => e.firstChild!.textContent!.trim()))).toEqual(['sonar.distance < 35 cm', 'otherwise'])
    await press(page, 'Control', 'Enter')
    await until(page, hasText('.ladder .now .when', 'otherwise'))
    await until(page, hasText('.ladder .now .lit', 'drive 22 cm/s'))
    await until(page, hasText('.ladder .worth', 'cm'))
    // A press goes to the rule, in Rules.
    await page.click('.ladder [data-rung] button')
    await page.waitForSelector('.rules .row')
    expect(errors).toEqual([])
    await page.close()
  })
  test('formats, renames everywhere, mends by a key, tells what stands under the pointer', async () => {
    const { page, errors } = await fresh('mode   push # far\n  when sonar.distance<20 cm -> go push\n  otherwise\n     drvie 9 cm/s\n')
    await page.keyboard.press('F8')
    await until(page, hasText('.notes', 'drvie is not a step'))
    await chord(page, 'Control', '.')
    await until(page, hasText('.decide .head', 'ready to run'))
    await chord(page, 'Control', 'Alt', 'f')
    await becomes(page, 'mode push  # far\n  when sonar.distance < 20 cm -> go push\n  otherwise\n    drive 9 cm/s\n')
    await page.click('.cm-line')
    await chord(page, 'Control', 'Home')
    for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowRight')
    await chord(page, 'Control', 'Alt', 'r')
    await page.waitForSelector('.finder input')
    await page.keyboard.type('when')
    await page.keyboard.press('Enter')
    await until(page, hasText('.finder .told', 'when is a word of the language'))
    await chord(page, 'Control', 'a')
    await page.keyboard.type('shove')
    await page.keyboard.press('Enter')
    await becomes(page, 'mode shove  # far\n  when sonar.distance < 20 cm -> go shove\n  otherwise\n    drive 9 cm/s\n')
    const at = await page.$eval('.mp-reading', (e) => { const b = e.getBoundingClientRect(); return [b.left + 10, b.top + 6] as const })
    await page.mouse.move(at[0], at[1])
    await until(page, hasText('.mp-about', 'sonar.distance'))
    expect(await text(page, '.mp-about-now')).toMatch(/^now (\d|no echo)/)
    expect(errors).toEqual([])
    await page.close()
  })
  test('a word of the margin that is typed among steps moves out by itself, and one that stands there is moved by its mend', async () => {
    const { page, errors } = await fresh('when sonar.sees\n  halt\n')
    await page.keyboard.press('F8')
    await page.waitForSelector('.cm-content')
    await page.click('.cm-content')
    await press(page, 'Control', 'End')
    await page.keyboard.type('  otherwise -> drive 9 cm/s')
    await until(page, `document.querySelector('.cm-content').innerText.includes('\\notherwise -> drive 9 cm/s')`)
    await typeProgram(page, 'when sonar.sees\n  halt\n  otherwise -> drive 9 cm/s\n')
    await until(page, hasText('.notes', 'otherwise is no step: it stands beside the rule above'))
    await press(page, 'Control', '.')
    await until(page, `document.querySelector('.cm-content').innerText.includes('\\notherwise -> drive 9 cm/s')`)
    await until(page, hasText('.decide .head', 'ready to run'))
    // Each message has its page.
    await typeProgram(page, 'drive 9 cm\n')
    // The checker answers in its own time: the message is waited for, not any.
    await until(page, hasText('.notes', 'The step drive stands outside of any rule'))
    await page.click('.notes .ask')
    await until(page, hasText('.page', 'A step is done when a rule has control'))
    expect(errors).toEqual([])
    await page.close()
  })
  test('what a mode begins with is told to have control, and leads to its step', async () => {
    const { page, errors } = await fresh('mode look\n  start\n    wait 60 s\n  otherwise -> halt\n')
    await until(page, hasText('.decide .head', 'ready to run'))
    await chord(page, 'Control', 'Enter')
    await until(page, hasText('.decide .now', '▶ look start'), 10_000)
    await page.click('.decide .now')
    await until(page, 'document.activeElement?.closest("[data-row]") !== null', 10_000)
    expect(errors).toEqual([])
    await page.close()
  })
  test('what the conditions are worth stands behind their lines while it runs', async () => {
    const { page } = await fresh('when sonar.distance < 12 cm -> halt\notherwise -> drive 9 cm/s\n')
    await page.keyboard.press('F8')
    await until(page, hasText('.decide .head', 'ready to run'))
    await chord(page, 'Control', 'Enter')
    await until(page, `document.querySelector('.mp-worth')?.textContent.startsWith('○')`)
    await page.close()
  })
  test('a file dropped on the page is the program, and undo brings the old one back; what is no text changes nothing', async () => {
    const { page, errors } = await fresh('otherwise -> halt\n')
    const drop = (name: string, bytes: number[]) => page.evaluate((n, b) => {
      const data = new DataTransfer()
      data.items.add(new File([new Uint8Array(b)], n))
      document.body.dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: data }))
    }, name, bytes)
    await drop('odd.png', [137, 80, 78, 71, 0, 1, 255])
    await until(page, hasText('.told', 'odd.png is no text'))
    await becomes(page, 'otherwise -> halt\n')
    await drop('good.mindpath', [...new TextEncoder().encode('otherwise -> drive 8 cm/s\n')])
    await becomes(page, 'otherwise -> drive 8 cm/s\n')
    await page.focus('.handle')
    await press(page, 'Control', 'z')
    await becomes(page, 'otherwise -> halt\n')
    expect(errors).toEqual([])
    await page.close()
  })
})
