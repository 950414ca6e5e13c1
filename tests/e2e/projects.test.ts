import { spawnSync } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, Page } from 'puppeteer-core'
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from 'vitest'
import { copyOf, hasText, launch, openPage, press, reload, savedFile, until } from './browser'
import { serverOfItsOwn } from './setup'

let browser: Browser
let page: Page
let errors: string[]
let server: Awaited<ReturnType<typeof serverOfItsOwn>>
beforeAll(async () => { [browser, server] = await Promise.all([launch(), serverOfItsOwn()]) })
// Each test has a page of its own.
beforeEach(async () => { ({ page, errors } = await openPage(browser, server.address)) })
afterEach(() => page.close())
afterAll(() => Promise.all([browser.close(), server.end()]))

const titles = () => page.$$eval('[data-project]', all => all.map(e => e.getAttribute('data-project')))
const button = async (project: string, name: string) => {
  const card = await page.waitForSelector(`[data-project="${project}"]`)
  for (const b of await card!.$$('button')) if (await b.evaluate(e => e.textContent) === name) return b.click()
  throw new Error(`no button ${name}`)
}

describe('the first page', () => {
  test('lists the demo projects, each with a picture', async () => {
    // Pictures are fetched when they come into sight.
    await (await page.waitForSelector('[data-project="Night rounds"]'))!.scrollIntoView()
    await page.waitForSelector('[data-project="Night rounds"] svg')
    expect(await titles()).toEqual(expect.arrayContaining(['Kiss the fender', 'Night rounds']))
    expect(await page.$$eval('[data-project="Night rounds"] svg circle', c => c.length)).toBe(7)
  })
  test('loads little: under 400 kB compressed', async () => {
    // A profile of its own: nothing is in its cache.
    const own = await browser.createBrowserContext()
    const fresh = await own.newPage()
    const client = await fresh.createCDPSession()
    await client.send('Network.enable')
    let bytes = 0
    client.on('Network.loadingFinished', (e) => { bytes += e.encodedDataLength })
    await fresh.goto(server.address, { waitUntil: 'networkidle0' })
    await own.close()
    await page.bringToFront()
    expect(bytes).toBeGreaterThan(50_000)
    expect(bytes).toBeLessThan(400_000)
  })
  test('says more of a button in the landmark that has all notes', async () => {
    for (const b of await page.$$('button')) if ((await b.evaluate(e => e.textContent)).startsWith('Open a file')) await b.hover()
    const note = await page.waitForSelector('.v-tooltip .v-overlay__content', { visible: true })
    expect(await note!.evaluate(e => [e.textContent, e.closest('#overlays')?.ariaLabel])).toEqual(['A project from a zip; it can be dropped on the page too', 'Menus and notes'])
  })
  test('loads the Bench once the pointer comes to the projects, so that it is there when the click comes', async () => {
    const own = await browser.createBrowserContext()
    const fresh = await own.newPage()
    await fresh.goto(server.address, { waitUntil: 'networkidle0' })
    const scripts = (): Promise<number> => fresh.evaluate(() => performance.getEntriesByType('resource').filter(e => e.name.endsWith('.js') && !e.name.includes('.worker-')).length)
    const before = await scripts()
    await (await fresh.waitForSelector('[data-project="Night rounds"] a.title'))!.hover()
    await fresh.waitForNetworkIdle()
    const there = await scripts()
    expect(there).toBeGreaterThan(before + 3)
    await fresh.click('[data-project="Night rounds"] a.title')
    await until(fresh, hasText('.decide .head', 'ready to run'))
    // But for the workers' code, which no page holds.
    expect(await scripts()).toBe(there)
    await own.close()
    await page.bringToFront()
  })
  test('renames, duplicates, deletes and takes back', async () => {
    await button('Night rounds', 'Duplicate')
    await page.waitForSelector('[data-project="Night rounds, copy"]')
    await button('Night rounds, copy', 'Rename')
    await page.keyboard.type('Early rounds')
    await page.keyboard.press('Enter')
    await page.waitForSelector('[data-project="Early rounds"]')
    await button('Early rounds', 'Delete')
    await until(page, `!document.querySelector('[data-project="Early rounds"]')`)
    expect(await page.$eval('.undo', e => e.textContent)).toContain('Early rounds')
    await press(page, 'Control', 'z')
    await page.waitForSelector('[data-project="Early rounds"]')
  })
  test('a new project opens on an empty program that offers the smallest ones', async () => {
    await page.keyboard.press('n')
    await until(page, `document.activeElement?.matches('[data-create]')`)
    await page.keyboard.press('Enter')
    await until(page, hasText('.empty', 'An empty program'))
    await until(page, `document.querySelectorAll('.empty button').length === 2`)
    const offers = await page.$$('.empty button')
    expect(offers.length).toBe(2)
    await offers[0]!.click()
    await until(page, hasText('.cm-content', 'when sonar.distance < 30 cm'))
    await until(page, hasText('[role=status]', 'saved'))
    expect(errors).toEqual([])
  })
  test('a new project begins with the robot, the arena and the task that were chosen', async () => {
    await page.keyboard.press('n')
    await page.waitForSelector('[data-robot=cuttle] svg')
    // Tasks are those of the arena that is chosen.
    await page.click('[data-arena=float_landing]')
    await until(page, `document.querySelector('[data-task="Fetch the floats"]') !== null && document.querySelector('[data-task="Kiss the fender"]') === null`)
    await page.click('[data-robot=cuttle]')
    await page.click('[data-task="Fetch the floats"]')
    await page.type('.new input', 'Mine')
    await page.keyboard.press('Enter')
    await until(page, `document.querySelector('.bar .title input')?.value === 'Mine'`)
    await until(page, hasText('.act .goals', 'every float in home'))
    expect(await page.$$eval('.sense [data-device]', all => all.map(e => (e as HTMLElement).dataset['device']))).toContain('claw')
    expect(errors).toEqual([])
  })
  test('what a new project begins with is put away by Escape', async () => {
    await page.keyboard.press('n')
    await page.waitForSelector('[data-create]')
    await until(page, `document.activeElement?.matches('[data-create]')`)
    await page.keyboard.press('Escape')
    await until(page, `document.querySelector('[data-create]') === null`)
  })
  test('a project goes to a zip that the command line runs, and comes back by dropping it; what is none is refused and named', async () => {
    await page.waitForSelector('[data-project="Find the buoy"]')
    const bytes = await savedFile(page, () => button('Find the buoy', 'Save'))
    const zip = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'find-the-buoy.zip')
    writeFileSync(zip, Buffer.from(bytes, 'base64'))
    // After two seconds no goal is met, and the command says so by its status.
    const hash = (project: string): string => (JSON.parse(spawnSync('./mindpath', ['sim', project, '--seconds', '2', '--json'], { encoding: 'utf8' }).stdout) as { hash: string }).hash
    expect(hash(zip)).toBe(hash('demo/projects/find-the-buoy'))
    const drop = (base64: string, name: string) => page.evaluate((b, n) => {
      const data = new DataTransfer()
      data.items.add(new File([Uint8Array.from(atob(b), c => c.charCodeAt(0))], n))
      document.querySelector('main')!.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }))
    }, base64, name)
    await drop(Buffer.from('no zip').toString('base64'), 'odd.zip')
    await until(page, hasText('.trouble', 'odd.zip: the zip: it cannot be read as a zip. Nothing was taken.'))
    await drop(await bytes, 'find-the-buoy.zip')
    await until(page, `document.querySelector('.bar .title input')?.value === 'Find the buoy'`)
    await until(page, hasText('.decide .head', 'ready to run'))
    expect(errors).toEqual([])
  })
  test('is searched and ordered by name', async () => {
    await page.waitForSelector('[data-project="Night rounds"]')
    await page.keyboard.press('/')
    await page.keyboard.type('bollard limpet')
    await until(page, `[...document.querySelectorAll('[data-project]')].every(e => e.textContent.includes('bollard yard'))`)
    expect((await titles()).length).toBeGreaterThan(0)
    await page.keyboard.type(' nowhere')
    await until(page, hasText('main', 'No project of that name, robot or arena'))
    await page.keyboard.press('Escape')
    await page.click('[value=title]')
    await until(page, `document.querySelectorAll('[data-project]').length > 5`)
    const shown = await titles()
    expect(shown).toEqual([...shown].sort((a, b) => a!.localeCompare(b!, undefined, { numeric: true })))
    await page.click('[value=changed]')
  })
  test('of a long list a part is made, more as one goes down it, and all of it is searched', async () => {
    for (let i = 0; i < 60; i++) await copyOf(server.address, 'Night rounds')
    await reload(page)
    await until(page, hasText('main', 'Show'))
    expect((await titles()).length).toBe(48)
    expect(await titles()).not.toContain('Kiss the fender')
    await page.keyboard.press('/')
    await page.keyboard.type('kiss the fender')
    await page.waitForSelector('[data-project="Kiss the fender"]')
    await page.keyboard.press('Escape')
    await until(page, `document.querySelectorAll('[data-project]').length === 48`)
    await page.$eval('main', e => e.scrollIntoView({ block: 'end' }))
    await page.waitForSelector('[data-project="Kiss the fender"]')
  })
})
