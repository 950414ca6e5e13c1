import type { Browser, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { HOUSE, hasText, launch, text, typeProgram, until } from './browser'
import { serverOfItsOwn } from './setup'

/** What the page does when something under it is slow or fails. */

let browser: Browser
let project: string
let server: Awaited<ReturnType<typeof serverOfItsOwn>>

beforeAll(async () => {
  [browser, server] = await Promise.all([launch(), serverOfItsOwn()])
  const all = await (await fetch(`${server.address}/api/projects`)).json() as { id: string, title: string }[]
  project = `${server.address}/projects/${all.find(p => p.title === 'Night rounds')!.id}`
})
afterAll(() => Promise.all([browser.close(), server.end()]))

/** A page on which requests go through a hand: `answer` says what a matching one gets instead, null to let it pass. */
async function withHand(answer: (url: string) => string | 'wait' | null): Promise<{ page: Page, go: () => void }> {
  const page = await browser.newPage()
  await page.setViewport(HOUSE)
  let release: () => void = () => undefined
  const held = new Promise<void>((r) => { release = r })
  await page.setRequestInterception(true)
  page.on('request', (request) => {
    const given = answer(request.url())
    if (given === null) void request.continue()
    else if (given === 'wait') void held.then(() => request.continue())
    else void request.respond({ contentType: 'text/javascript', body: given })
  })
  return { page, go: release }
}

describe('while a project is on its way', () => {
  test('the Bench says that it opens it, takes no input and no keys, and shows no other program', async () => {
    // Reached from the list, so that the page itself asks for the project.
    const { page, go } = await withHand(url => /\/api\/projects\/[\w-]+$/.test(url) ? 'wait' : null)
    await page.goto(server.address, { waitUntil: 'domcontentloaded' })
    await page.waitForSelector('[data-project="Night rounds"] a')
    await page.evaluate(() => { document.querySelector<HTMLElement>('[data-project="Night rounds"] a')!.click() })
    await until(page, hasText('.gate [role=status]', 'opening the project'))
    for (const key of ['r', 'Space', 'h', 'n', '2'] as const) await page.keyboard.press(key)
    expect(await page.$$eval('.decide, .cm-content, .bar button', all => all.length)).toBe(0)
    go()
    await page.waitForSelector('.decide')
    await until(page, hasText('[role=status]', 'saved'))
    // None of the keys was kept: nothing runs, by hand or not, at the realism that projects begin with.
    expect(await page.$eval('.bar', e => e.textContent)).not.toContain('Pause')
    expect(await page.$eval('.bar .hand', e => e.getAttribute('aria-pressed'))).toBe('false')
    expect(page.url()).toContain('/projects/')
    await page.close()
  })
})

describe('a worker that fails', () => {
  test.each([
    ['the language', 'language.worker', '.failure', 'Checking the program failed'],
    ['the simulation', 'simulation.worker', '.card.problems', 'Something failed while'],
  ])('of %s is told and begun anew, and the page goes on', async (_what, script, where, says) => {
    let broken = true
    const { page } = await withHand(url => broken && url.includes(script) ? 'throw new Error("the wires are wet")' : null)
    await page.evaluateOnNewDocument(() => { localStorage.setItem('mindpath.face', '"text"') })
    await page.goto(project, { waitUntil: 'domcontentloaded' })
    await page.waitForSelector('.cm-content')
    await until(page, hasText(where, says))
    expect(await text(page, where)).toContain('the wires are wet')
    broken = false
    // What a worker fetches for itself, as the physics library's code, is held as well, and nobody here lets it go.
    page.removeAllListeners('request')
    await page.setRequestInterception(false)
    await typeProgram(page, script.startsWith('language') ? 'when sonr.distance < 20 cm -> halt\n' : 'otherwise\n  drive 15 cm/s\n')
    if (script.startsWith('language')) await until(page, hasText('.decide', 'no device named sonr'))
    else {
      await until(page, `document.querySelector('.bar .run')?.disabled === false`)
      await page.click('.bar .run')
      await until(page, `/[1-9]/.test(document.querySelector('.bar .clock')?.textContent ?? '')`)
      expect(await page.$(where)).toBeNull()
    }
    await page.close()
  })
})
