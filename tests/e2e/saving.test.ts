import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ChildProcess } from 'node:child_process'
import type { Browser } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { hasText, launch, openPage, text, typeProgram, until } from './browser'
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

const saved = hasText('[role=status]', '● saved')

describe('saving', () => {
  test('what was shown as saved survives a reload and a kill -9 of the server', async () => {
    const { page } = await openPage(browser, project)
    await until(page, saved)
    await typeProgram(page, 'otherwise\n  drive 11 cm/s\n')
    await until(page, `!${saved}`)
    await until(page, saved)
    await page.reload({ waitUntil: 'networkidle0' })
    await until(page, hasText('.cm-content', 'drive 11 cm/s'))
    const ended = new Promise(r => server.once('exit', r))
    server.kill('SIGKILL')
    await ended
    // What is typed while the server is away is kept, said, and saved when it is back.
    await typeProgram(page, 'otherwise\n  drive 12 cm/s\n')
    await until(page, hasText('[role=status]', 'not saved'))
    server = await startServer(port, data)
    await until(page, saved)
    await page.reload({ waitUntil: 'networkidle0' })
    await until(page, hasText('.cm-content', 'drive 12 cm/s'))
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
    await until(two, hasText('.conflict', 'changed in another tab'))
    expect(await text(two, '.cm-content')).toContain('drive 22 cm/s')
    await two.evaluate(() => [...document.querySelectorAll('.conflict button')].find(b => b.textContent!.includes('I typed'))!.dispatchEvent(new MouseEvent('click')))
    await until(two, saved)
    await one.reload({ waitUntil: 'networkidle0' })
    await until(one, hasText('.cm-content', 'drive 22 cm/s'))
    // The other way round: theirs goes on, mine is kept as a revision.
    await typeProgram(one, 'otherwise\n  drive 31 cm/s\n')
    await until(one, `!${saved}`)
    await until(one, saved)
    await typeProgram(two, 'otherwise\n  drive 32 cm/s\n')
    await until(two, hasText('.conflict', 'changed in another tab'))
    await two.evaluate(() => [...document.querySelectorAll('.conflict button')].find(b => b.textContent!.includes('other saved'))!.dispatchEvent(new MouseEvent('click')))
    await until(two, hasText('.cm-content', 'drive 31 cm/s'))
    await until(two, saved)
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
