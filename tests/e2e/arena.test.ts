import type { Browser, Page } from 'puppeteer-core'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest'
import { ask, hasText, launch, openPage, press, savedFile, until } from './browser'

let browser: Browser
beforeAll(async () => { browser = await launch() })
afterAll(() => browser.close())

const PROGRAM = 'when sonar.distance < 20 cm -> finish "there"\notherwise -> drive 25 cm/s\n'

/** A project with a bare deck and no task, opened in its Arena view. */
async function bareArena(): Promise<{ page: Page, errors: string[], id: string }> {
  const robot = JSON.parse(readFileSync('demo/robots/limpet.json', 'utf8')) as unknown
  const arena = { mindpath: 'arena', version: 1, name: 'bare', size: ['2 m', '1.2 m'], start: { at: ['30 cm', '60 cm'], heading: '0 deg' } }
  const { id } = await ask<{ id: string }>(inject('address'), '/api/projects', { project: { title: 'Built here', robot, arena, task: null, program: PROGRAM } })
  const { page, errors } = await openPage(browser, `${inject('address')}/projects/${id}/arena`, 'rules')
  await page.waitForSelector('[data-thing="start[0]"]')
  return { page, errors, id }
}
const documents = async (id: string) => await (await fetch(`${inject('address')}/api/projects/${id}`)).json() as { arena: Record<string, unknown>, task: { goals: object[] } | null }

/** Where a place of the arena (metres) is on the page: the start, at 30 and 60 cm, and the scale of the drawing say. */
async function onPage(page: Page): Promise<(x: number, y: number) => { x: number, y: number }> {
  const at = await page.$eval('.plan svg', (svg) => {
    const box = svg.getBoundingClientRect()
    const [x, y, w] = svg.getAttribute('viewBox')!.split(' ').map(Number) as [number, number, number]
    return { left: box.left, top: box.top, x, y, metres: w / box.width }
  })
  return (x, y) => ({ x: at.left + (x - at.x) / at.metres, y: at.top + (1.2 - y - at.y) / at.metres })
}
async function dragOn(page: Page, from: { x: number, y: number }, to: { x: number, y: number }): Promise<void> {
  await page.bringToFront()
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2)
  await page.mouse.move(to.x, to.y)
  await page.mouse.up()
}

