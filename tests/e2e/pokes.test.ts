import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest'
import { ask, copyOf, hasText, launch, openPage, pick, savedFile, typeProgram, until } from './browser'

/** Hands in a run, by pointer and by key, and the run kept with them. */

let browser: Browser
beforeAll(async () => { browser = await launch() })
afterAll(() => browser.close())

interface Kept { readonly ticks: number, readonly pokes: readonly { readonly poke: string, readonly tick: number }[] }

/** The run so far as the page keeps it, and what the command line says when it runs it again. */
async function kept(page: Page): Promise<{ readonly record: Kept, readonly status: number | null, readonly says: string }> {
  const file = await savedFile(page, () => page.click('.tape .keep'))
  const text = Buffer.from(file, 'base64').toString('utf8')
  const path = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'page.run.json')
  writeFileSync(path, text)
  const { status, stdout, stderr } = spawnSync(process.execPath, ['--liftoff-only', '.build/cli.mjs', 'replay', path], { encoding: 'utf8' })
  return { record: JSON.parse(text) as Kept, status, says: stdout + stderr }
}
const benchOf = async (title: string): Promise<{ page: Page, errors: string[] }> => benchAt(await copyOf(inject('address'), title))
async function benchAt(id: string): Promise<{ page: Page, errors: string[] }> {
  const opened = await openPage(browser, `${inject('address')}/projects/${id}`)
  await until(opened.page, hasText('.decide .head', 'ready to run'))
  await until(opened.page, `document.querySelector('.sense [data-device] [data-figure]')?.textContent.length > 0`)
  return opened
}
/** The same with a program of its own that runs, by one key. */
async function running(title: string, program: string): Promise<{ page: Page, errors: string[] }> {
  const opened = await benchOf(title)
  await typeProgram(opened.page, program)
  await until(opened.page, hasText('.decide .head', 'ready to run'))
  await opened.page.click('.head h2')
  await opened.page.keyboard.press('Enter')
  await until(opened.page, hasText('.now', 'rule 2'))
  return opened
}
const wheelsRest = `parseFloat(document.querySelector('[data-device=wheels] [data-figure]').textContent) === 0`
const hold = async (page: Page, device: string): Promise<void> => { await page.click(`[data-device=${device}] .reach`); await page.focus(`[data-device=${device}] .hand [role=slider]`) }
const button = (page: Page, words: string): Promise<void> => page.$$eval('.hands button', (all, w) => { all.find(b => b.textContent?.trim().startsWith(w))!.click() }, words)
const seconds = (page: Page): Promise<number> => page.$eval('.clock', e => parseFloat(e.textContent ?? ''))

/** Page pixels of a place of the arena (metres) on the plan, which fits it with 14 cm of room about it. */
async function placeOf(page: Page, size: readonly [number, number], x: number, y: number): Promise<{ readonly x: number, readonly y: number }> {
  const box = (await (await page.$('.stage'))!.boundingBox())!
  const scale = Math.min(box.width / (size[0] + 0.28), box.height / (size[1] + 0.28))
  return { x: box.x + box.width / 2 + (x - size[0] / 2) * scale, y: box.y + box.height / 2 - (y - size[1] / 2) * scale }
}

