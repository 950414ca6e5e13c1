import { describe, expect, test } from 'vitest'
import { Beforehand, type LeftRecord } from '../../../app/run/beforehand'
import { BegunRuns } from '../../../server/utils/begun'

const settled = (): Promise<void> => new Promise((resolve) => { setTimeout(resolve, 0) })
const record = (bytes: number, pokes: number, ticks = 60): LeftRecord => ({ ticks, pokes: Array.from({ length: pokes }, (_, tick) => ({ poke: 'clap', tick })), robot: 'x'.repeat(bytes) } as LeftRecord)

/** What the server was told, and it remembers. */
function server(): { readonly told: { readonly ticks: number, readonly instead: string | null }[], readonly known: BegunRuns, readonly before: Beforehand } {
  const told: { ticks: number, instead: string | null }[] = []
  const known = new BegunRuns()
  const before = new Beforehand((record, instead) => {
    told.push({ ticks: record.ticks, instead })
    if (instead !== null) known.forget(instead)
    return Promise.resolve(known.add(record))
  })
  return { told, known, before }
}

describe('a run is told of before its page is closed', () => {
  test('not one that a farewell can hold: all of it is said then', async () => {
    const { told, before } = server()
    before.came(1, 0, () => record(1000, 3))
    await settled()
    expect(told).toEqual([])
    expect(before.rest(1, record(1000, 3))).toEqual({ begun: null, record: record(1000, 3) })
  })

  test('one that is larger, once; what is left to say is what came since, and both are the run', async () => {
    const { told, known, before } = server()
    before.came(1, 0, () => record(100_000, 3))
    await settled()
    before.came(1, 5000, () => record(100_000, 4, 300))
    await settled()
    expect(told).toHaveLength(1)
    const rest = before.rest(1, record(100_000, 5, 400))
    expect(JSON.stringify(rest).length).toBeLessThan(300)
    expect(known.take(rest.begun!, rest.record as LeftRecord)).toEqual(record(100_000, 5, 400))
    expect(known.take(rest.begun!, rest.record as LeftRecord)).toBeNull()
  })

  test('again in its own place when many hands came, looked at every two seconds', async () => {
    const { told, before } = server()
    for (let i = 0; i < 20; i++) {
      before.came(7, 500 * i, () => record(10, 200 * i, 60 + i))
      await settled()
    }
    expect(told.length).toBeGreaterThan(2)
    expect(told.slice(0, 2).map(t => t.instead === null)).toEqual([true, false])
    const { record: left } = before.rest(7, record(10, 4000))
    expect((left as LeftRecord).pokes.length).toBeLessThan(1200)
  })

  test('another run begins anew; one that could not be told of is told of whole', async () => {
    const { told, before } = server()
    before.came(1, 0, () => record(100_000, 0))
    await settled()
    before.came(2, 100, () => record(100, 0))
    expect(before.rest(2, record(100, 0)).begun).toBeNull()
    expect(before.rest(1, record(100_000, 0)).begun).toBeNull()
    expect(told).toHaveLength(1)
    let sent = 0
    const mute = new Beforehand(() => { sent++; return Promise.resolve(null) })
    for (const now of [0, 5000, 10_000]) {
      mute.came(1, now, () => record(100_000, 0))
      await settled()
    }
    expect(mute.rest(1, record(100_000, 0)).begun).toBeNull()
    expect(sent).toBe(1)
  })

  test('the server remembers sixteen', () => {
    const known = new BegunRuns()
    const ids = Array.from({ length: 17 }, (_, i) => known.add({ ticks: i, pokes: [] }))
    expect(known.take(ids[0]!, { ticks: 1, pokes: [] })).toBeNull()
    expect(known.take(ids[1]!, { ticks: 9 })).toEqual({ ticks: 9, pokes: [] })
  })
})