describe('the Arena view', () => {
  test('builds an arena and a task with the pointer; a program does it; undo takes all of it back', async () => {
    const { page, errors, id } = await bareArena()
    const place = await onPage(page)
    await page.click('[data-tool=walls]')
    await dragOn(page, place(1.7, 0.2), place(1.7, 1))
    await until(page, `document.querySelectorAll('[data-row^=walls]').length === 1`)
    // What the robot would sense from its start follows at once.
    await until(page, `parseFloat(document.querySelector('[data-reading="sonar.distance"] b')?.textContent ?? '999') < 140`)
    await page.click('[data-tool=areas]')
    await dragOn(page, place(1.4, 0.6), place(1.6, 0.8))
    await until(page, `document.querySelectorAll('[data-row^=areas]').length === 1`)
    await page.click('.task .add')
    await page.waitForSelector('[data-add=robot-in]', { visible: true })
    await page.click('[data-add=robot-in]')
    await until(page, hasText('.task .sentence', 'the robot in area_1'))
    await until(page, hasText('.save', '● saved'))
    const built = await documents(id)
    expect(built.arena['walls']).toEqual([{ from: ['170 cm', '20 cm'], to: ['170 cm', '100 cm'] }])
    expect(built.arena['areas']).toEqual([{ name: 'area_1', at: ['140 cm', '60 cm'], size: ['40 cm', '40 cm'] }])
    expect(built.task?.goals).toEqual([{ goal: 'robot-in', area: 'area_1' }])

    await page.click('.tabs a')
    await until(page, hasText('.decide .head', 'ready to run'))
    await page.keyboard.press('Enter')
    await until(page, `document.querySelector('.outcome')?.textContent.includes('finished: there') === true`)
    expect(await page.$eval('.goal', g => g.getAttribute('data-status'))).toBe('met')

    await page.click('.tabs a[href$="/arena"]')
    await page.waitForSelector('[data-thing="walls[0]"]')
    for (let i = 0; i < 12; i++) await press(page, 'Control', 'z')
    await until(page, `document.querySelectorAll('[data-row^=walls], [data-row^=areas], .task .sentence').length === 0`)
    await until(page, hasText('.save', '● saved'))
    const undone = await documents(id)
    expect(undone.task).toBeNull()
    expect([undone.arena['walls'] ?? [], undone.arena['areas'] ?? []]).toEqual([[], []])
    expect(errors).toEqual([])
    await page.close()
  })

  test('goes out as a drawing that the browser measures true to scale, and comes in from one; what was not understood is told', async () => {
    const { page, errors, id } = await bareArena()
    const place = await onPage(page)
    await page.click('[data-tool=walls]')
    await dragOn(page, place(1.7, 0.2), place(1.7, 1))
    await until(page, `document.querySelectorAll('[data-row^=walls]').length === 1`)
    const file = await savedFile(page, () => page.evaluate(() => { [...document.querySelectorAll<HTMLElement>('.bar button')].find(b => b.textContent?.trim() === 'SVG')!.click() }))
    const drawing = Buffer.from(file, 'base64').toString('utf8')
    // Chromium reads it by itself: pixels, 96 to an inch.
    const other = await browser.newPage()
    await other.setContent(`<body style="margin:0">${drawing.replace(/^<\?xml.*\n/, '')}</body>`)
    const measured = await other.evaluate(() => {
      const [page, wall] = ['svg', '#walls line'].map(q => document.querySelector(q)!.getBoundingClientRect()) as [DOMRect, DOMRect]
      return [page.width, page.height, wall.x, wall.bottom, wall.height].map(px => Math.round(px * 25.4 / 96))
    })
    await other.close()
    await page.bringToFront()
    expect(measured).toEqual([2000, 1200, 1700, 1000, 800])
    const [chooser] = await Promise.all([page.waitForFileChooser(), page.evaluate(() => { [...document.querySelectorAll<HTMLElement>('.bar button')].find(b => b.textContent?.trim() === 'Open')!.click() })])
    const path = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'quay.svg')
    writeFileSync(path, drawing.replace('</svg>', '<text x="1" y="1">quay</text><circle id="float" class="piece" cx="900" cy="900" r="50" fill="orange"/></svg>'))
    await chooser.accept([path])
    await until(page, hasText('.told', 'quay.svg: 1 wall, 1 piece. Not understood: text in line'))
    await until(page, hasText('.save', '● saved'))
    const { arena } = await documents(id)
    expect([arena['walls'], (arena['pieces'] as object[])[0], arena['start']]).toEqual([
      [{ from: ['170 cm', '20 cm'], to: ['170 cm', '100 cm'], thickness: '4 cm', color: 'grey' }],
      expect.objectContaining({ name: 'float', kind: 'float', at: ['90 cm', '30 cm'], diameter: '10 cm', color: 'orange' }), { at: ['30 cm', '60 cm'], heading: '0 deg' },
    ])
    expect(errors).toEqual([])
    await page.close()
  })

  test('timetables and what a belt is fed are written in fields; what is wrong in one is told there', async () => {
    const { page, errors, id } = await bareArena()
    const place = await onPage(page)
    for (const [tool, part, x] of [['lamps', 'on', 0.8], ['belts', 'feeder', 1.4]] as const) {
      await page.click(`[data-tool=${tool}]`)
      await page.mouse.click(place(x, 0.9).x, place(x, 0.9).y)
      await page.click(`[data-add-part=${part}]`)
    }
    await page.click('[data-field="items[0].count"] input', { count: 3 })
    await page.keyboard.type('90')
    await until(page, hasText('[data-part=items]', 'allowed'))
    await page.click('[data-field="items[0].count"] input', { count: 3 })
    await page.keyboard.type('4')
    await page.click('[data-row="lamps[0]"]')
    await page.click('[data-field="on[0].to"] input', { count: 3 })
    await page.keyboard.type('25 s')
    await page.click('[data-add-part=on]')
    await until(page, `document.querySelectorAll('[data-part=on] .one').length === 2`)
    await page.click('[aria-label="Remove on 2"]')
    await until(page, hasText('.save', '● saved'))
    const { arena } = await documents(id)
    expect((arena['lamps'] as { on: unknown }[])[0]!.on).toEqual([{ from: '0 s', to: '25 s' }])
    expect((arena['belts'] as { feeder: unknown }[])[0]!.feeder).toEqual({ items: [{ kind: 'float', shape: 'cylinder', diameter: '5 cm', height: '6 cm', color: 'orange', count: 4 }] })
    expect(errors).toEqual([])
    await page.close()
  })

  test('moves by the pointer onto the grid and by keys, chooses several with a box, and copies them', async () => {
    const { page, errors, id } = await bareArena()
    const place = await onPage(page)
    await page.click('[data-tool=pieces]')
    await page.mouse.click(place(0.8, 0.4).x, place(0.8, 0.4).y)
    await page.click('[data-tool=pieces]')
    await page.mouse.click(place(1.2, 0.8).x, place(1.2, 0.8).y)
    await until(page, `document.querySelectorAll('[data-row^=pieces]').length === 2`)
    await dragOn(page, place(1.2, 0.8), place(1.413, 0.907))
    await page.$eval('.plan svg', svg => (svg as SVGElement).focus())
    await page.keyboard.press('ArrowLeft')
    await until(page, hasText('.save', '● saved'))
    const at = async () => ((await documents(id)).arena['pieces'] as { at: unknown }[]).map(p => p.at)
    expect(await at()).toEqual([['80 cm', '40 cm'], ['139 cm', '90 cm']])
    await dragOn(page, place(0.6, 0.2), place(1.6, 1.1))
    await until(page, `document.querySelectorAll('.thing.chosen').length === 2`)
    await page.click('[data-field=group] input')
    await page.keyboard.type('posts')
    await until(page, hasText('[data-row="pieces[0]"]', 'posts'))
    await page.$eval('.plan svg', svg => (svg as SVGElement).focus())
    await page.keyboard.press('Escape')
    await until(page, `document.querySelectorAll('.thing.chosen').length === 0`)
    await page.click('[data-row="pieces[1]"]')
    await until(page, `document.querySelectorAll('.thing.chosen').length === 2`)
    await press(page, 'Control', 'c')
    await press(page, 'Control', 'v')
    await until(page, `document.querySelectorAll('[data-row^=pieces]').length === 4`)
    await page.click('[data-align=west]')
    await until(page, hasText('.save', '● saved'))
    expect(await at()).toEqual([['80 cm', '40 cm'], ['139 cm', '90 cm'], ['90 cm', '30 cm'], ['90 cm', '80 cm']])
    expect(errors).toEqual([])
    await page.close()
  })

  test('arenas and tasks are kept, taken as a copy, duplicated, deleted with undo, and go to a file', async () => {
    const { page, errors, id } = await bareArena()
    const kept = (kind: string) => page.$$eval(`[data-shelf=${kind}] [data-take]`, all => all.map(e => e.getAttribute('data-take')))
    await page.waitForSelector('[data-shelf=arena] [data-take=bollard_yard]')
    await page.click('[data-shelf=arena] .keep')
    await page.waitForSelector('[data-shelf=arena] [data-take=bare]')
    await page.click('[data-shelf=arena] [aria-label="copy bare"]')
    await page.waitForSelector('[data-shelf=arena] [data-take=bare_2]')
    await page.click('[data-shelf=arena] [data-take=bollard_yard]')
    await until(page, `document.querySelectorAll('[data-row^=walls]').length === 4`)
    // A task that names what the arena has not is shown with what is wrong; with its arena it is right.
    await page.click('[data-shelf=task] [data-take="Lids home"]')
    await until(page, hasText('.save', 'wrong in the task'))
    await page.click('[data-shelf=arena] [data-take=lid_deck]')
    await until(page, hasText('.save', '● saved'))
    await until(page, hasText('.task', 'every red_lid in red'))
    const taken = await documents(id)
    expect([taken.arena['name'], taken.task?.goals.length]).toEqual(['lid_deck', 5])
    expect(await page.$eval('[data-shelf=task] .keep', b => (b as HTMLButtonElement).disabled)).toBe(true)
    await page.click('.task [data-goal] [aria-label="Remove goal 1"]')
    await until(page, `!document.querySelector('[data-shelf=task] .keep').disabled`)
    await page.click('[data-shelf=task] .keep')
    await page.waitForSelector('[data-shelf=task] [data-take="Lids home 2"]')
    const file = await savedFile(page, () => page.evaluate(() => { [...document.querySelectorAll<HTMLElement>('.bar button')].find(b => b.textContent?.trim() === 'Save task')!.click() }))
    expect((JSON.parse(Buffer.from(file, 'base64').toString('utf8')) as { goals: object[] }).goals.length).toBe(4)
    for (const [kind, name] of [['task', 'Lids home 2'], ['arena', 'bare'], ['arena', 'bare_2']] as const) {
      const before = await kept(kind)
      await page.click(`[data-shelf=${kind}] [aria-label="Delete ${name}"]`)
      await until(page, hasText(`[data-shelf=${kind}]`, `${name} is deleted`))
      expect(await kept(kind)).toEqual(before.filter(n => n !== name))
    }
    await page.click('[data-shelf=arena] .told button')
    await page.waitForSelector('[data-shelf=arena] [data-take=bare_2]')
    await page.click('[data-shelf=arena] [aria-label="Delete bare_2"]')
    for (let i = 0; i < 4; i++) await press(page, 'Control', 'z')
    await until(page, `document.querySelectorAll('[data-row^=walls], .task .sentence').length === 0`)
    expect(errors).toEqual([])
    await page.close()
  })
})
