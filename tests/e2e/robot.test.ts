import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, Page } from 'puppeteer-core'
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, inject, test } from 'vitest'
import { copyOf, hasText, launch, openPage, pick, text, typeProgram, until } from './browser'

let browser: Browser
let page: Page
let errors: string[]
beforeAll(async () => { browser = await launch() })
// Each test has a page and a project of its own.
beforeEach(async () => {
  const copy = await copyOf(inject('address'), 'Fetch the floats');
  ({ page, errors } = await openPage(browser, `${inject('address')}/projects/${copy}/robot`))
  await page.waitForSelector('[data-spot=sonar]')
})
afterEach(() => page.close())
afterAll(() => browser.close())

const value = (selector: string): Promise<string> => page.$eval(selector, e => (e as HTMLInputElement).value)
const choose = async (name: string) => { await page.bringToFront(); await page.click(`.devices [data-device="${name}"]`) }
async function type(selector: string, what: string): Promise<void> {
  await page.click(selector, { count: 3 })
  await page.keyboard.type(what)
}

describe('the Robot view', () => {
  test('moves a device with the pointer, in its true scale, and undoes it', async () => {
    await choose('floor')
    const before = await value('[data-mount=forward] input')
    const spot = (await (await page.$('svg [data-spot=floor] circle:last-of-type'))!.boundingBox())!
    await page.mouse.move(spot.x + spot.width / 2, spot.y + spot.height / 2)
    await page.mouse.down()
    await page.mouse.move(spot.x + spot.width / 2 - 40, spot.y + spot.height / 2, { steps: 4 })
    await page.mouse.up()
    const after = await value('[data-mount=forward] input')
    expect(Number.parseFloat(after)).toBeLessThan(Number.parseFloat(before) - 0.5)
    await until(page, hasText('.save', '● saved'))
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
    await page.keyboard.down('Control')
    await page.keyboard.press('z')
    await page.keyboard.up('Control')
    await until(page, `document.querySelector('[data-mount=forward] input').value === ${JSON.stringify(before)}`)
  })
  test('a wrong value is said where it stands; the last good robot stays', async () => {
    await choose('sonar')
    await type('[data-setting=range]', '90 m')
    await until(page, hasText('.device', 'allowed is from 0.2 m to 10 m'))
    await until(page, hasText('.save', 'the last good robot stays'))
    await type('[data-setting=range]', '180 cm')
    await until(page, hasText('.save', '● saved'))
  })
  test('two on one port are shown at once', async () => {
    await choose('sonar')
    await pick(page, '[data-field=port]', 'P2')
    await until(page, hasText('.devices table', 'two on one'))
    await pick(page, '[data-field=port]', 'P1')
    await until(page, `!(${hasText('.devices table', 'two on one')})`)
  })
  test('a posed joint moves the drawing, and is kept as a gesture', async () => {
    const shape = () => page.$$eval('svg path.part', all => all.map(e => e.getAttribute('d')).join())
    const before = await shape()
    await page.focus('[data-joint=lift] [role=slider]')
    await page.keyboard.press('PageUp')
    await page.waitForFunction((d: string) => [...document.querySelectorAll('svg path.part')].map(e => e.getAttribute('d')).join() !== d, { polling: 50 }, before)
    await page.click('.poses .new')
    await until(page, `document.querySelectorAll('.gesture').length === 3`)
  })
  test('dragging an arm on the drawing poses its joint', async () => {
    const lift = () => page.$eval('[data-joint=lift] [role=slider]', e => Number(e.getAttribute('aria-valuenow')))
    const before = await lift()
    const links = await page.$$('figure:nth-of-type(2) [data-link=lift]')
    const box = (await links[0]!.boundingBox())!
    await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.5)
    await page.mouse.down()
    await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.5 + 30, { steps: 4 })
    await page.mouse.up()
    expect(await lift()).toBeLessThan(before - 0.1)
  })
  test('the robot itself has its numbers, and wheels that can be taken off', async () => {
    await choose('')
    await type('[data-body="chassis.clearance"]', '90 cm')
    await until(page, hasText('.body', 'allowed is from 0.2 cm to 20 cm'))
    await type('[data-body="chassis.clearance"]', '2 cm')
    await page.evaluate(() => [...document.querySelectorAll<HTMLElement>('.body button')].find(b => b.textContent === 'Take them off')!.click())
    await until(page, `document.querySelector('[data-body="drive.track"]') === null`)
    await page.evaluate(() => [...document.querySelectorAll<HTMLElement>('.bar button')].find(b => b.textContent?.trim().startsWith('Undo'))!.click())
    await until(page, `document.querySelector('[data-body="drive.track"]') !== null`)
  })
  test('a robot is kept, taken, and deleted with undo', async () => {
    const kept = () => page.$$eval('.shelf [data-take]', all => all.map(e => e.getAttribute('data-take')))
    await page.waitForSelector('.shelf [data-take=winkle]')
    // One that is unlike those that are kept.
    await choose('sonar')
    await type('[data-setting=range]', '170 cm')
    await until(page, hasText('.save', '● saved'))
    const before = await kept()
    await page.click('.shelf .keep')
    await until(page, `document.querySelectorAll('.shelf [data-take]').length === ${before.length + 1}`)
    const name = (await kept()).find(n => !before.includes(n))!
    expect(name).toBe('cuttle_2')
    await page.click(`[aria-label="Delete ${name}"]`)
    await until(page, hasText('.shelf', `${name} is deleted`))
    expect(await kept()).toEqual(before)
    await page.click('.shelf .told button')
    await page.waitForSelector(`.shelf [data-take=${name}]`)
    await page.click(`[aria-label="Delete ${name}"]`)
    await until(page, hasText('.shelf', `${name} is deleted`))
  })
  test('a device is added on a free port and taken off again', async () => {
    const count = () => page.$$eval('.devices [data-device]', l => l.length)
    const before = await count()
    await pick(page, '.add', 'touch')
    await until(page, `document.querySelectorAll('.devices [data-device]').length === ${before + 1}`)
    await page.click('.add button:last-of-type')
    await until(page, `document.querySelectorAll('.devices [data-device]').length === ${before}`)
  })
  test('asked in turn, every device waits for all', async () => {
    const round = () => page.$$eval('.budget tbody td:nth-child(2)', all => all.map(e => e.textContent))
    const before = await round()
    await page.click('.looks [value="in turn"]')
    await page.waitForFunction((first: string) => document.querySelector('.budget tbody td:nth-child(2)')!.textContent !== first, { polling: 50 }, before[0]!)
    expect(new Set(await round()).size).toBe(1)
    await page.click('.looks [value="at once"]')
    await until(page, hasText('.save', '● saved'))
  })
  test('another robot is taken whole, and undone', async () => {
    const before = await page.$$eval('.devices [data-device]', l => l.length)
    await page.click('.shelf [data-take="a bare rover"]')
    await until(page, `document.querySelectorAll('.devices [data-device]').length === 1`)
    await page.keyboard.down('Control')
    await page.keyboard.press('z')
    await page.keyboard.up('Control')
    await until(page, `document.querySelectorAll('.devices [data-device]').length === ${before}`)
  })
  test('a file that is no robot changes nothing and says so', async () => {
    const odd = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'odd.json')
    writeFileSync(odd, '<robot/>')
    const [chooser] = await Promise.all([page.waitForFileChooser(), page.evaluate(() => [...document.querySelectorAll<HTMLElement>('.bar button')].find(b => b.textContent?.includes('Open a file'))!.click())])
    await chooser.accept([odd])
    await until(page, hasText('.told', 'odd.json is no robot document'))
    expect(await page.$$eval('.devices [data-device]', l => l.length)).toBeGreaterThan(5)
  })
  test('its open description is well-formed for a parser of its own', async () => {
    const found = await page.evaluate(async () => {
      let saved = ''
      const make = URL.createObjectURL.bind(URL)
      const done = new Promise<void>((resolve) => {
        URL.createObjectURL = (blob: Blob) => { void blob.text().then((t) => { saved = t; resolve() }); return make(blob) }
      });
      [...document.querySelectorAll('button')].find(b => b.textContent === 'URDF')!.click()
      await done
      const xml = new DOMParser().parseFromString(saved, 'application/xml')
      const links = new Set([...xml.querySelectorAll('robot > link')].map(l => l.getAttribute('name')))
      return {
        wrong: xml.querySelector('parsererror')?.textContent ?? null,
        // Every joint joins two links that there are, and each link but the chassis hangs on one.
        loose: [...xml.querySelectorAll('joint > parent, joint > child')].filter(e => !links.has(e.getAttribute('link'))).length,
        children: xml.querySelectorAll('joint > child').length, links: links.size,
      }
    })
    expect(found).toMatchObject({ wrong: null, loose: 0 })
    expect(found.children).toBe(found.links - 1)
  })
  test('a PNG becomes a picture of the display’s dots, is named anew, and programs know it by that name; what is no picture is refused', async () => {
    const add = async (file: string): Promise<void> => {
      const chosen = page.waitForFileChooser()
      await page.evaluate(() => { [...document.querySelectorAll('button')].find(b => b.textContent?.includes('Add a picture'))!.click() })
      await (await chosen).accept([file])
    }
    const odd = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'odd.png')
    writeFileSync(odd, 'no picture')
    await add(odd)
    await until(page, hasText('.told', 'odd.png is no picture that this browser can read'))
    await add('docs/screenshots/bench.png')
    await until(page, hasText('.told', 'Picture bench kept, 102 by 64 dots'))
    // All of it is lit or dark, and both are there.
    expect(await page.$eval('[data-picture=bench] canvas', (e) => {
      const { data, width, height } = (e as HTMLCanvasElement).getContext('2d')!.getImageData(0, 0, 102, 64)
      return [width, height, new Set(Array.from({ length: data.length / 4 }, (_, i) => data.slice(4 * i, 4 * i + 3).join())).size]
    })).toEqual([102, 64, 2])
    await type('[data-picture=bench] input', 'quay')
    await page.keyboard.press('Tab')
    await page.waitForSelector('[data-picture=quay]')
    await until(page, hasText('.save', '● saved'))
    await page.click('.tabs a')
    await page.waitForSelector('.cm-content')
    await typeProgram(page, 'start\n  show picture bench\n')
    await until(page, hasText('.notes', 'The robot keeps no picture named bench'))
    await typeProgram(page, 'start\n  show picture quay\n  wait 30 s\n')
    await until(page, `document.querySelector('.notes .error') === null`)
    await until(page, hasText('.decide .head', 'ready to run'))
    expect(errors).toEqual([])
  })
  test('what was changed here is on the bench', async () => {
    await choose('sonar')
    await type('[data-setting=range]', '180 cm')
    await until(page, hasText('.save', '● saved'))
    await page.click('.poses .new')
    await until(page, `document.querySelectorAll('.gesture').length === 3`)
    await until(page, hasText('.save', '● saved'))
    await page.click('.tabs a')
    await page.waitForSelector('.sense [data-device=sonar]')
    await until(page, hasText('.bar', '● saved'))
    const range = await page.evaluate(async () => {
      const id = location.pathname.split('/').at(-1)
      const project = await (await fetch(`/api/projects/${id}`)).json() as { robot: { devices: { name: string, settings: { range: string } }[], gestures: unknown[] } }
      return { range: project.robot.devices.find(d => d.name === 'sonar')!.settings.range, gestures: project.robot.gestures.length }
    })
    expect(range).toEqual({ range: '180 cm', gestures: 3 })
    expect(errors).toEqual([])
    expect(await text(page, '.sense h2')).toBe('Sense')
  })
})
