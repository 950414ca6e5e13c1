import { describe, expect, test } from 'vitest'
import { readArena } from '../../core/arena'
import { findDeadZone, findGrip, findMotors, findRobot, findSensor, findWheels, measuredDocument, rolledIn, endIn, type Course } from '../../core/measuring'
import { loadPhysics } from '../../core/physics'
import { RandomStream } from '../../core/random'
import type { RobotMake } from '../../core/devices'
import { factsOf, measuredRobot, readRobot, withDrive, type Robot } from '../../core/robot'
import { Simulation, openRun, type ProjectDocuments, type RunInputs } from '../../core/simulation'
import { writeKept } from '../../core/runs/kept'
import type { Tape } from '../../core/tape'
import { readBasis, readPlan } from '../../core/trials'
import { execFileSync, spawnSync } from 'node:child_process'
import { buildSync } from 'esbuild'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sampled } from '../sample'
import { compile, demo, facts, limpet } from './kit'

/** What is found of robots by their tapes: those here are simulated, and made otherwise than their document says and their program believes. */

const yard = readArena({
  mindpath: 'arena', version: 1, name: 'yard', size: ['4 m', '4 m'], floor: { friction: 0.9, color: 'grey' },
  pieces: [{ name: 'wall', kind: 'fender', shape: 'box', at: ['3.9 m', '2 m'], length: '10 cm', width: '3 m', height: '30 cm', fixed: true, color: 'black' }],
  start: { at: ['1.4 m', '2 m'], heading: '0 deg' },
})
if (!yard.ok) throw new Error(JSON.stringify(yard.problems))

const square = (side: 'left' | 'right'): string => `start\n  wait 0.2 s\n  repeat 4 times\n    drive 1 m at 20 cm/s\n    wait 0.4 s\n    turn ${side} 90 deg\n    wait 0.4 s\n  finish "back"\n`
const LINE = 'start\n  wait 0.2 s\n  drive 2 m at 20 cm/s holding heading\n  wait 0.4 s\n  finish "there"\n'
const TO_AND_FRO = 'start\n  repeat 5 times\n    drive 40 cm at 25 cm/s\n    drive -40 cm at 25 cm/s\n  wait 12 s\n  finish "stood"\n'
/** Twice on the spot at full power, to and fro. */
const HARD = 'start\n  repeat 3 times\n    wheels left 100 % right -100 % for 0.5 s\n    wheels left -100 % right 100 % for 0.5 s\n  finish "spun"\n'
/** Both wheels alike, to and fro, at less than half of full power. */
const SOFT = 'start\n  repeat 4 times\n    wheels left 35 % right 35 % for 0.5 s\n    wheels left -35 % right -35 % for 0.5 s\n  finish "rolled"\n'
const LOUDER = 'memory power = 0 %\nstart\n  repeat 20 times\n    set power = power + 1 %\n    wheels left power right power for 0.6 s\n  finish "tried"\n'

/** The tape of a robot that is made so. */
function taped(program: string, make: Partial<RobotMake>, seed: number, robot: Robot = limpet()): Tape {
  const simulation = new Simulation({ program: compile(program, factsOf(robot)), robot: { ...robot, make: { ...robot.make, ...make } }, arena: yard.ok ? yard.value : never(), task: null, realism: 'ideal', seed, limit: 120 })
  simulation.runToEnd()
  const { tape } = simulation
  simulation.free()
  return tape
}
const never = (): never => { throw new Error('no arena') }
const course = (tape: Tape): Course => ({ ...rolledIn(tape, facts)!, end: endIn(tape) })
const track = (limpet().drive as { track: number }).track
const sonar = facts.devices.find(d => d.name === 'sonar')!

