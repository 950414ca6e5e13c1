import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { spawn, type ChildProcess } from 'node:child_process'
import type { Browser, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { copyOf, hasText, launch, openPage, press, reload, text, typeProgram, until } from './browser'
import { freePort, startServer } from './setup'

let browser: Browser
let server: ChildProcess
let port: number
const data = mkdtempSync(join(tmpdir(), 'mindpath-save-'))
let project: string

beforeAll(async () => {
  browser = await launch()
  port = await freePort()
  server = await startServer(port, data)
  const all = await (await fetch(`http://127.0.0.1:${port}/api/projects`)).json() as { id: string, title: string }[]
  project = `http://127.0.0.1:${port}/projects/${all.find(p => p.title === 'Night rounds')!.id}`
})
afterAll(async () => {
  await browser.close()
  server.kill('SIGKILL')
})

/** To the Robot view by its tab, and back. */
async function viewAndBack(page: Page): Promise<void> {
  await page.bringToFront()
  for (const [view, there] of [['Robot', 'main.columns'], ['Bench', '.decide']] as const) {
    await page.evaluate((name) => { [...document.querySelectorAll<HTMLElement>('.tabs a')].find(a => a.textContent === name)!.click() }, view)
    await page.waitForSelector(there)
  }
  await page.waitForSelector('.cm-content')
}

const saved = hasText('[role=status]', '● saved')

describe('saving', () => {
  test('what was shown as saved survives a reload and a kill -9 of the server', async () => {
    const { page } = await openPage(browser, project)
    await until(page, saved)
    await typeProgram(page, 'otherwise\n  drive 11 cm/s\n')
    await until(page, `!${saved}`)
    await until(page, saved)
    await reload(page)
    await until(page, hasText('.cm-content', 'drive 11 cm/s'))
    const ended = new Promise(r => server.once('exit', r))
    server.kill('SIGKILL')
    await ended
    // What is typed while the server is away is kept, said, and saved when it is back.
    await typeProgram(page, 'otherwise\n  drive 12 cm/s\n')
    await until(page, hasText('[role=status]', 'not saved'))
    server = await startServer(port, data)
    await until(page, saved)
    await reload(page)
    await until(page, hasText('.cm-content', 'drive 12 cm/s'))
    await page.close()
  })

  test('what cannot be saved stays over leaving the view, a reload and a closed tab, until the server is back', async () => {
    const { page } = await openPage(browser, project)
    await until(page, saved)
    await viewAndBack(page)
    const gone = new Promise(r => server.once('exit', r))
    server.kill('SIGKILL')
    await gone
    await typeProgram(page, 'otherwise\n  drive 13 cm/s\n')
    await until(page, hasText('[role=status]', 'not saved'))
    await viewAndBack(page)
    expect(await text(page, '.cm-content')).toContain('drive 13 cm/s')
    expect(await text(page, '[role=status]')).toContain('not saved')
    await page.close()
    server = await startServer(port, data)
    // Nothing was saved; the next tab takes up what the closed one left, and saves it.
    expect(await (await fetch(`http://127.0.0.1:${port}/api/projects/${project.slice(-36)}`)).text()).not.toContain('drive 13')
    const next = (await openPage(browser, project)).page
    await until(next, hasText('.cm-content', 'drive 13 cm/s'))
    await until(next, saved)
    expect(await (await fetch(`http://127.0.0.1:${port}/api/projects/${project.slice(-36)}`)).text()).toContain('drive 13')
    await next.close()
  })

  test('what was saved before is looked through, compared and brought back, and undo takes that back', async () => {
    const { page, errors } = await openPage(browser, `http://127.0.0.1:${port}/projects/${await copyOf(`http://127.0.0.1:${port}`, 'Kiss the fender')}`)
    await until(page, hasText('.decide .head', 'ready to run'))
    const first = await page.$eval('.cm-content', e => (e as HTMLElement).innerText)
    await typeProgram(page, 'otherwise -> drive 7 cm/s\n')
    await until(page, hasText('[role=status]', '● saved'))
    await page.evaluate(() => [...document.querySelectorAll<HTMLElement>('.strip button')].find(b => b.textContent === 'Revisions')!.click())
    await page.waitForSelector('[data-revision="1"]')
    await until(page, hasText('.sides', 'drive 7 cm/s'))
    expect(await page.$$eval('.sides .own', all => all.map(e => e.textContent!.trim()))).toEqual(expect.arrayContaining(['▸ otherwise -> drive 7 cm/s']))
    await page.click('.sides footer button')
    await until(page, `document.querySelector('.cm-content').innerText === ${JSON.stringify(first)}`)
    await until(page, hasText('[role=status]', '● saved'))
    await page.focus('.cm-content')
    await press(page, 'Control', 'z')
    await until(page, hasText('.cm-content', 'drive 7 cm/s'))
    expect(errors).toEqual([])
    await page.close()
  })
  test('what can be undone of the program stays over another view; a marked revision is said to be', async () => {
    const { page } = await openPage(browser, project)
    await until(page, saved)
    const before = await page.$eval('.cm-content', e => (e as HTMLElement).innerText)
    await typeProgram(page, 'otherwise\n  drive 9 cm/s\n')
    await until(page, hasText('.cm-content', 'drive 9 cm/s'))
    await viewAndBack(page)
    await page.click('.cm-content')
    for (let i = 0; i < 2; i++) await press(page, 'Control', 'z')
    await until(page, `document.querySelector('.cm-content').innerText === ${JSON.stringify(before)}`)
    await until(page, saved)
    await page.evaluate(() => { [...document.querySelectorAll('button')].find(b => b.textContent?.includes('Revisions'))!.click() })
    const star = '.sheet [data-revision] [aria-pressed]'
    await page.waitForSelector(star)
    await page.click(star)
    await until(page, `document.querySelector('${star}').getAttribute('aria-pressed') === 'true'`)
    await page.close()
  })
  test('two tabs never overwrite one another silently, and both texts stay', async () => {
    const one = (await openPage(browser, project)).page
    const two = (await openPage(browser, project)).page
    await until(one, saved)
    await until(two, saved)
    await typeProgram(one, 'otherwise\n  drive 21 cm/s\n')
    await until(one, `!${saved}`)
    await until(one, saved)
    await typeProgram(two, 'otherwise\n  drive 22 cm/s\n')
    await until(two, hasText('section.conflict', 'changed in another tab'))
    // Both texts are shown, and stay over leaving the view and over a reload.
    await viewAndBack(two)
    expect(await two.$$eval('[data-place="0"] pre', all => all.map(e => e.textContent?.trim()))).toEqual(['drive 22 cm/s', 'drive 21 cm/s'])
    expect(await text(two, '.cm-content')).toContain('drive 22 cm/s')
    await reload(two)
    await until(two, hasText('[data-place="0"] pre', 'drive 22 cm/s'))
    expect(await text(two, '.cm-content')).toContain('drive 22 cm/s')
    await two.click('[data-side=mine]')
    await until(two, saved)
    await reload(one)
    await until(one, hasText('.cm-content', 'drive 22 cm/s'))
    // The other way round: theirs goes on, mine is kept as a revision.
    await typeProgram(one, 'otherwise\n  drive 31 cm/s\n')
    await until(one, `!${saved}`)
    await until(one, saved)
    await typeProgram(two, 'otherwise\n  drive 32 cm/s\n')
    await until(two, hasText('section.conflict', 'changed in another tab'))
    await two.click('[data-side=theirs]')
    await until(two, hasText('.cm-content', 'drive 31 cm/s'))
    await until(two, saved)
    // Place by place: the condition of one, the speed of the other.
    await reload(one)
    await until(one, saved)
    await typeProgram(one, 'when sonar.distance < 41 cm\n  halt\notherwise\n  drive 41 cm/s\n')
    await until(one, `!${saved}`)
    await until(one, saved)
    await typeProgram(two, 'when sonar.distance < 42 cm\n  halt\notherwise\n  drive 42 cm/s\n')
    await until(two, hasText('section.conflict', 'differ in 2 places'))
    await two.click('[data-place="0"] [value=theirs]')
    await two.click('[data-side=chosen]')
    await until(two, saved)
    expect(await (await fetch(`http://127.0.0.1:${port}/api/projects/${project.slice(-36)}`)).json()).toMatchObject({ program: 'when sonar.distance < 41 cm\n  halt\notherwise\n  drive 42 cm/s\n' })
    await one.close()
    await two.close()
  })
})

describe('the server', () => {
  const post = (path: string, body: unknown, headers: Record<string, string> = { 'content-type': 'application/json' }) =>
    fetch(`http://127.0.0.1:${port}${path}`, { method: 'POST', headers, body: typeof body === 'string' ? body : JSON.stringify(body) })
  const id = () => project.slice(-36)

  test('refuses what it cannot take, and says what it wants', async () => {
    expect((await post('/api/projects', '{"title"')).status).toBe(400)
    expect((await post('/api/projects', '{}', { 'content-type': 'text/plain' })).status).toBe(415)
    expect((await post(`/api/projects/${id()}/revisions`, { base: 'one', program: 3 })).status).toBe(400)
    const answer = await post(`/api/projects/${id()}/revisions`, { base: 0, program: 'x' })
    expect(answer.status).toBe(400)
    expect(JSON.stringify(await answer.json())).toContain('base')
    expect((await post(`/api/projects/${id()}/revisions`, { base: 1, program: 'x'.repeat(500_000) })).status).toBe(400)
    expect((await post('/api/runs', { project: id(), realism: 'perfect' })).status).toBe(400)
    expect((await fetch(`http://127.0.0.1:${port}/api/projects/00000000-0000-0000-0000-000000000000`)).status).toBe(404)
  })
  test('cuts a body off where it is too large, however it comes, and takes no nesting without end and no reserved names', async () => {
    // Streamed without a length, for ever: the answer comes while it still flows.
    const { request } = await import('node:http')
    const [status, sent] = await new Promise<[number | string | undefined, number]>((resolve) => {
      let bytes = 0
      let over = false
      const ask = request({ host: '127.0.0.1', port, path: '/api/projects', method: 'POST', headers: { 'content-type': 'application/json' } }, (r) => { over = true; resolve([r.statusCode, bytes]); ask.destroy() })
      // Who goes on writing may find the connection closed before the answer is read.
      ask.on('error', () => { over = true; resolve(['closed', bytes]) })
      const part = Buffer.alloc(100_000, 'x')
      const flow = (): void => {
        if (over || bytes > 60_000_000) return
        bytes += part.length
        if (ask.write(part)) setImmediate(flow)
        else ask.once('drain', flow)
      }
      flow()
    })
    expect([413, 'closed']).toContain(status)
    expect(sent).toBeLessThan(40_000_000)
    const deep = await post('/api/shelf/robot', `{"value":${'['.repeat(50_000)}${']'.repeat(50_000)}}`)
    expect([deep.status, await deep.text()]).toEqual([400, expect.stringContaining('deep')])
    const named = await post('/api/shelf/robot', '{"value":{"mindpath":"robot","constructor":{"a":1},"__proto__":{"x":1}}}')
    expect([named.status, await named.text()]).toEqual([400, expect.stringContaining('constructor')])
  })
  test('gives its answers the headers that keep them data', async () => {
    for (const path of ['/api/projects', '/api/status', '/api/projects/none']) {
      const { headers } = await fetch(`http://127.0.0.1:${port}${path}`)
      expect([path, headers.get('x-content-type-options'), headers.get('referrer-policy')]).toEqual([path, 'nosniff', 'no-referrer'])
      expect(headers.get('content-security-policy')).toContain("frame-ancestors 'none'")
    }
  })
  test('turns away runs beyond what it can do with a sentence, and ends those nobody waits for', async () => {
    const all = await Promise.all(Array.from({ length: 40 }, () => post('/api/runs', { project: id(), realism: 'ideal' })))
    const turned = all.filter(a => a.status === 503)
    expect(turned.length).toBeGreaterThan(0)
    expect((await turned[0]!.json() as { message: string }).message).toContain('Too many runs')
    expect(all.every(a => [200, 422, 503].includes(a.status))).toBe(true)
  }, 120_000)
  test('a second one on the same folder says so and ends', async () => {
    const second = spawn(process.execPath, ['.output/server/index.mjs'], { env: { ...process.env, PORT: String(await freePort()), HOST: '127.0.0.1', MINDPATH_DATA: data }, stdio: ['ignore', 'ignore', 'pipe'] })
    let said = ''
    second.stderr.on('data', (part) => { said += String(part) })
    const code = await new Promise(r => second.once('exit', r))
    expect([code, said]).toEqual([2, expect.stringContaining('Another Mindpath already serves the data folder')])
  })
  test('answers neither other origins nor other names', async () => {
    expect((await post('/api/projects', {}, { 'content-type': 'application/json', 'origin': 'http://elsewhere.example' })).status).toBe(403)
    const { request } = await import('node:http')
    const status = await new Promise<number | undefined>((resolve) => {
      request({ host: '127.0.0.1', port, path: '/api/projects', headers: { host: 'elsewhere.example' } }, r => resolve(r.statusCode)).end()
    })
    expect(status).toBe(403)
  })
  test('gives the page a policy that allows its own files only', async () => {
    const policy = (await fetch(`http://127.0.0.1:${port}/`)).headers.get('content-security-policy')
    expect(policy).toContain("default-src 'self'")
    expect(policy).toContain("frame-ancestors 'none'")
    expect(policy).not.toContain('unsafe-eval')
  })
})
