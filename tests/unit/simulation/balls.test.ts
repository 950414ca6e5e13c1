import { beforeAll, describe, expect, test } from 'vitest'
import { readArena } from '../../../core/arena'
import { loadPhysics } from '../../../core/physics'
import { build, reading } from '../kit'

beforeAll(loadPhysics)

const ball = (more: object = {}) => ({ name: 'float', kind: 'float', shape: 'ball', diameter: '10 cm', color: 'orange', at: ['1.6 m', '1 m'], ...more })

describe('a ball', () => {
  test('rolls, braked by its resistance, and comes to rest and to sleep where its energy is used up', () => {
    const s = build('limpet', null, { arena: { size: ['6 m', '3 m'], pieces: [ball({ mass: '100 g' })] }, limit: 30 })
    const [{ body, solid }] = s.world.pieces as unknown as [{ body: number, solid: { px: number, pz: number } }]
    const [speed, radius] = [0.5, 0.05]
    s.world.physics.setMotion(body, { x: speed, y: 0, z: 0 }, { x: 0, y: speed / radius, z: 0 })
    s.runToEnd()
    // Rolling without slip, a = c g / 1.4 with c = 0.02: it stops after v² / 2 a.
    const way = speed * speed / (2 * 0.02 * 9.81 / 1.4)
    expect(Math.abs(solid.px - 1.6 - way)).toBeLessThan(0.1 * way)
    expect(solid.pz).toBeCloseTo(0.05, 3)
    expect(s.world.physics.isAsleep(body)).toBe(true)
    s.free()
  })
  test('is heard and seen where it is: by the sonar its nearest point, by the camera as round as wide', () => {
    const s = build('cuttle', null, { arena: { light: { level: '80 %' }, pieces: [ball({ diameter: '12 cm', at: ['1.5 m', '1 m'], fixed: true })] }, limit: 1 })
    s.runToEnd()
    expect(reading(s, 'sonar.distance')).toBeCloseTo(0.5 - 0.06 - 0.09, 1)
    const [{ picture }] = s.pictures() as unknown as [{ picture: { marks: readonly { label: string, width: number, height: number }[] } }]
    const mark = picture.marks.find(m => m.label === 'orange')!
    expect(Math.abs(mark.width - mark.height)).toBeLessThan(0.2 * mark.width)
    s.free()
  })
  test('is pushed along by the robot, and gains nothing by itself', () => {
    const s = build('limpet', 'otherwise -> drive 20 cm/s', { arena: { pieces: [ball({ at: ['1.2 m', '1 m'], mass: '100 g' })] }, limit: 6 })
    let fastest = 0
    let before = s.world.pieces[0]!.solid.px
    while (s.end === null) {
      s.advance()
      fastest = Math.max(fastest, (s.world.pieces[0]!.solid.px - before) / s.facts.tick)
      before = s.world.pieces[0]!.solid.px
    }
    expect(s.world.pieces[0]!.solid.px).toBeGreaterThan(1.5)
    // What is struck by much heavier things goes at most twice as fast as they.
    expect(fastest).toBeLessThan(0.5)
    s.free()
  })
  test.each([
    [{ diameter: undefined }, 'pieces[0].diameter: nothing; a ball needs its diameter, such as "10 cm"'],
    [{ stack: 2 }, 'pieces[0].stack: 2; balls do not stand on one another; allowed is 1'],
    [{ shape: 'box', length: '10 cm', width: '10 cm' }, 'pieces[0].height: nothing; a box needs its height, such as "10 cm"'],
  ])('and what is wrong with one is told: %j', (more, says) => {
    const read = readArena({ mindpath: 'arena', version: 1, name: 'bare', size: ['4 m', '3 m'], start: { at: ['1 m', '1 m'] }, pieces: [JSON.parse(JSON.stringify(ball(more)))] })
    expect(read.ok ? [] : read.problems.map(p => `${p.path}: ${p.value}; ${p.message}`)).toEqual([says])
  })
  test('weighs what its volume does', () => {
    const read = readArena({ mindpath: 'arena', version: 1, name: 'bare', size: ['4 m', '3 m'], start: { at: ['1 m', '1 m'] }, pieces: [ball({ material: 'wood' }), ball({ name: 'post', shape: 'cylinder', height: '10 cm', material: 'wood' })] })
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const [one, post] = read.value.pieces
    expect(one!.mass / post!.mass).toBeCloseTo(2 / 3, 6)
  })
})
