import { describe, expect, inject, test } from 'vitest'
import { RandomStream } from '../../core/random'

/** The server under requests that nobody would send: whatever comes, an answer below 500, in time, and it lives on. */

const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const
const NASTY: readonly unknown[] = [null, true, 0, -1, 1e308, '', ' ', '\u0000', '../../etc/passwd', '<script>', 'constructor', '__proto__', [], {}, [null], { a: { b: { c: [] } } }, 'x'.repeat(2000), 9007199254740993, '2026-01-01', '🦀', ['1 m', '2 m'], { toString: 1 }, { __proto__: { admin: true } }]
const FIELDS = ['title', 'from', 'base', 'program', 'robot', 'arena', 'task', 'revision', 'seed', 'realism', 'limit', 'id', 'constructor', 'toString', 'hasOwnProperty', 'document', 'devices', 'chassis', 'name', 'version', 'mindpath']

const pick = <T>(r: RandomStream, all: readonly T[]): T => all[Math.floor(r.unit() * all.length)]!

/** A value of fields that the server knows, filled with what does not fit. */
function nonsense(r: RandomStream, deep = 0): unknown {
  const roll = r.unit()
  if (deep > 3 || roll < 0.5) return pick(r, NASTY)
  if (roll < 0.65) return Array.from({ length: Math.floor(r.unit() * 4) }, () => nonsense(r, deep + 1))
  return Object.fromEntries(Array.from({ length: 1 + Math.floor(r.unit() * 5) }, () => [pick(r, FIELDS), nonsense(r, deep + 1)]))
}

function bodyOf(r: RandomStream): string {
  const roll = r.unit()
  if (roll < 0.75) return JSON.stringify(nonsense(r)) ?? 'null'
  if (roll < 0.85) return '['.repeat(1 + Math.floor(r.unit() * 5000))
  if (roll < 0.95) return '{"title":"a"'.repeat(1 + Math.floor(r.unit() * 3))
  return String.fromCharCode(...Array.from({ length: 60 }, () => Math.floor(r.unit() * 65_535)))
}

async function ids(): Promise<readonly string[]> {
  return (await (await fetch(`${inject('address')}/api/projects`)).json() as { id: string }[]).map(p => p.id)
}

/** What a request was answered: its status, and whether it is told in JSON what is wrong. */
async function send(r: RandomStream, known: readonly string[]): Promise<{ readonly what: string, readonly status: number, readonly told: boolean }> {
  const id = pick(r, [...known.slice(0, 3), '00000000-0000-4000-8000-000000000000', 'nothing', '%2e%2e%2f', '%00', 'a'.repeat(300)])
  const path = pick(r, ['/api/projects', `/api/projects/${id}`, `/api/projects/${id}/revisions`, `/api/projects/${id}/ran`, '/api/shelf/robot', `/api/shelf/task/${id}`, '/api/shelf/boat', '/api/runs', `/api/documents/${id}`, '/api/status', '/api/nowhere', `/projects/${id}`])
  // Nothing that tests beside this one work on is renamed or deleted.
  const method = pick(r, METHODS.filter(m => (m !== 'DELETE' && m !== 'PATCH') || !known.includes(id)))
  const type = r.unit() < 0.8 ? 'application/json' : pick(r, ['text/plain', 'multipart/form-data', ''])
  const answer = await fetch(inject('address') + path, { method, ...(method === 'GET' ? {} : { body: bodyOf(r), headers: { 'content-type': type } }), signal: AbortSignal.timeout(20_000) })
  const text = await answer.text()
  let told = answer.ok
  try { told ||= typeof (JSON.parse(text) as { statusMessage?: unknown }).statusMessage === 'string' } catch { /* Told as a page. */ }
  return { what: `${method} ${path}`, status: answer.status, told }
}

describe('the server', () => {
  test.each([1, 2, 3, 4])('answers anything below 500, and lives on (%i)', async (block) => {
    const known = await ids()
    const r = RandomStream.named(block, 'requests')
    for (let i = 0; i < 150; i++) {
      const { what, status, told } = await send(r, known)
      // A page of the application is answered for any address of its own.
      if (what.includes('/api/')) expect([what, status, told]).toEqual([what, status, true])
      expect([what, status < 500]).toEqual([what, true])
    }
    expect((await fetch(`${inject('address')}/api/status`)).status).toBe(200)
    expect((await ids()).length).toBeGreaterThanOrEqual(known.length)
  }, 60_000)
  test('keeps what it had: no project is damaged by what was sent', async () => {
    for (const id of await ids()) expect((await fetch(`${inject('address')}/api/projects/${id}`)).status).toBe(200)
  })
  test.each([
    ['no type', {}, 415], ['a form', { 'content-type': 'application/x-www-form-urlencoded' }, 415], ['text', { 'content-type': 'text/plain' }, 415],
  ])('takes no body of %s, which a page of another origin could send', async (_what, headers, status) => {
    const answer = await fetch(`${inject('address')}/api/projects`, { method: 'POST', headers: headers as Record<string, string>, body: new Uint8Array([123, 125]) })
    expect(answer.status).toBe(status)
  })
  test.each(['GET', 'POST'])('tells a browser to trust nothing that it did not say, on %s', async (method) => {
    const answer = await fetch(`${inject('address')}/api/projects`, { method, ...(method === 'POST' ? { body: '[]', headers: { 'content-type': 'application/json' } } : {}) })
    expect(answer.headers.get('x-content-type-options')).toBe('nosniff')
    expect(answer.headers.get('access-control-allow-origin')).toBeNull()
  })
})