describe('hands in a run', () => {
  test('a hand before the sonar stops the robot, and it goes on when the hand goes; near and far by key', async () => {
    const { page, errors } = await running('Night rounds', 'when sonar.distance < 30 cm -> halt\notherwise -> drive 5 cm/s\n')
    await until(page, `${wheelsRest} === false`)
    await hold(page, 'sonar')
    await page.keyboard.press('Home')
    await until(page, hasText('.now', 'rule 1'))
    await until(page, wheelsRest)
    await page.keyboard.press('End')
    await until(page, hasText('.now', 'rule 2'))
    await page.click('[data-device=sonar] .hand button')
    await until(page, hasText('.now', 'rule 1'))
    // Where the hand goes, it uncovers the eye as well.
    await page.click('[data-device=sonar] .reach')
    await until(page, hasText('.now', 'rule 2'))
    const { record, status, says } = await kept(page)
    expect(record.pokes.map(p => p.poke)).toEqual(['hand', 'hand', 'cover', 'cover', 'hand'])
    expect(`${status} ${says}`).toMatch(/^0 .*the same to the bit/)
    expect(errors).toEqual([])
    await page.close()
  })

  test('twenty pokes of every kind, some while it stands: kept by the page, run again to the bit by the command line', async () => {
    // A robot with a switch to press, among loose pieces.
    const demo = (path: string): unknown => JSON.parse(readFileSync(`demo/${path}.json`, 'utf8'))
    const project = { title: 'Pontoon', robot: demo('robots/limpet'), arena: demo('arenas/pontoon'), task: demo('tasks/clear-the-pontoon'), program: readFileSync('demo/projects/clear-the-pontoon/program.mindpath', 'utf8') }
    const { page, errors } = await benchAt((await ask<{ id: string }>(inject('address'), '/api/projects', { project })).id)
    await page.click('.head h2')
    await page.keyboard.press('j')
    await page.waitForSelector('.hands')
    await page.keyboard.press('Enter')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > 0.5`)
    for (const device of ['sonar', 'rear']) {
      await hold(page, device)
      await page.keyboard.press('ArrowLeft')
      await page.keyboard.press('ArrowRight')
      await page.click(`[data-device=${device}] .hand button`)
      await page.click(`[data-device=${device}] .reach`)
    }
    await page.click('[data-device=bumper_left] .reach')
    await page.click('[data-device=bumper_left] .reach')
    await page.click('.head h2')
    await page.keyboard.press('c')
    await button(page, 'knock')
    // What stands goes on by a tick with each poke.
    await page.keyboard.press('F6')
    await until(page, hasText('.v-toolbar', 'Go on'))
    const stood = await seconds(page)
    await button(page, 'carry')
    await button(page, 'turn')
    await until(page, `parseFloat(document.querySelector('.clock').textContent) > ${stood}`)
    await page.focus('.light [role=slider]')
    for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowLeft')
    await pick(page, '.what', 'driftwood_1')
    await button(page, 'take away')
    await page.waitForFunction(() => document.querySelector('.hands')!.textContent!.includes('put back'))
    await button(page, 'put back')
    await button(page, 'knock')
    await page.keyboard.press('F6')
    await new Promise(r => setTimeout(r, 600))
    const { record, status, says } = await kept(page)
    expect(record.pokes.length).toBeGreaterThanOrEqual(20)
    expect(new Set(record.pokes.map(p => p.poke))).toEqual(new Set(['hand', 'cover', 'press', 'clap', 'knock', 'carry', 'dim', 'take', 'return']))
    expect(`${status} ${says}`).toMatch(/^0 .*the same to the bit/)
    expect(errors).toEqual([])
    await page.close()
  })

  test('a piece is dragged before the robot, which reacts; with Ctrl it is knocked', async () => {
    // Where the piece is put it is nearer than that by ten times what noise does; knocked, it slides off the quay.
    const { page, errors } = await running('Kiss the fender', 'when sonar.distance < 60 cm -> halt\notherwise -> drive 4 cm/s\n')
    const at = (x: number, y: number) => placeOf(page, [2.6, 1.4], x, y)
    const drag = async (from: { x: number, y: number }, to: { x: number, y: number }): Promise<void> => {
      await page.mouse.move(from.x, from.y)
      await page.mouse.down()
      await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2)
      await page.mouse.move(to.x, to.y)
      await page.mouse.up()
    }
    await drag(await at(0.6, 1.2), await at(1, 0.72))
    await until(page, hasText('.now', 'rule 1'))
    // What is to be knocked is taken where it is drawn.
    await page.evaluate(() => new Promise(r => setTimeout(r, 300)))
    await page.keyboard.down('Control')
    await drag(await at(1, 0.72), await at(1, 1.3))
    await page.keyboard.up('Control')
    await until(page, hasText('.now', 'rule 2'))
    const { record, status, says } = await kept(page)
    expect(record.pokes.at(-1)).toMatchObject({ poke: 'knock', what: 'crate_1', heading: expect.closeTo(-Math.PI / 2, 1) as number })
    expect(`${status} ${says}`).toMatch(/^0 .*the same to the bit/)
    expect(errors).toEqual([])
    await page.close()
  })
})
