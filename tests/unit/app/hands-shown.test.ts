import { describe, expect, test } from 'vitest'
import { handsOn, placesOf, alongHand } from '../../../app/features/bench/act/hands-shown'
import { robotLooks } from '../../../app/features/bench/act/robot-looks'
import { loadPhysics } from '../../../core/physics'
import { Tape, type TapeEvent } from '../../../core/tape'
import { PALM, type Poke } from '../../../core/simulation'
import { build } from '../kit'

await loadPhysics()

/** A tape with these pokes at these ticks, and nothing else. */
function taped(...pokes: readonly (readonly [number, Poke])[]): Tape {
  const s = build('limpet', null)
  const tape = new Tape(s.tape.layout)
  for (const [tick, poke] of pokes) tape.event({ tick, type: 'poke', text: '', about: '', poke } as TapeEvent)
  s.free()
  return tape
}
const shown = (tape: Tape, tick: number) => { const { before, light } = handsOn(tape, tick); return [Object.fromEntries(before), light] }

describe('hands as the tape tells them', () => {
  const tape = taped(
    [5, { poke: 'hand', device: 'sonar', distance: 0.2 }], [8, { poke: 'dim', to: 0.5 }], [10, { poke: 'hand', device: 'sonar', distance: 0.1 }], [12, { poke: 'cover', device: 'sonar', on: true }],
    [13, { poke: 'put', what: 'robot', x: 1, y: 1, heading: null }], [14, { poke: 'cover', device: 'sonar', on: false }], [16, { poke: 'hand', device: 'sonar', distance: null }], [18, { poke: 'dim', to: 1 }],
  )
  test.each([[4, {}, 1], [5, { sonar: 0.2 }, 1], [9, { sonar: 0.2 }, 0.5], [11, { sonar: 0.1 }, 0.5], [12, { sonar: 0 }, 0.5], [15, { sonar: 0.1 }, 0.5], [16, {}, 0.5], [30, {}, 1]])('are at tick %i what was done up to then', (tick, before, light) => {
    expect(shown(tape, tick)).toEqual([before, light])
    // Asked again, also after later ones.
    expect(shown(tape, 30)).toEqual([{}, 1])
    expect(shown(tape, tick)).toEqual([before, light])
  })
  test('grow with the tape', () => {
    const growing = taped([3, { poke: 'dim', to: 0.2 }])
    expect(shown(growing, 9)[1]).toBe(0.2)
    growing.event({ tick: 6, type: 'poke', text: '', about: '', poke: { poke: 'dim', to: 0.9 } })
    expect(shown(growing, 9)[1]).toBe(0.9)
  })
})

describe('where a hand is drawn', () => {
  const s = build('limpet', null)
  const looks = robotLooks(s.input.robot)
  s.poke({ poke: 'hand', device: 'sonar', distance: 0.3 })
  s.poke({ poke: 'carry', forward: 0, right: Math.PI / 2 })
  for (let i = 0; i < 10; i++) s.advance()
  const row = s.tape.row
  const places = (device: string, distance: number) => placesOf({ before: new Map([[device, distance]]), light: 1 }, row, s.tape.layout, looks)

  test('before its sensor, the way that it looks: where the simulation has it', () => {
    const [hand] = places('sonar', 0.3)
    const solid = s.world.scene.solids.find(x => x.id === 'hand:sonar')!
    expect([hand!.x, hand!.y, hand!.z].map(v => v.toFixed(3))).toEqual([solid.px, solid.py, solid.pz].map(v => v.toFixed(3)))
    // It looks south now.
    expect(hand!.along.map(v => Math.round(v) + 0)).toEqual([0, -1, 0])
  })
  test('is dragged along that way, and no nearer than a hand comes', () => {
    const [hand] = places('sonar', 0.3)
    const [x, y] = hand!.from
    expect(alongHand(hand!, x + 0.1, y - 0.5)).toBeCloseTo(0.5 - PALM.hx, 3)
    expect(alongHand(hand!, x, y + 1)).toBe(0.01)
  })
  test('before what looks straight down it cannot be dragged; before what is not there, none is', () => {
    const [hand] = places('floor', 0.01)
    expect(alongHand(hand!, hand!.x + 1, hand!.y)).toBeNull()
    expect(places('nobody', 0.1)).toEqual([])
  })
})
