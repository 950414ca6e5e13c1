import type { Browser, CDPSession, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest'
import { copyOf, go, hasText, keepRuns, launch, openPage, press, typeProgram, until } from './browser'
import { serverOfItsOwn } from './setup'

/** Reached without a mouse, without good eyes, by touch, at rest: what axe-core cannot tell. */

let browser: Browser
beforeAll(async () => { browser = await launch() })
afterAll(() => browser.close())

/** The program is checked, and the robot stands in its arena. */
const ready = (page: Page): Promise<void> => until(page, `${hasText('.decide .head', 'ready to run')} && document.querySelector('.sense [data-device]') !== null`)
async function benchOf(title: string, face: 'rules' | 'text' = 'rules'): Promise<Page> {
  const { page } = await openPage(browser, `${inject('address')}/projects/${await copyOf(inject('address'), title)}`, face)
  await ready(page)
  return page
}

/** Every control that shows and can be used, marked; their words. */
function controls(page: Page): Promise<readonly string[]> {
  return page.evaluate(() => {
    const all = [...document.querySelectorAll<HTMLElement>('a[href], button, input, select, textarea, [tabindex], [contenteditable=true]')].filter((e) => {
      const box = e.getBoundingClientRect()
      return e.tabIndex >= 0 && !e.matches(':disabled, [aria-disabled=true], [aria-hidden=true] *') && box.width > 0 && box.height > 0 && getComputedStyle(e).visibility === 'visible'
    })
    all.forEach((e, i) => { e.dataset['walk'] = String(i) })
    return all.map(e => `${e.tagName.toLowerCase()}.${String(e.className).split(' ').slice(0, 2).join('.')} ${(e.getAttribute('aria-label') ?? e.textContent ?? '').trim().slice(0, 40)}`)
  })
}

/** Goes through the page by Tab alone. What was not reached, and what does not show that it has the focus. */
async function walk(page: Page): Promise<{ readonly missed: readonly string[], readonly unseen: readonly string[] }> {
  await page.evaluate(() => { (document.activeElement as HTMLElement | null)?.blur() })
  const all = await controls(page)
  const reached = new Set<number>()
  const unseen: string[] = []
  let inEditor = false
  for (let i = 0; i < 2 * all.length + 40; i++) {
    // The editor keeps Tab for itself, but for the one that follows Escape.
    if (inEditor) await page.keyboard.press('Escape')
    await page.keyboard.press('Tab')
    const at = await page.evaluate(() => {
      const e = document.activeElement as HTMLElement | null
      if (e === null || e === document.body) return null
      const shows = (x: Element | null): boolean => x !== null && (parseFloat(getComputedStyle(x).outlineWidth) > 0 && getComputedStyle(x).outlineStyle !== 'none')
      // A field shows it on its border, a slider on its thumb, the editor by its caret.
      return { walk: Number(e.dataset['walk'] ?? -1), editor: e.matches('.cm-content'), shows: shows(e) || shows(e.closest('.v-field')) || shows(e.querySelector('.v-slider-thumb__surface')) || e.matches('.cm-content, .cm-scroller') || shows(e.closest('[data-row], .v-list-item')) }
    })
    inEditor = at?.editor === true
    if (at === null || at.walk === -1) continue
    if (!at.shows) unseen.push(all[at.walk]!)
    reached.add(at.walk)
    if (reached.size === all.length) break
  }
  // A list hands the focus on to one of its entries.
  const handedOn = new Set(await page.evaluate(() => [...document.querySelectorAll<HTMLElement>('.v-list[data-walk]')].filter(e => e.querySelector('.v-list-item') !== null).map(e => Number(e.dataset['walk']))))
  return { missed: all.filter((_, i) => !reached.has(i) && !handedOn.has(i)), unseen: [...new Set(unseen)] }
}

describe('by Tab alone every control is reached, and shows it', () => {
  test('on the projects, with what a new one begins with', async () => {
    // Few projects: of many, more come as one goes down them, and what says so goes.
    const server = await serverOfItsOwn()
    const { page } = await openPage(browser, server.address)
    await page.waitForSelector('.card svg')
    expect(await walk(page)).toEqual({ missed: [], unseen: [] })
    await page.keyboard.press('n')
    await page.waitForSelector('[data-robot] svg')
    expect(await walk(page)).toEqual({ missed: [], unseen: [] })
    await page.close()
    await server.end()
  })
  test('on the bench as rules, as text and as a map, with the guide', async () => {
    const page = await benchOf('Fetch the floats')
    await page.keyboard.press('j')
    await page.click('[data-device=sonar] .reach')
    await page.waitForSelector('[data-device=sonar] .hand')
    expect(await walk(page)).toEqual({ missed: [], unseen: [] })
    await page.keyboard.press('j')
    for (const [face, there] of [['F8', '.cm-content'], ['F9', '.map, .ladder']] as const) {
      await page.keyboard.press(face)
      await page.waitForSelector(there)
      expect([face, await walk(page)]).toEqual([face, { missed: [], unseen: [] }])
    }
    await page.close()
  })
  test('a border of the bench is moved by arrow keys, within its limits', async () => {
    const page = await benchOf('Night rounds')
    const width = (): Promise<number> => page.$eval('.sense', e => e.getBoundingClientRect().width)
    const before = await width()
    await page.focus('[aria-label="Border of Sense"]')
    for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight')
    await until(page, `document.querySelector('.sense').getBoundingClientRect().width === ${String(before + 48)}`)
    for (let i = 0; i < 30; i++) await page.keyboard.press('ArrowLeft')
    await until(page, `document.querySelector('.sense').getBoundingClientRect().width === 150`)
    for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight')
    await page.close()
  })
  test('on the Robot view', async () => {
    const { page } = await openPage(browser, `${inject('address')}/projects/${await copyOf(inject('address'), 'Fetch the floats')}/robot`)
    await page.waitForSelector('[data-setting=range] input')
    expect(await walk(page)).toEqual({ missed: [], unseen: [] })
    await page.close()
  })
  test('on the runs', async () => {
    const id = await copyOf(inject('address'), 'Kiss the fender')
    await keepRuns(inject('address'), id, 2)
    const { page } = await openPage(browser, `${inject('address')}/projects/${id}/runs`)
    await page.waitForSelector('[data-run]')
    await page.keyboard.press('x')
    await page.waitForSelector('.figures')
    expect(await walk(page)).toEqual({ missed: [], unseen: [] })
    await page.setViewport({ width: 640, height: 400, deviceScaleFactor: 2 })
    expect(await page.evaluate(() => document.scrollingElement!.scrollWidth)).toBeLessThanOrEqual(640)
    await page.close()
  })
  test('on the Arena view', async () => {
    const { page } = await openPage(browser, `${inject('address')}/projects/${await copyOf(inject('address'), 'Lids home')}/arena`)
    await page.waitForSelector('[data-reading="sonar.distance"]')
    await page.click('[data-row="scatter[0]"]')
    expect(await walk(page)).toEqual({ missed: [], unseen: [] })
    await page.close()
  })
})

describe('twice as large, in a window of 1280 by 800', () => {
  test('nothing lies beside the page, and Run, program, picture and tape can be scrolled to', async () => {
    const page = await benchOf('Fetch the floats')
    await page.setViewport({ width: 640, height: 400, deviceScaleFactor: 2 })
    await until(page, `getComputedStyle(document.querySelector('.bench')).display === 'flex'`)
    for (const part of ['.run', '.sense .row', '.decide .card', '.act canvas', '.tape canvas']) {
      const there = await page.$eval(part, (e) => { e.scrollIntoView({ block: 'center' }); const b = e.getBoundingClientRect(); return { left: b.left >= 0, right: b.right <= innerWidth, seen: b.bottom > 0 && b.top < innerHeight, large: b.height > 15 } })
      expect([part, there]).toEqual([part, { left: true, right: true, seen: true, large: true }])
    }
    expect(await page.evaluate(() => document.scrollingElement!.scrollWidth)).toBeLessThanOrEqual(640)
    await go(page, `${page.url()}/robot`)
    await page.waitForSelector('[data-setting] input')
    expect(await page.evaluate(() => document.scrollingElement!.scrollWidth)).toBeLessThanOrEqual(640)
    await go(page, inject('address'))
    await page.waitForSelector('.card')
    expect(await page.evaluate(() => document.scrollingElement!.scrollWidth)).toBeLessThanOrEqual(640)
    await page.close()
  })
})

describe('by touch on a tablet of 1024 by 768', () => {
  const touch = (client: CDPSession, type: 'touchStart' | 'touchMove' | 'touchEnd', ...points: (readonly [number, number])[]): Promise<unknown> =>
    client.send('Input.dispatchTouchEvent', { type, touchPoints: points.map(([x, y], id) => ({ x, y, id })) })
  test('a run is a tap, the tape is dragged, two fingers zoom the picture, one moves it', async () => {
    const page = await benchOf('Night rounds')
    await page.setViewport({ width: 1024, height: 768, hasTouch: true })
    // The page is loaded anew for fingers.
    await ready(page)
    const client = await page.createCDPSession()
    const middle = async (selector: string): Promise<readonly [number, number]> => page.$eval(selector, (e) => { const b = e.getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2] as const })
    const shot = (): Promise<string> => page.$eval('.act canvas', e => (e as HTMLCanvasElement).toDataURL())
    await page.tap('.run')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 2`)
    await page.tap('.pause')
    await until(page, hasText('.pause', 'Go on'))
    const now = await page.$eval('.clock', e => parseFloat(e.textContent ?? ''))
    const [tx, ty] = await page.$eval('.tape canvas', (e) => { const b = e.getBoundingClientRect(); return [b.x, b.y + b.height / 2] as const })
    await touch(client, 'touchStart', [tx + 40, ty])
    await touch(client, 'touchMove', [tx + 20, ty])
    await touch(client, 'touchEnd')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) < ${String(now - 0.5)}`)
    const before = await shot()
    const [x, y] = await middle('.act canvas')
    await touch(client, 'touchStart', [x - 30, y], [x + 30, y])
    for (let d = 40; d <= 110; d += 10) await touch(client, 'touchMove', [x - d, y], [x + d, y])
    await touch(client, 'touchEnd')
    await until(page, `document.querySelector('.act canvas').toDataURL() !== ${JSON.stringify(before)}`)
    const zoomed = await shot()
    await touch(client, 'touchStart', [x + 60, y + 60])
    for (let d = 50; d >= 0; d -= 10) await touch(client, 'touchMove', [x + d, y + d])
    await touch(client, 'touchEnd')
    await until(page, `document.querySelector('.act canvas').toDataURL() !== ${JSON.stringify(zoomed)}`)
    await page.close()
  })
})

