import { describe, expect, test } from 'vitest'
import { Beforehand, type LeftRecord } from '../../../app/run/beforehand'
import { Heard, heardIn, wireTo, type WireInputs } from '../../../core/simulation'
import { BegunRuns } from '../../../server/utils/begun'
import { demo, facts } from '../kit'

const settled = (): Promise<void> => new Promise((resolve) => { setTimeout(resolve, 0) })
const record = (bytes: number, pokes: number, ticks = 60): LeftRecord => ({ ticks, pokes: Array.from({ length: pokes }, (_, tick) => ({ poke: 'clap', tick })), robot: 'x'.repeat(bytes) } as LeftRecord)

/** What the server was told, and it remembers. */
function server(): { readonly told: { readonly bytes: number, readonly more: string | null }[], readonly known: BegunRuns, readonly before: Beforehand } {
  const told: { bytes: number, more: string | null }[] = []
  const known = new BegunRuns()
  const before = new Beforehand((record, more) => {
    told.push({ bytes: JSON.stringify(record).length, more })
    return Promise.resolve(more === null ? known.add(record) : known.more(more, record) ? more : null)
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

  test('again, by what came since, when many hands came, looked at every two seconds', async () => {
    const { told, known, before } = server()
    for (let i = 0; i < 20; i++) {
      before.came(7, 500 * i, () => record(10, 200 * i, 60 + i))
      await settled()
    }
    expect(told.length).toBeGreaterThan(2)
    expect(told.slice(0, 2).map(t => t.more === null)).toEqual([true, false])
    expect(told.every(t => t.bytes < 60_000)).toBe(true)
    const { begun, record: left } = before.rest(7, record(10, 4000))
    expect((left as LeftRecord).pokes.length).toBeLessThan(1200)
    expect(known.take(begun!, left)).toEqual(record(10, 4000))
  })

  test('with what its real devices read: what the server has in the end is all that was heard, and no farewell is too large for a browser', async () => {
    const { told, known, before } = server()
    const robot = demo('robots/limpet.json')
    const heard = new Heard(facts, ['sonar', 'bumper_left'], 3)
    const now = (): LeftRecord => ({ ticks: heard.end, pokes: [], robot, wire: wireTo(['sonar', 'bumper_left']) } as LeftRecord)
    for (let message = 0; message < 1500; message++) {
      const from = heard.end
      for (let tick = 0; tick < 6; tick++) heard.add((into) => { into.forEach((_, i) => { into[i] = Math.sin(heard.end * 7 + i) }) })
      before.hear(4, heard.since(from))
      before.came(4, message * 60, now)
      await settled()
      if (message % 100 === 0) expect(JSON.stringify(before.rest(4, now())).length).toBeLessThan(60_000)
    }
    expect(told.length).toBeGreaterThan(3)
    const { begun, record: left } = before.rest(4, now())
    // Said twice, as when a page is closed while it tells: it is in it once.
    expect(known.more(begun!, left)).toBe(true)
    const { heard: letters, wire, ticks } = known.take(begun!, left) as { heard: string[], wire: WireInputs, ticks: number }
    expect(ticks).toBe(heard.end)
    expect(heardIn({ ...wire, first: 3 }, facts, letters)).toEqual(heard.inputs())
    expect(heardIn({ ...wire, devices: ['periscope'] }, facts, letters)).toBeNull()
    expect(heardIn(wire, facts, [letters[0]!.slice(0, 10)])).toBeNull()
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
    // One that grows and grows is forgotten.
    const long = known.add({ ticks: 1, heard: [] })
    expect(known.more(long, { heard: ['x'.repeat(60_000_000)] })).toBe(true)
    expect(known.more(long, { heard: ['x'.repeat(5_000_000)] })).toBe(false)
    expect(known.take(long, { ticks: 2 })).toBeNull()
  })
})
