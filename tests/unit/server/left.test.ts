import { describe, expect, test } from 'vitest'
import { toBase64 } from '../../../core/base64'
import { Heard, wireTo } from '../../../core/simulation'
import { left } from '../../../server/workers/run.worker'
import { demo, facts } from '../kit'

/** A run whose page was closed, as the server has it: with what the real devices read until then. */

const heard = new Heard(facts, ['sonar', 'bumper_left'], 0)
for (let tick = 0; tick < 30; tick++) heard.add((into) => { into.fill(tick === 0 ? 1 : 0.4) })
const letters = toBase64(new Uint8Array(heard.since(0).slice().buffer))
const told = (change: object = {}): object => ({
  title: 'At the wall', robot: demo('robots/limpet.json'), arena: demo('arenas/fender-quay.json'), program: 'when sonar.distance < 50 cm -> halt\notherwise -> drive 9 cm/s\n', task: null,
  seed: 3, realism: 'typical', limit: null, dials: {}, pokes: [], ticks: 25, wire: wireTo(['sonar', 'bumper_left']), heard: [letters], fingerprint: null, from: null, ...change,
})

describe('a run that was left with real devices', () => {
  test('is run again with what they read, as far as that was told', async () => {
    const read = await left(told())
    expect(read.ok ? [] : read.problems).toEqual([])
    expect(read.ok && read.value.facts).toMatchObject({ ticks: 25, seed: 3 })
    const longer = await left(told({ ticks: 400 }))
    expect(longer.ok && longer.value.facts.ticks).toBe(30)
  })
  test.each([
    ['letters that are no numbers', { heard: ['!'] }],
    ['a number in place of letters', { heard: [5] }],
    ['no pieces at all', { heard: 'AAAA' }],
    ['a device that the robot has not', { wire: wireTo(['periscope']) }],
    ['real devices that are not named', { wire: null }],
  ])('is refused, and why is said, with %s', async (_, change) => {
    const read = await left(told(change))
    expect(read).toMatchObject({ ok: false, problems: [{ path: 'heard', message: 'expected numbers of the devices that are real in this run, as bytes in letters' }] })
  })
})
