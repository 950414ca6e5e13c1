import { readFileSync } from 'node:fs'
import type { Browser, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest'
import { ask, copyOf, go, hasText, keepRuns, launch, openPage, pick, press, until } from './browser'

/** Reached by everybody: what axe-core finds on each view and state, in light and dark. */

let browser: Browser
beforeAll(async () => { browser = await launch() })
afterAll(() => browser.close())

const AXE = readFileSync('node_modules/axe-core/axe.min.js', 'utf8')

type Theme = 'paper' | 'night'

/** Sets the theme as another tab would: nothing on the page loses what it is at. */
async function setTheme(page: Page, theme: Theme): Promise<void> {
  await page.evaluate((newValue) => {
    localStorage.setItem('mindpath.theme', newValue)
    dispatchEvent(new StorageEvent('storage', { key: 'mindpath.theme', newValue, storageArea: localStorage }))
  }, JSON.stringify(theme))
  // Colours go over into one another.
  await until(page, `document.querySelector('.v-theme--${theme}') !== null && !document.getAnimations().some(a => a instanceof CSSTransition && a.playState === 'running')`)
}

/** What axe-core finds, a line for each element: all rules in the light theme, and once more in the dark one what colours alone decide. */
async function found(page: Page): Promise<readonly string[]> {
  await page.evaluate(AXE)
  const within = (rules: readonly string[] | null): Promise<readonly string[]> => page.evaluate(async (rules) => {
    const { axe } = globalThis as unknown as { axe: { run(context: Document, options: object): Promise<{ violations: { id: string, nodes: { html: string, failureSummary?: string }[] }[] }> } }
    const { violations } = await axe.run(document, { resultTypes: ['violations'], ...rules === null ? {} : { runOnly: rules } })
    return violations.flatMap(v => v.nodes.map(n => `${v.id}: ${n.html.slice(0, 160)} ${(n.failureSummary ?? '').split('\n').slice(1, 3).join(' ').trim()}`))
  }, rules)
  const light = await within(null)
  await setTheme(page, 'night')
  const dark = await within(['color-contrast', 'link-in-text-block'])
  await setTheme(page, 'paper')
  return [...light, ...dark.map(line => `in the dark: ${line}`)]
}

async function at(path: string, face: 'rules' | 'text' = 'rules'): Promise<Page> {
  return (await openPage(browser, `${inject('address')}${path}`, face)).page
}
const bench = async (title: string): Promise<string> => `/projects/${await copyOf(inject('address'), title)}`
const ready = async (page: Page): Promise<void> => { await until(page, `${hasText('.decide .head', 'ready to run')} && document.querySelector('.sense [data-device]') !== null`) }

describe('in light and in dark, axe-core finds nothing', () => {
  test('on the projects, with one being renamed, with what a new one begins with', async () => {
    const page = await at('/')
    await page.waitForSelector('.card svg')
    expect(await found(page)).toEqual([])
    await page.click('.card .does button')
    expect(await found(page)).toEqual([])
    await page.keyboard.press('Escape')
    await page.keyboard.press('n')
    await page.waitForSelector('[data-robot] svg')
    expect(await found(page)).toEqual([])
    await page.close()
  })
  test('on the bench as rules: at rest, with a menu, with the finder, with the keys, with the guide, while it runs, looking back with why', async () => {
    const page = await at(await bench('Fetch the floats'))
    await ready(page)
    expect(await found(page)).toEqual([])
    await page.focus('.row .more')
    await page.keyboard.press('Enter')
    await page.waitForSelector('.v-overlay--active .menu')
    expect(await found(page)).toEqual([])
    await page.keyboard.press('Escape')
    await page.click('.new-rule')
    await page.waitForSelector('.finder input')
    expect(await found(page)).toEqual([])
    await page.keyboard.press('Escape')
    await page.focus('.run')
    await page.keyboard.press('?')
    await page.waitForSelector('.v-overlay--active .sheet')
    expect(await found(page)).toEqual([])
    await page.keyboard.press('Escape')
    await until(page, `document.querySelector('.v-overlay--active .sheet, .v-overlay__scrim') === null`)
    await page.click('.help')
    await page.waitForSelector('.v-overlay--active [data-guide]')
    await page.click('.v-overlay--active [data-guide]')
    await page.waitForSelector('.guide')
    await until(page, `document.querySelector('.v-overlay--active .v-list') === null`)
    expect(await found(page)).toEqual([])
    // Open or not is remembered by the browser: the next test begins without it.
    await page.click('[aria-label="Put the guide away"]')
    await press(page, 'Control', 'Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 1`)
    await page.keyboard.press('w')
    await page.waitForSelector('.why')
    expect(await found(page)).toEqual([])
    await page.close()
  })
  test('on the bench as text, with mistakes; as a map; by hand', async () => {
    const page = await at(await bench('Lids home'), 'text')
    await ready(page)
    await page.click('.cm-content')
    await page.keyboard.type('drvie 3 cm\n')
    await page.waitForSelector('.notes .error')
    expect(await found(page)).toEqual([])
    await press(page, 'Control', 'z')
    await page.keyboard.press('F9')
    expect(await found(page)).toEqual([])
    await page.focus('.run')
    await page.keyboard.press('h')
    await until(page, hasText('.hand', '▶ by hand'))
    await page.keyboard.press('j')
    await page.waitForSelector('.hands')
    await page.click('[data-device=sonar] .reach')
    await page.waitForSelector('[data-device=sonar] .hand')
    expect(await found(page)).toEqual([])
    // Open or not is remembered by the browser.
    await page.keyboard.press('j')
    await page.close()
  })
  test('on the Robot view, of a device, with something wrong, and of the robot itself', async () => {
    const page = await at(`${await bench('Fetch the floats')}/robot`)
    await page.waitForSelector('[data-setting=range] input')
    expect(await found(page)).toEqual([])
    await page.click('[data-setting=range] input', { count: 3 })
    await page.keyboard.type('90 m')
    await until(page, hasText('.device', 'allowed is from'))
    expect(await found(page)).toEqual([])
    await page.click('.devices [data-device=""]')
    await page.waitForSelector('[data-body="chassis.clearance"]')
    expect(await found(page)).toEqual([])
    await page.close()
  })
  test('on the hardware, as would do and with something in the way', async () => {
    const page = await at(`${await bench('Kiss the fender')}/hardware`)
    await page.waitForSelector('.plan svg')
    expect(await found(page)).toEqual([])
    await pick(page, '[aria-label="bumper_left, port P4"] .line:nth-of-type(2)', 'D2')
    await page.waitForSelector('[aria-label="bumper_left, port P4"] .wrong')
    expect(await found(page)).toEqual([])
    await page.close()
  })
  test('on the runs, empty, listed and compared', async () => {
    const id = await copyOf(inject('address'), 'Kiss the fender')
    const page = await at(`/projects/${id}/runs`)
    await until(page, hasText('main', 'No runs yet'))
    expect(await found(page)).toEqual([])
    await keepRuns(inject('address'), id, 3)
    await go(page, `${inject('address')}/projects/${id}/runs`)
    await page.waitForSelector('[data-run]')
    await page.keyboard.press('x')
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('x')
    await page.waitForSelector('[data-difference=B]')
    expect(await found(page)).toEqual([])
    await page.close()
  })
  test('on the trials, empty with something wrong, in words, as charts of one dial and of two, as a table', async () => {
    const id = await copyOf(inject('address'), 'Kiss the fender')
    const page = await at(`/projects/${id}/trials`)
    await until(page, hasText('main', 'Nothing tried yet'))
    await page.click('input[aria-label="Last seed"]', { count: 3 })
    await page.keyboard.type('0')
    await until(page, hasText('.wrong', 'seeds'))
    expect(await found(page)).toEqual([])
    const { program } = await ask<{ program: string }>(inject('address'), `/api/projects/${id}`)
    const near = { name: 'near', from: '9 cm', to: '13 cm', count: 2 }
    for (const dials of [[near, { name: 'cruise', from: '20 cm/s', to: '30 cm/s', count: 2 }], [near]]) {
      await ask(inject('address'), `/api/projects/${id}/trials`, { plan: { mindpath: 'trials', version: 1, seeds: [1, 2], dials }, programs: [{ name: 'own', text: program }] })
    }
    await until(page, `document.querySelectorAll('[data-state=done]').length === 2`)
    const show = (words: string) => page.evaluate((t) => { [...document.querySelectorAll<HTMLElement>('.head button')].find(b => b.textContent.includes(t))!.click() }, words)
    for (const [plan, words, wait] of [[0, 'In words', '.one'], [0, 'Charts', '.chart canvas'], [0, 'Every run', '[data-trial]'], [1, 'Charts', '.maps td']] as const) {
      await page.evaluate((i) => { document.querySelectorAll<HTMLElement>('[data-plan]')[i]!.click() }, plan)
      await show(words)
      await page.waitForSelector(wait)
      expect(await found(page)).toEqual([])
    }
    await page.close()
  })
  test('on the Arena view, of the arena, of a thing with something wrong, and of a goal', async () => {
    const page = await at(`${await bench('Lids home')}/arena`)
    await page.waitForSelector('[data-reading="sonar.distance"]')
    expect(await found(page)).toEqual([])
    await page.click('[data-row="scatter[0]"]')
    await page.waitForSelector('[data-field=count] input')
    await page.click('[data-field=count] input', { count: 3 })
    await page.keyboard.type('900')
    await until(page, hasText('section.thing', 'allowed is'))
    await page.click('[data-goal=in-area] .sentence')
    await page.waitForSelector('.task [data-field=area]')
    expect(await found(page)).toEqual([])
    await page.close()
  })
})

test('the bench’s bar has all of its buttons in sight, on a tablet too, with the longest that it says and a horn to be heard', async () => {
  const page = await at(await bench('Night rounds'))
  await ready(page)
  await page.keyboard.press('Enter')
  await until(page, hasText('.pause', 'Pause'))
  for (const width of [1024, 1110, 1111, 1240, 1241, 1280, 1366, 1480, 1481, 1920]) {
    await page.setViewport({ width, height: 768 })
    await until(page, `innerWidth === ${width}`)
    expect(await page.$eval('.v-toolbar__content', e => [...e.querySelectorAll('button')].filter(b => { const { left, right } = b.getBoundingClientRect(); return left < 0 || right > innerWidth }).map(b => b.textContent))).toEqual([])
  }
  await page.close()
})
