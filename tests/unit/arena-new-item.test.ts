import { beforeAll, expect, test, vi } from 'vitest'
import { figuresOf, groundOf, layOut, readArena } from '../../core/arena'
import type { ArenaItem } from '../../core/arena/items'
import { REFLECTS, type ColorName } from '../../core/colors'
import { loadPhysics } from '../../core/physics'
import { simulate, demoParts } from './kit'

interface Bollard { readonly at: readonly [number, number], readonly turn: number, readonly diameter: number, readonly color: ColorName }

// A kind of thing that is nowhere else: its file, and a line in the list.
vi.mock(import('../../core/arena/items'), async (original) => {
  const { ITEMS } = await original()
  const [{ object }, { defineItem, writtenPlace }, { color, length, turn }, { point }] = await Promise.all([import('yup'), import('../../core/arena/items/item'), import('../../core/arena/fields'), import('../../core/document')])
  const bollards = defineItem<Bollard>({
    list: 'bollards', one: 'bollard', most: 20, summary: 'A post that stands fast in a ring of paint.',
    schema: object({ at: point().required(), turn: turn(), diameter: length(0.02, 1).default(0.12), color: color().default('red') }).noUnknown(),
    says: { at: 'Its middle.', turn: 'How far it is turned, right positive.', diameter: 'How wide it is.', color: 'Its paint.' },
    fresh: (x, y) => ({ at: writtenPlace(x, y) }),
    figures: all => ({
      paint: all.map(b => ({ shape: 'disc', at: b.at, radius: b.diameter, color: b.color })),
      fixed: all.map((b, i) => ({ id: `bollard_${i + 1}`, shape: { shape: 'cylinder', radius: b.diameter / 2, hz: 0.15 }, at: b.at, middle: 0.15, yaw: -b.turn, color: b.color, tint: `paint-${b.color}`, friction: 0.5, echo: 'rough' })),
    }),
  })
  return { ITEMS: [...ITEMS, bollards] as readonly ArenaItem[] }
})

beforeAll(loadPhysics)

test('a new kind of thing is read, checked, seen, sensed and bumped into, without a word of it elsewhere', () => {
  const written = (bollards: object[]): unknown => ({ mindpath: 'arena', version: 1, name: 'bare', size: ['4 m', '3 m'], bollards, start: { at: ['50 cm', '1.5 m'], heading: '0 deg' } })
  expect(readArena(written([{ at: ['2 m', '1.5 m'], diameter: '9 m' }]))).toMatchObject({ ok: false, problems: [{ path: 'bollards[0].diameter', value: '"9 m"' }] })
  const read = readArena(written([{ at: ['2 m', '1.5 m'] }]))
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const { arena } = layOut(read.value, 1)
  expect(figuresOf(arena)).toMatchObject({ fixed: [{ id: 'bollard_1', tint: 'paint-red' }], paint: [{ shape: 'disc', radius: 0.12 }] })
  expect(groundOf(arena).paintAt(2.1, 1.5)).toBe(REFLECTS.red)
  // The robot drives at it: its sonar sees it, and it goes no farther.
  const run = simulate({ ...demoParts('bollard-yard', null), arena: read.value }, 'when sonar.distance < 1.2 m once -> note "there"\notherwise -> drive 30 cm/s\n', { realism: 'ideal', limit: 10 })
  run.runToEnd()
  expect(run.tape.events.some(e => e.text === 'there')).toBe(true)
  expect(run.tape.events.some(e => e.type === 'contact' && e.about.includes('bollard_1'))).toBe(true)
  expect(run.pose().x).toBeLessThan(2 - 0.06)
  run.free()
})
