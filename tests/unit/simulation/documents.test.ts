import { describe, expect, test } from 'vitest'
import { readArena } from '../../../core/arena'
import { readRobot } from '../../../core/robot'
import { readTask } from '../../../core/task'
import { demo } from '../kit'

/** A document with one thing wrong, and what is said about it. */
type Broken = readonly [change: (doc: Record<string, any>) => void, path: string, says: RegExp]

const problems = (read: { ok: boolean, problems?: readonly { path: string, message: string, value: string }[] }) => read.problems ?? []

function changed(path: string, change: (doc: Record<string, any>) => void): unknown {
  const doc = structuredClone(demo(path)) as Record<string, any>
  change(doc)
  return doc
}

describe('robot documents', () => {
  test('the demo robot can exist', () => { expect(readRobot(demo('robots/limpet.json')).ok).toBe(true) })
  test.each<Broken>([
    [d => { d['chassis']['mass'] = '0 kg' }, 'chassis.mass', /from 20 g|0\.02 kg/],
    [d => { d['chassis']['mass'] = 0.9 }, 'chassis.mass', /unit/],
    [d => { d['chassis']['length'] = '12 kg' }, 'chassis.length', /unit of mass/],
    [d => { delete d['drive']['track'] }, 'drive.track', /missing/],
    [d => { d['devices'][0]['kind'] = 'radar' }, 'devices[0].kind', /sonar, tof, bumper/],
    [d => { d['devices'][0]['port'] = 'P19' }, 'devices[0].port', /no such port/],
    [d => { d['devices'][0]['port'] = 'P4' }, 'devices[1].port', /on P4 already/],
    [d => { d['devices'][3]['port'] = 'P2' }, 'devices[3].port', /needs bus: P1, P6, P7/],
    [d => { d['devices'][2]['name'] = 'sonar' }, 'devices[2].name', /taken/],
    [d => { d['devices'][0]['settings']['range'] = '90 m' }, 'devices[0].settings.range', /allowed is from 0\.2 m to 10 m/],
    [d => { d['devices'][0]['settings']['colour'] = 'red' }, 'devices[0].settings', /colour/],
    [d => { d['controller']['ports']['C'] = 'socket' }, 'controller.ports.C', /motor, digital/],
    [d => { d['drive']['castors'] = [] }, 'drive.castors', /fall over/],
    [d => { d['version'] = 2 }, 'version', /allowed is 1/],
    [d => { d['mindpath'] = 'arena' }, 'mindpath', /another kind/],
  ])('%s', (change, path, says) => {
    const all = problems(readRobot(changed('robots/limpet.json', change)))
    expect(all.map(p => p.path)).toContain(path)
    expect(all.find(p => p.path === path)!.message).toMatch(says)
  })
  test('everything that is wrong is said at once', () => {
    const all = problems(readRobot(changed('robots/limpet.json', (d) => { d['chassis']['mass'] = 'much'; d['drive']['radius'] = '3'; d['name'] = 'two words' })))
    expect(all.map(p => p.path).sort()).toEqual(['chassis.mass', 'drive.radius', 'name'])
    expect(all.find(p => p.path === 'chassis.mass')!.value).toBe('"much"')
  })
  test.each([null, 3, 'robot', [], {}, { mindpath: 'robot' }])('%j is no robot and does not crash', (value) => {
    expect(readRobot(value).ok).toBe(false)
  })
})

describe('arena and task documents', () => {
  test.each<Broken>([
    [d => { d['pieces'][0]['color'] = 'mauve' }, 'pieces[0].color', /orange/],
    [d => { delete d['pieces'][0]['width'] }, 'pieces[0].width', /a box needs its width/],
    [d => { d['pieces'][1]['name'] = 'fender' }, 'pieces[1].name', /taken/],
    [d => { d['size'] = ['2 m', '900 m'] }, 'size', /100 m/],
    [d => { d['start'] = { heading: '0 deg' } }, 'start.at', /missing|place/],
    [d => { d['floor'] = { friction: -1 } }, 'floor.friction', /0\.01/],
  ])('%s', (change, path, says) => {
    const all = problems(readArena(changed('arenas/fender-quay.json', change)))
    expect(all.map(p => p.path)).toContain(path)
    expect(all.find(p => p.path === path)!.message).toMatch(says)
  })
  test('a goal must name what the arena has', () => {
    const arena = readArena(demo('arenas/fender-quay.json'))
    if (!arena.ok) throw new Error('the demo arena')
    expect(readTask(demo('tasks/kiss-the-fender.json'), arena.value).ok).toBe(true)
    const wrong = problems(readTask(changed('tasks/kiss-the-fender.json', (d) => { d['goals'][0]['of'] = 'buoy' }), arena.value))
    expect(wrong[0]).toMatchObject({ path: 'goals[0]', value: '"buoy"' })
    expect(wrong[0]!.message).toContain('fender')
    const unknown = problems(readTask(changed('tasks/kiss-the-fender.json', (d) => { d['goals'][1] = { goal: 'fly' } }), arena.value))
    expect(unknown[0]!.message).toContain('at-distance')
  })
})