describe('what tapes tell of a robot', () => {
  test('of robots that were made at random: sizes and distance of the wheels, how they differ, and how the sonar errs', async () => {
    await loadPhysics()
    for (const seed of sampled(Array.from({ length: 20 }, (_, i) => i + 1), 3)) {
      const r = RandomStream.named(seed, 'made')
      const between = (low: number, high: number): number => low + (high - low) * r.unit()
      const make = { radius: between(-0.05, 0.05), track: between(-0.05, 0.05), wheels: between(0.008, 0.03) * (r.chance(0.5) ? 1 : -1) }
      const error = { noise: between(0.003, 0.02), bias: between(-0.03, 0.03), dropout: between(0, 0.05), latency: between(0, 0.09) }
      const ways = [square('left'), square('right'), LINE].map(way => taped(way, make, seed))
      const found = findWheels(ways.map(course), track)!
      const says = `robot ${seed}: ${JSON.stringify({ make, error, found })}`
      expect(Math.abs((1 + found.radius.value) / (1 + make.radius) - 1), says).toBeLessThan(0.01)
      expect(Math.abs((1 + found.track.value) / (1 + make.track) - 1), says).toBeLessThan(0.01)
      expect(Math.abs(found.difference.value / make.wheels - 1), says).toBeLessThan(0.1)
      expect(found.after, says).toBeLessThan(0.3 * found.before)
      const tape = taped(TO_AND_FRO, { ...make, errs: { sonar: error } }, seed)
      const { noise, mean, dropout, latency } = findSensor(tape, facts, sonar)
      expect(Math.abs(noise!.value / error.noise - 1), says).toBeLessThan(0.15)
      // Its own latency is 10 ms; a tick is 20 ms.
      expect(Math.abs(latency!.value - 0.01 - error.latency), `${says} ${JSON.stringify(latency)}`).toBeLessThan(facts.tick)
      const row = tape.at(tape.rows - 1)
      const truth = 3.85 - row[tape.layout.body]! - 0.085
      expect(Math.abs(mean!.value - truth - error.bias), says).toBeLessThan(4 * mean!.error + 0.002)
      expect(Math.abs(dropout! - error.dropout), says).toBeLessThan(0.03)
    }
  }, 600_000)

  test('the power below which its wheels do not turn, between what was tried', async () => {
    await loadPhysics()
    for (const dead of [0.035, 0.075, 0.145]) {
      const found = findDeadZone(taped(LOUDER, {}, 1, withDrive(limpet(), { 'dead zone': dead })), facts)!
      expect(Math.abs(found.value - dead)).toBeLessThanOrEqual(found.error + 1e-9)
      expect(found.error).toBeLessThanOrEqual(0.0051)
    }
    expect(findDeadZone(taped(LINE, {}, 1), facts)).toBeNull()
  }, 60_000)
  test('a gyro by its rate while the robot stands: how it drifts, and its noise; so it is then', async () => {
    await loadPhysics()
    const arena = yard.ok ? yard.value : never()
    const error = { bias: 0.3 * Math.PI / 180, noise: 0.5 * Math.PI / 180, dropout: 0, latency: 0 }
    const found = findRobot([{ tape: taped(TO_AND_FRO, { errs: { gyro: error } }, 2), end: null, truths: {}, arena, seed: 2 }], limpet(), facts)
    const gyro = found.sensors.find(s => s.device === 'gyro')!
    expect(Math.abs(gyro.bias!.value - error.bias)).toBeLessThan(4 * gyro.bias!.error)
    expect(gyro.bias!.error).toBeLessThan(0.1 * error.bias)
    expect(Math.abs(gyro.noise!.value / error.noise - 1)).toBeLessThan(0.15)
    const { sensors } = measuredDocument(found, facts) as { sensors: Record<string, { readonly noise: string, readonly bias: string }> }
    expect(sensors['gyro']).toMatchObject({ noise: expect.stringMatching(/^0\.\d+ deg\/s$/) as string, bias: expect.stringMatching(/^0\.\d+ deg\/s$/) as string })
    const read = readRobot(text({ difference: 0 }, { gyro: { bias: '3 deg/s', noise: '0.2 deg/s' } }))
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const tape = taped('start\n  wait 4 s\n  finish "stood"\n', {}, 1, measuredRobot(read.value)!)
    const at = facts.devices.find(d => d.name === 'gyro')!.first
    expect(tape.at(tape.rows - 1)[tape.layout.readings + at]! * 180 / Math.PI).toBeCloseTo(12, 0)
    expect(readRobot(text({ difference: 0 }, { gyro: { bias: '3 deg' } })).ok).toBe(false)
  }, 60_000)
  test('a gyro by ways whose headings were measured: how many times the truth it reads; nothing where no way says how far it is turned', async () => {
    await loadPhysics()
    const arena = yard.ok ? yard.value : never()
    const gyroOf = (scale: number, heading: boolean) => {
      const error = { bias: 0.2 * Math.PI / 180, noise: 0.3 * Math.PI / 180, dropout: 0, latency: 0, scale }
      const runs = [square('left'), square('right'), TO_AND_FRO].map((way, i) => {
        const tape = taped(way, { wheels: 0.02, errs: { gyro: error } }, 3 + i)
        return { tape, end: { ...endIn(tape), ...heading ? {} : { heading: null } }, truths: {}, arena, seed: 3 }
      })
      return findRobot(runs, limpet(), facts)
    }
    for (const scale of [0.97, 1.015]) {
      const found = gyroOf(scale, true)
      const gyro = found.sensors.find(s => s.device === 'gyro')!
      expect(Math.abs(gyro.scale!.value - scale), JSON.stringify(gyro)).toBeLessThan(0.004)
      expect(gyro.scale!.error).toBeLessThan(0.01)
      const { sensors } = measuredDocument(found, facts) as { sensors: Record<string, { readonly scale: number }> }
      expect(sensors['gyro']!.scale).toBeCloseTo(scale, 2)
      expect(found.sensors.find(s => s.device === 'sonar')!.scale).toBeNull()
    }
    expect(gyroOf(1.015, false).sensors.find(s => s.device === 'gyro')!.scale).toBeNull()
    // So it is then: a turn by the gyro ends too soon by as much.
    const read = readRobot(text({ difference: 0 }, { gyro: { scale: 1.1 } }))
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const turned = taped('start\n  wheels left 20 % right -20 % until gyro.turned > 88 deg\n  halt\n  wait 0.5 s\n  finish "turned"\n', {}, 1, measuredRobot(read.value)!)
    const gyroAt = turned.layout.readings + facts.devices.find(d => d.name === 'gyro')!.first
    expect(turned.at(turned.rows - 1)[gyroAt]! / endIn(turned).heading!).toBeCloseTo(1.1, 2)
  }, 60_000)
  test('a camera by what it sees, and a colour sensor by what comes back: noise, bias, lost pictures, and how late a picture is', async () => {
    await loadPhysics()
    const read = readRobot(demo('robots/cuttle.json'))
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const cuttle = read.value
    const known = factsOf(cuttle)
    const beach = readArena({ ...yardDocument, pieces: [...yardDocument.pieces, { name: 'buoy', kind: 'buoy', shape: 'cylinder', at: ['2.6 m', '1.85 m'], diameter: '10 cm', height: '20 cm', fixed: true, color: 'red' }] })
    if (!beach.ok) throw new Error(JSON.stringify(beach.problems))
    const of = (errs: RobotMake['errs']) => {
      const simulation = new Simulation({ program: compile('start\n  repeat 6 times\n    turn right 18 deg at 50 deg/s\n    turn left 18 deg at 50 deg/s\n  wait 12 s\n  finish "looked"\n', known), robot: { ...cuttle, make: { ...cuttle.make, errs } }, arena: beach.value, task: null, realism: 'ideal', seed: 4, limit: 60 })
      simulation.runToEnd()
      const { tape } = simulation
      simulation.free()
      return Object.fromEntries(['cam', 'floor'].map(name => [name, findSensor(tape, known, known.devices.find(d => d.name === name)!)]))
    }
    const DEG = Math.PI / 180
    const [bare, erring] = [of({}), of({ cam: { noise: 0.9 * DEG, bias: 2 * DEG, dropout: 0.12, latency: 0.08 }, floor: { noise: 0.015, bias: 0.06, dropout: 0, latency: 0 } })]
    expect(Math.abs(erring['cam']!.noise!.value / (0.9 * DEG) - 1)).toBeLessThan(0.15)
    expect(Math.abs(erring['cam']!.mean!.value - bare['cam']!.mean!.value - 2 * DEG)).toBeLessThan(4 * erring['cam']!.mean!.error)
    expect(Math.abs(erring['cam']!.dropout! - 0.12)).toBeLessThan(0.05)
    expect(bare['cam']!.dropout).toBe(0)
    // Its own latency is 50 ms.
    expect(Math.abs(bare['cam']!.latency!.value - 0.05)).toBeLessThan(known.tick)
    expect(Math.abs(erring['cam']!.latency!.value - 0.13)).toBeLessThan(known.tick)
    expect(Math.abs(erring['floor']!.noise!.value / 0.015 - 1)).toBeLessThan(0.15)
    expect(Math.abs(erring['floor']!.mean!.value - bare['floor']!.mean!.value - 0.06)).toBeLessThan(0.003)
    expect(erring['floor']).toMatchObject({ dropout: null, latency: null })
  }, 60_000)
  test('of one that stood in several places, how its readings vary in each', async () => {
    await loadPhysics()
    const program = 'start\n  repeat 4 times\n    wait 3 s\n    drive 20 cm at 25 cm/s\n  wait 6 s\n  finish "stood"\n'
    const tape = taped(program, { errs: { sonar: { noise: 0.008, bias: 0, dropout: 0, latency: 0 } } }, 6)
    const { noise, mean } = findSensor(tape, facts, sonar)
    expect(Math.abs(noise!.value / 0.008 - 1)).toBeLessThan(0.15)
    // Where it stood longest: at the end.
    expect(mean!.value).toBeCloseTo(3.85 - tape.at(tape.rows - 1)[tape.layout.body]! - 0.085, 2)
  }, 60_000)
  test('nothing of what they cannot: a straight way alone, a robot that only went forward, one that never stood', async () => {
    await loadPhysics()
    const line = taped(LINE, { radius: 0.03 }, 1)
    // Both wheels alike larger, or farther apart: a straight way says nothing of the track.
    expect(findWheels([course(line)], track)?.track.error ?? Infinity).toBeGreaterThan(0.05)
    expect(findSensor(line, facts, sonar).latency).toBeNull()
    const moving = taped('start\n  drive 15 cm/s for 4 s\n', {}, 1)
    expect(findSensor(moving, facts, sonar)).toMatchObject({ noise: null, mean: null })
  }, 60_000)
})

