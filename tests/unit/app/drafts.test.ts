import { beforeEach, describe, expect, test, vi } from 'vitest'

/** Unsaved work in the browser's own store: each tab its own, and what a closed one left is found. */

class FakeStore {
  readonly all = new Map<string, string>()
  full = false
  get length(): number { return this.all.size }
  key(i: number): string | null { return [...this.all.keys()][i] ?? null }
  getItem(k: string): string | null { return this.all.get(k) ?? null }
  setItem(k: string, v: string): void {
    if (this.full) throw new Error('QuotaExceededError')
    this.all.set(k, v)
  }
  removeItem(k: string): void { this.all.delete(k) }
}

/** Names that live tabs hold, shared as the browser shares them. */
const held = new Set<string>()
const locks = {
  request(name: string, _options: object, act: (lock: object | null) => unknown): Promise<unknown> {
    if (held.has(name)) return Promise.resolve(act(null))
    held.add(name)
    return Promise.resolve(act({ name }))
  },
  query: () => Promise.resolve({ held: [...held].map(name => ({ name })) }),
}

let local: FakeStore
type Drafts = typeof import('../../../app/draft/drafts')

/** A tab that is opened now: its own session, the same browser. */
async function tab(session = new FakeStore()): Promise<Drafts> {
  vi.resetModules()
  vi.stubGlobal('sessionStorage', session)
  vi.stubGlobal('localStorage', local)
  vi.stubGlobal('navigator', { locks })
  const drafts = await import('../../../app/draft/drafts')
  await drafts.takeUnsaved('none')
  return drafts
}
/** The tab is closed: what it held is free. */
const close = (): void => held.clear()

beforeEach(() => {
  local = new FakeStore()
  held.clear()
})

describe('unsaved work', () => {
  test('is what this tab kept, part by part, until it is dropped', async () => {
    const here = await tab()
    expect(await here.takeUnsaved('p')).toBeNull()
    expect(here.keepUnsaved('p', { base: 3, program: 'start -> halt', robot: { name: 'limpet' } })).toBe(true)
    expect(await here.takeUnsaved('p')).toEqual({ base: 3, program: 'start -> halt', robot: { name: 'limpet' } })
    expect(await here.takeUnsaved('another')).toBeNull()
    here.keepUnsaved('p', { base: 4, program: undefined, task: null, building: { robot: { name: 'half' } } })
    expect(await here.takeUnsaved('p')).toEqual({ base: 4, robot: { name: 'limpet' }, task: null, building: { robot: { name: 'half' } } })
    here.dropUnsaved('p')
    expect(await here.takeUnsaved('p')).toBeNull()
    expect(local.length).toBe(0)
  })
  test('of a reloaded tab is its own again', async () => {
    const session = new FakeStore()
    const before = await tab(session)
    before.keepUnsaved('p', { base: 1, program: 'a' })
    close()
    expect(await (await tab(session)).takeUnsaved('p')).toEqual({ base: 1, program: 'a' })
  })
  test('of a closed tab goes to the next that opens the project, the newest first', async () => {
    const clock = vi.spyOn(Date, 'now')
    for (const [at, program] of [[1000, 'older'], [2000, 'newest'], [1500, 'middle']] as const) {
      clock.mockReturnValue(at)
      const other = await tab()
      other.keepUnsaved('p', { base: 1, program })
      close()
    }
    clock.mockRestore()
    const here = await tab()
    expect(await here.takeUnsaved('p')).toEqual({ base: 1, program: 'newest' })
    // It is this tab's from now on: once dropped, the next older one comes.
    here.dropUnsaved('p')
    expect(await here.takeUnsaved('p')).toEqual({ base: 1, program: 'middle' })
  })
  test('of a tab that is open stays there', async () => {
    const other = await tab()
    other.keepUnsaved('p', { base: 1, program: 'still being written' })
    expect(await (await tab()).takeUnsaved('p')).toBeNull()
  })
  test('of a duplicated tab is not shared: the copy has a name of its own', async () => {
    const session = new FakeStore()
    const first = await tab(session)
    first.keepUnsaved('p', { base: 1, program: 'mine' })
    const copied = new FakeStore()
    for (const [k, v] of session.all) copied.setItem(k, v)
    const second = await tab(copied)
    expect(await second.takeUnsaved('p')).toBeNull()
    second.keepUnsaved('p', { base: 1, program: 'theirs' })
    expect(await second.takeUnsaved('p')).toEqual({ base: 1, program: 'theirs' })
    expect([...local.all.values()].filter(v => v.includes('mine') || v.includes('theirs')).length).toBe(2)
  })
  test('that the browser has no room for is said not to be kept', async () => {
    const here = await tab()
    local.full = true
    expect(here.keepUnsaved('p', { base: 1, program: 'x' })).toBe(false)
  })
  test.each([
    ['no JSON', (k: string) => { local.all.set(k, '{') }],
    ['another shape', (k: string) => { local.all.set(k, JSON.stringify({ base: 'one' })) }],
    ['a base below 1', (k: string) => { local.all.set(k, JSON.stringify({ base: 0, at: 1 })) }],
  ])('that was damaged (%s) is forgotten, not believed', async (_what, damage) => {
    const here = await tab()
    here.keepUnsaved('p', { base: 2, program: 'x' })
    damage([...local.all.keys()].find(k => k.endsWith('.base'))!)
    expect(await here.takeUnsaved('p')).toBeNull()
    expect(local.length).toBe(0)
  })
  test('with a damaged program still has its robot', async () => {
    const here = await tab()
    here.keepUnsaved('p', { base: 2, program: 'x', robot: { name: 'r' } })
    local.all.set([...local.all.keys()].find(k => k.endsWith('.program'))!, '[1]')
    expect(await here.takeUnsaved('p')).toEqual({ base: 2, robot: { name: 'r' } })
  })
})