describe('for those who want rest', () => {
  test('nothing on the page moves by itself where less motion is asked for', async () => {
    const page = await benchOf('Night rounds')
    await page.emulateMediaFeatures([{ name: 'prefers-reduced-motion', value: 'reduce' }])
    const slow = await page.evaluate(() => [...document.querySelectorAll('*')].filter((e) => {
      const s = getComputedStyle(e)
      return [...s.transitionDuration.split(','), ...s.animationDuration.split(',')].some(d => parseFloat(d) > 0.01)
    }).length)
    expect(slow).toBe(0)
    await page.close()
  })
  test('while it runs, the page speaks a few times and not with every value', async () => {
    const page = await benchOf('Night rounds', 'text')
    await typeProgram(page, 'when (every 0.1 s)\n  note "now"\nwhen sonar.distance < 60 cm\n  turn right 20 deg\notherwise\n  drive 30 cm/s\n')
    await ready(page)
    await page.evaluate(() => {
      const spoken: string[] = []
      Object.assign(globalThis, { spoken })
      new MutationObserver((list) => {
        for (const { target } of list) {
          const live = (target instanceof Element ? target : target.parentElement)?.closest('[role=status], [role=alert], [aria-live]:not([aria-live=off])')
          if (live != null) spoken.push(live.textContent ?? '')
        }
      }).observe(document.body, { subtree: true, childList: true, characterData: true })
    })
    await press(page, 'Control', 'Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 6`)
    const spoken = await page.evaluate(() => (globalThis as unknown as { spoken: string[] }).spoken)
    expect(spoken.some(s => /rule \d in control/.test(s))).toBe(true)
    // Six seconds: who is in control at most every four, saving and the run's own words beside.
    expect(spoken.length).toBeLessThan(12)
    await page.close()
  })
})