const text = (wheels: object, sensors: object): object => ({ ...demo('robots/limpet.json') as object, measured: { wheels, sensors } })
const yardDocument = {
  mindpath: 'arena', version: 1, name: 'yard', size: ['4 m', '4 m'], floor: { friction: 0.9, color: 'grey' },
  pieces: [{ name: 'wall', kind: 'fender', shape: 'box', at: ['3.9 m', '2 m'], length: '10 cm', width: '3 m', height: '30 cm', fixed: true, color: 'black' }],
  start: { at: ['1.4 m', '2 m'], heading: '0 deg' },
}

describe('the realism measured', () => {
  const measured = text({ radius: '3.3 cm', track: '13.5 cm', difference: 0.02, 'dead zone': '8 %' }, { sonar: { noise: '1 cm', bias: '-2 cm', dropout: 0.05, latency: '40 ms' } })
  const inputs = (robot: object, program: string, realism: RunInputs['realism'] = 'measured'): RunInputs => ({ robot, arena: yardDocument, task: null, program, realism, seed: 5, limit: 60 })
  test('is the robot as its document says that it was, and errs in nothing else', async () => {
    const read = readRobot(measured)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    expect(measuredRobot(read.value)!.make).toMatchObject({ radius: expect.closeTo(3.3 / 3.2 - 1, 10) as number, track: expect.closeTo(13.5 / 13.8 - 1, 10) as number, wheels: 0.02, errs: { sonar: { noise: 0.01, bias: -0.02, dropout: 0.05, latency: 0.04 } } })
    const run = await openRun(inputs(measured, TO_AND_FRO))
    if (!run.ok) throw new Error(JSON.stringify(run.problems))
    run.simulation.runToEnd()
    const { noise, latency } = findSensor(run.simulation.tape, facts, sonar)
    expect(noise!.value).toBeCloseTo(0.01, 2)
    expect(Math.abs(latency!.value - 0.05)).toBeLessThan(facts.tick)
    // It goes on from any instant to the same bits.
    const again = await openRun(inputs(measured, TO_AND_FRO))
    if (!again.ok) throw new Error(JSON.stringify(again.problems))
    for (let i = 0; i < 200; i++) again.simulation.advance()
    const state = again.simulation.snapshot()
    for (let i = 0; i < 100; i++) again.simulation.advance()
    const digest = again.simulation.tape.digest()
    again.simulation.restore(state)
    for (let i = 0; i < 100; i++) again.simulation.advance()
    expect(again.simulation.tape.digest()).toBe(digest)
  })

  test('what was found of a sensor has beside it what it goes by: looks off the mean of where they were, and what the wheels tell', async () => {
    await loadPhysics()
    const { noise, latency, off, lag } = findSensor(taped(TO_AND_FRO, { errs: { sonar: { noise: 0.01, bias: 0, dropout: 0, latency: 0.06 } } }, 4), facts, sonar)
    const deviation = Math.sqrt(off!.reduce((s, x) => s + x * x, 0) / off!.length)
    expect(Math.abs(deviation / noise!.value - 1)).toBeLessThan(0.1)
    expect(off!.length).toBeGreaterThan(50)
    // Beside what was read stands what the wheels tell: as far off as it is noisy.
    expect([lag!.at.length, lag!.told.length]).toEqual([lag!.read.length, lag!.read.length])
    const apart = Math.sqrt(lag!.read.reduce((s, x, i) => s + (x - lag!.told[i]!) * (x - lag!.told[i]!), 0) / lag!.read.length)
    expect(apart).toBeLessThan(2 * noise!.value)
    expect(Math.max(...lag!.told) - Math.min(...lag!.told)).toBeCloseTo(0.4, 1)
    expect(latency!.value).toBeGreaterThan(0.05)
    expect(findSensor(taped(LINE, {}, 1), facts, sonar)).toMatchObject({ latency: null, lag: null })
  })
  test('how well the wheels grip, by spinning on the spot at full power; nothing where they never slip, or nobody spun', async () => {
    await loadPhysics()
    const arena = yard.ok ? yard.value : never()
    const gripOf = (grip: number, program = HARD, make: Partial<RobotMake> = {}): ReturnType<typeof findGrip> => findGrip([{ tape: taped(program, make, 3, withDrive(limpet(), { grip })), arena, seed: 1 }], limpet(), facts)
    for (const grip of sampled([0.35, 0.5, 0.62, 0.78, 0.9], 2)) {
      const found = gripOf(grip)!
      expect(Math.abs(found.value / grip - 1), `${grip}: ${JSON.stringify(found)}`).toBeLessThan(0.05)
      expect(found.error).toBeLessThan(0.05)
    }
    // Motors that are not quite alike do not hide it.
    expect(Math.abs(gripOf(0.5, HARD, { motors: 0.06, wheels: 0.01 })!.value / 0.5 - 1)).toBeLessThan(0.1)
    expect(gripOf(1.9)).toBeNull()
    expect(gripOf(0.5, LINE)).toBeNull()
  })
  test('how the motors differ, by power that they do not slip with, whatever else the robot is like; nothing where speeds are held', async () => {
    await loadPhysics()
    const arena = yard.ok ? yard.value : never()
    const motorsOf = (motors: number, program = SOFT, make: Partial<RobotMake> = {}): ReturnType<typeof findMotors> => findMotors([{ tape: taped(program, { motors, ...make }, 3), arena, seed: 1 }], limpet(), facts)
    for (const motors of sampled([-0.2, -0.06, 0.03, 0.09, 0.25], 2)) {
      for (const program of [SOFT, LOUDER]) {
        const found = motorsOf(motors, program)!
        expect(Math.abs(found.value - motors), `${motors}: ${JSON.stringify(found)}`).toBeLessThan(0.002 + Math.abs(motors) * 0.05)
      }
    }
    expect(Math.abs(motorsOf(0.08, SOFT, { wheels: 0.01, track: 0.02 })!.value - 0.08)).toBeLessThan(0.02)
    expect([motorsOf(0.08, LINE), motorsOf(0.08, HARD)]).toEqual([null, null])
  })
  test('rolls as it was measured: a larger left wheel turns it to the right on a straight way, and what a trial varies comes on top of that', async () => {
    const turned = async (robot: object, wheels: number): Promise<number> => {
      const run = await openRun({ ...inputs(robot, 'start\n  drive 20 cm/s for 4 s\n'), world: { wheels } })
      if (!run.ok) throw new Error(JSON.stringify(run.problems))
      const begun = run.simulation.pose().yaw
      run.simulation.runToEnd()
      return begun - run.simulation.pose().yaw
    }
    const [even, uneven] = [text({ difference: 0 }, {}), text({ difference: 0.02 }, {})]
    const plain = await turned(even, 0)
    expect(Math.abs(plain)).toBeLessThan(0.01)
    // 80 cm on wheels that differ by 2 % of their size and stand 13.8 cm apart.
    expect(await turned(uneven, 0)).toBeCloseTo(0.02 * 0.8 / 0.138, 2)
    expect(await turned(uneven, -0.02)).toBeCloseTo(plain, 2)
  })
  test('is tried as any other realism, and refused in a plan of a robot that was not measured', () => {
    const documents = (robot: object): ProjectDocuments => ({ robot, arena: yardDocument, task: null })
    const plan = readPlan({ mindpath: 'trials', version: 1, seeds: [1, 2], realisms: ['measured', 'typical'] })
    if (!plan.ok) throw new Error(JSON.stringify(plan.problems))
    const program = [{ name: 'line', text: LINE }]
    expect(readBasis(documents(measured), program, plan.value)).toMatchObject({ ok: true })
    expect(readBasis(documents(demo('robots/limpet.json') as object), program, plan.value)).toMatchObject({ ok: false, problems: [{ document: 'plan', path: 'realisms', value: 'measured', message: expect.stringContaining('limpet was not measured') as string }] })
  })
  test('is refused of a robot that was not measured, and of one whose measures name what it has not', async () => {
    expect(await openRun(inputs(demo('robots/limpet.json') as object, LINE))).toMatchObject({ ok: false, problems: [{ document: 'run', path: 'realism', value: 'measured', message: expect.stringContaining('limpet was not measured') as string }] })
    const problem = (robot: object) => { const read = readRobot(robot); return read.ok ? null : read.problems[0] }
    expect(problem(text({}, { periscope: { noise: '1 cm' } }))).toMatchObject({ path: 'measured.sensors.periscope.noise', message: expect.stringContaining('the robot has no such device; it has sonar') as string })
    expect(problem(text({}, { sonar: { noise: '1 kg' } }))).toMatchObject({ path: 'measured.sensors.sonar.noise', value: '1 kg' })
    expect(problem(text({}, { gyro: { noise: '1 deg' } }))).toMatchObject({ path: 'measured.sensors.gyro.noise', message: expect.stringContaining('expected a turning speed') as string })
    expect(problem(text({}, { gyro: { dropout: 0.1 } }))).toMatchObject({ path: 'measured.sensors.gyro.dropout', value: '0.1', message: 'allowed is 0: a gyro loses no look' })
    expect(problem(text({}, { sonar: { scale: 1.1 } }))).toMatchObject({ path: 'measured.sensors.sonar.scale', value: '1.1', message: 'allowed is 1: by how much a sonar reads more than is true is its bias' })
    expect(problem(text({}, { gyro: { scale: 3 } }))).toMatchObject({ path: 'measured.sensors.gyro.scale', value: '3' })
    expect(problem(text({}, { bumper_left: { noise: '1 deg' } }))).toMatchObject({ path: 'measured.sensors.bumper_left.noise', message: 'of a bumper that is not measured' })
    expect(problem(text({ radius: '3 m' }, {}))).toMatchObject({ path: 'measured.wheels.radius' })
  })
})

