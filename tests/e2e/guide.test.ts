import { inject } from 'vitest'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { Browser, Page } from 'puppeteer-core'
import { HOUSE, ask, go, hasText, launch, press, reload, typeProgram, until } from './browser'

/** The guide as somebody new goes through it: every step by really doing what it says. */

let browser: Browser
let page: Page
let demo = { id: '', program: '' }
const errors: string[] = []
beforeAll(async () => {
  const { id } = (await ask<{ id: string, title: string }[]>(inject('address'), '/api/projects')).find(p => p.title === 'Night rounds')!
  demo = await ask(inject('address'), `/api/projects/${id}`)
  browser = await launch()
  page = await browser.newPage()
  await page.evaluateOnNewDocument(() => { localStorage.setItem('mindpath.face', '"text"') })
  await page.setViewport(HOUSE)
  page.on('pageerror', e => errors.push(String(e)))
})
afterAll(async () => {
  await browser.close()
  // The guide leads to a demo project itself, and the page changed it: other files take copies of it.
  const { revision } = await ask<{ revision: number }>(inject('address'), `/api/projects/${demo.id}`)
  await ask(inject('address'), `/api/projects/${demo.id}/revisions`, { base: revision, program: demo.program })
})

const done = (step: string): Promise<void> => until(page, `document.querySelector('[data-step=${step}]')?.dataset.done === 'true'`)
const stands = async (): Promise<readonly string[]> => page.$$eval('[data-step]', all => all.filter(e => (e as HTMLElement).dataset['done'] === 'true').map(e => (e as HTMLElement).dataset['step']!))
async function run(program: string): Promise<void> {
  await typeProgram(page, program)
  await until(page, hasText('.decide .head', 'ready to run'))
  await press(page, 'Control', 'Enter')
}
/** The run, or the robot in the hand, goes on beyond the first second. */
const goesOn = (): Promise<void> => until(page, `Number.parseFloat(document.querySelector('.clock')?.textContent) > 1.2`)

describe('the guide', () => {
  test('is offered on the first page, and opens beside the Bench', async () => {
    await go(page, inject('address'))
    await page.waitForSelector('[data-guide]')
    await page.click('[data-guide]')
    await page.waitForSelector('.guide')
    await until(page, hasText('.guide', '0 of 8 done'))
  })
  test('the robot in the hand', async () => {
    await page.waitForSelector('.cm-content')
    await page.keyboard.press('h')
    await until(page, `document.querySelector('.bar .hand')?.getAttribute('aria-pressed') === 'true'`)
    await goesOn()
    await page.keyboard.down('ArrowUp')
    await done('hands')
    await page.keyboard.up('ArrowUp')
    expect(await stands()).toEqual(['hands'])
  })
  test('the smallest program, in a project of one’s own', async () => {
    await page.click('.home')
    await page.waitForSelector('[data-project]')
    await page.keyboard.press('n')
    await until(page, `document.activeElement?.matches('[data-create]')`)
    await page.keyboard.press('Enter')
    await until(page, `document.querySelectorAll('.empty button').length === 2`)
    await page.click('.empty button')
    await until(page, hasText('.decide .head', 'ready to run'))
    await press(page, 'Control', 'Enter')
    await done('smallest')
    expect(await stands()).toEqual(['hands', 'smallest'])
  })
  test('another threshold', async () => {
    await run('when sonar.distance < 45 cm\n  halt\notherwise\n  drive 20 cm/s\n')
    await done('tune')
    expect(await stands()).toEqual(['hands', 'smallest', 'tune'])
  })
  test('a demo project run as it is ticks nothing; a sense more does', async () => {
    await page.evaluate(() => { [...document.querySelectorAll<HTMLAnchorElement>('.guide a')].find(a => a.textContent === 'Night rounds')!.click() })
    await until(page, `document.querySelector('.bar .title input')?.value === 'Night rounds'`)
    await until(page, hasText('.decide .head', 'ready to run'))
    await press(page, 'Control', 'Enter')
    await goesOn()
    expect(await stands()).toEqual(['hands', 'smallest', 'tune'])
    await run('when sonar.distance < 35 cm\n  turn right 90 deg\nwhen bumper_left.pressed\n  drive -10 cm\notherwise\n  drive 22 cm/s\n')
    await done('sense')
  })
  test('the same rules in another order', async () => {
    await run('when bumper_left.pressed\n  drive -10 cm\nwhen sonar.distance < 35 cm\n  turn right 90 deg\notherwise\n  drive 22 cm/s\n')
    await done('urgency')
    expect(await stands()).toEqual(['hands', 'smallest', 'tune', 'sense', 'urgency'])
  })
  test('why', async () => {
    await page.keyboard.press('Escape')
    await page.evaluate(() => { (document.activeElement as HTMLElement | null)?.blur() })
    await page.keyboard.press('w')
    await done('why')
  })
  test('two modes, once it was in both', async () => {
    await run('mode rounds\n  when run.time > 5 s once -> go rest\n  otherwise -> drive 20 cm/s\nmode rest\n  start\n    wait 1 s\n    go rounds\n')
    await goesOn()
    expect(await stands()).not.toContain('modes')
    await done('modes')
  })
  test('a second lane ends it, and it can be begun again or put away', async () => {
    await run('lane rounds\n  otherwise -> drive 20 cm/s\nlane lights\n  when sonar.distance < 50 cm -> light lamp red\n  otherwise -> light lamp green\n')
    await done('lane')
    await until(page, hasText('.guide', 'All done'))
    await reload(page)
    await until(page, hasText('.guide', '8 of 8 done'))
    await page.click('[aria-label="Put the guide away"]')
    await until(page, `document.querySelector('.guide') === null`)
    expect(errors).toEqual([])
  })
})
