import type { Browser, Page } from 'puppeteer-core'
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, inject, test } from 'vitest'
import { copyOf, hasText, launch, openPage, press, reload, text, typeProgram, until } from './browser'

let browser: Browser
let page: Page
let errors: string[]
beforeAll(async () => { browser = await launch() })
// Each test has a page and a project of its own.
beforeEach(async () => {
  const copy = await copyOf(inject('address'), 'Find the buoy');
  ({ page, errors } = await openPage(browser, `${inject('address')}/projects/${copy}`))
  await page.waitForSelector('.sense [data-device=sonar]')
})
afterEach(() => page.close())
afterAll(() => browser.close())

const clock = async (): Promise<number> => Number.parseFloat(await text(page, '.clock'))
const passes = async (seconds: number): Promise<void> => until(page, `parseFloat(document.querySelector('.clock').textContent) > ${await clock() + seconds}`)

describe('Sense', () => {
  test('is live without a program, the arrow keys drive, and a proposed threshold goes into the program as a dial', async () => {
    await page.bringToFront()
    await page.keyboard.press('h')
    await until(page, hasText('.hand', '▶ by hand'))
    await passes(1.2)
    await page.keyboard.press('n')
    await page.keyboard.down('ArrowRight')
    await passes(0.8)
    await page.keyboard.up('ArrowRight')
    await passes(1.3)
    await page.keyboard.press('f')
    await until(page, `document.querySelectorAll('.situations li').length > 0`)
    const name = await page.evaluate(() => {
      const button = [...document.querySelectorAll<HTMLElement>('.situations button')].find(b => b.textContent === 'dial')!
      button.click()
      return button.closest('li')!.querySelector('b')!.textContent
    })
    await until(page, `document.querySelector('.cm-content').textContent.includes('dial ${name.split('.')[0]!}_limit = ')`)
  })
  test('what the program names is live beside the devices, and stands in the rules', async () => {
    await typeProgram(page, 'memory seen of color = false\nlet near = mean(sonar.distance, 0.2 s)\nlet twice(x) = x * 2\nwhen run.time > 0.4 s once -> set seen(red) = true\nwhen twice(near) < 1 cm or since(seen(blue)) < 1 s -> halt\notherwise -> turn right 40 deg/s\n')
    await until(page, hasText('.decide .head', 'ready to run'))
    await press(page, 'Control', 'Enter')
    await until(page, hasText('[data-named=seen]', 'red'))
    await until(page, `/^[0-9.]+ cm$/.test(document.querySelector('[data-named=near] [data-figure]').textContent)`)
    expect(await page.$$eval('[data-named]', all => all.map(e => e.getAttribute('data-named')))).toEqual(['seen', 'mean(sonar.distance, 0.2 s)', 'near', 'since(seen(blue))'])
    expect(errors).toEqual([])
  })
  test('lengths are shown in the unit one prefers', async () => {
    await page.keyboard.press('u')
    await until(page, `document.querySelector('[data-device=sonar] small').textContent === 'mm' || document.querySelector('[data-device=sonar] [data-figure]').textContent === 'no echo'`)
    expect(await text(page, '.sense .head button')).toContain('mm')
    await page.keyboard.press('u')
    await page.keyboard.press('u')
    await until(page, hasText('.sense .head button', 'cm'))
  })
  test('a camera shows its picture, and a colour is taught by pointing at it', async () => {
    await until(page, `document.querySelector('.picture').width === 160`)
    await page.click('.picture')
    await page.type('.teach input', 'planks')
    await page.click('.teach button')
    await until(page, `document.querySelector('.teach') === null`)
    await until(page, hasText('.bar', '● saved'))
    const robot = await page.evaluate(async () => {
      const project = await (await fetch(`/api/projects/${location.pathname.split('/').at(-1)}`)).json() as { robot: { colors: { name: string }[], devices: { name: string, settings: { colors?: string[] } }[] } }
      return { colors: project.robot.colors.map(c => c.name), cam: project.robot.devices.find(d => d.name === 'cam')!.settings.colors }
    })
    expect(robot.colors).toEqual(['planks'])
    expect(robot.cam).toContain('planks')
    expect(errors).toEqual([])
  })
  test('devices are folded and moved, by pointer and by key, and stay so', async () => {
    const { page, errors } = await openPage(browser, `${inject('address')}/projects/${await copyOf(inject('address'), 'Night rounds')}`, 'rules')
    await page.waitForSelector('[data-device=gyro]')
    const shown = () => page.$$eval('.sense [data-device]', all => all.map(e => e.getAttribute('data-device')))
    const before = await shown()
    await page.focus('[data-device=gyro] .name')
    await page.keyboard.down('Alt')
    await page.keyboard.press('ArrowUp')
    await page.keyboard.up('Alt')
    await until(page, `document.querySelectorAll('.sense [data-device]')[${before.indexOf('gyro') - 1}].dataset.device === 'gyro'`)
    await page.click('[data-device=gyro] .fold')
    await until(page, `document.querySelector('[data-device=gyro] .fold').getAttribute('aria-expanded') === 'false'`)
    expect(await page.$eval('[data-device=gyro] .body', e => getComputedStyle(e).display)).toBe('none')
    expect(await text(page, '[data-device=gyro] .worth')).toContain('deg')
    const now = await shown()
    await reload(page)
    await page.waitForSelector('[data-device=gyro]')
    expect(await shown()).toEqual(now)
    await page.click('[data-device=gyro] .fold')
    await page.evaluate(() => localStorage.removeItem('mindpath.sense.order'))
    expect(errors).toEqual([])
    await page.close()
  })
})