describe('./mindpath measure', () => {
  test('finds a robot by its runs, and writes it down to be run as it is', async () => {
    const program = join(process.cwd(), '.build', 'measure-test.mjs')
    buildSync({ entryPoints: ['cli/main.ts'], loader: { '.py': 'text', '.h': 'text' }, bundle: true, platform: 'node', format: 'esm', packages: 'external', outfile: program, logLevel: 'error' })
    const folder = mkdtempSync(join(tmpdir(), 'mindpath-'))
    const runs: string[] = []
    // A robot that is other than its document says: its runs bear the document.
    for (const [name, text] of [['left', square('left')], ['right', square('right')], ['line', LINE], ['louder', LOUDER], ['spin', HARD], ['stand', TO_AND_FRO]] as const) {
      const document = demo('robots/limpet.json')
      const opened = await openRun({ robot: document, arena: yardDocument, task: null, program: text, realism: 'ideal', seed: 5, limit: 60 })
      if (!opened.ok) throw new Error(JSON.stringify(opened.problems))
      const { input } = opened.simulation
      const other = new Simulation({ ...input, robot: { ...withDrive(input.robot, { grip: 0.7 }), make: { ...input.robot.make, radius: 0.03, track: -0.02, wheels: 0.015, motors: 0.05, errs: { sonar: { noise: 0.008, bias: 0.02, dropout: 0, latency: 0.03 } } } } })
      other.runToEnd()
      const path = join(folder, `${name}.mindrun`)
      writeFileSync(path, writeKept(name, { robot: document, arena: yardDocument, task: null, program: text, realism: 'ideal', seed: 5, limit: 60 }, other))
      runs.push(path)
    }
    const run = (...args: readonly string[]) => spawnSync(process.execPath, ['--liftoff-only', program, 'measure', ...args], { encoding: 'utf8' })
    const into = join(folder, 'measured.json')
    const { status, stdout } = run(...runs, '--true', 'stand.mindrun=sonar 2.365 m', '--into', into)
    expect(status).toBe(0)
    expect(stdout).toMatch(/^wheels, by 5 ways: they ended [\d.]+ cm from where they should in the mean, and [\d.]+ cm with what was found\n {2}radius 3\.\d+ ± [\d.]+ cm \(by the document 3\.2 cm\)\n/)
    expect(stdout).toMatch(/the left wheel is larger by 1\.[3-7]\d* ± /)
    expect(stdout).toMatch(/they do not turn below [45]\.\d* ± 0\.5 % of full power \(by the document 5 %\)/)
    expect(stdout).toMatch(/the left motor is stronger by (?:4\.[5-9]|5\.[0-5])\d* ± [\d.e-]+ %/)
    expect(stdout).toMatch(/they grip with 0\.(?:69|70|71)\d* ± [\d.e-]+ times what they carry \(by the document 0\.9\)/)
    expect(stdout).toMatch(/sonar: noise 0\.[78]\d* cm ± .*, bias .* cm ± .*, latency [34]\d ms ± .* \(by the document 10 ms\)/)
    const written = JSON.parse(readFileSync(into, 'utf8')) as { measured: { wheels: { radius: string, grip: number }, sensors: Record<string, object> } }
    expect(Number.parseFloat(written.measured.wheels.radius)).toBeCloseTo(3.296, 1)
    expect(Object.keys(written.measured.sensors)).toContain('sonar')
    expect(written.measured.wheels.grip).toBeCloseTo(0.7, 1)
    const read = readRobot(written)
    expect(read.ok && measuredRobot(read.value)!.drive!.grip).toBe(written.measured.wheels.grip)
    expect(read.ok && Math.abs(measuredRobot(read.value)!.make.motors - 0.05)).toBeLessThan(0.005)
    expect(readRobot(written).ok).toBe(true)
    expect(run(runs[0]!, '--end', 'nowhere.mindrun=1 cm,2 cm')).toMatchObject({ status: 2, stderr: expect.stringContaining('--end: there is no run nowhere.mindrun; there are left.mindrun') as string })
    expect(run(runs[0]!, '--end', 'left.mindrun=1 kg,2 cm')).toMatchObject({ status: 2, stderr: expect.stringContaining('--end: found 1 kg,2 cm') as string })
    expect(run(runs[0]!, '--true', 'left.mindrun=periscope 1 cm')).toMatchObject({ status: 2, stderr: expect.stringContaining('expected a device and a value, such as sonar 50 cm') as string })
    expect(execFileSync(process.execPath, ['--liftoff-only', program, 'measure', '--help'], { encoding: 'utf8' })).toContain('docs/measuring.md')
  }, 120_000)
})
