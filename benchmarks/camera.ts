import { readFileSync } from 'node:fs'
import { checkProgram, compileProgram } from '../core/language'
import { factsOf } from '../core/robot'
import { Simulation, readProject } from '../core/simulation'
import { DEVICE_KINDS, USUAL_MAKE, type Surroundings } from '../core/devices'
import { Scene, Solid, resting, yawQuaternion } from '../core/geometry'
import { groundOf, layOut, lightOf, readArena, soundOf } from '../core/arena'
import { REFLECTS } from '../core/colors'
import { RandomStream } from '../core/random'
import { Rasteriser } from '../core/vision'
import { wholeToPhysics } from './tick'

const ROUNDS = 400

/** Milliseconds to draw and recognise one picture of 160 by 120 with forty pieces of all colours in view, tags looked for: the median. */
export function cameraMs(): number {
  const colors = ['red', 'orange', 'yellow', 'green', 'blue', 'violet', 'white', 'black']
  const read = readArena({
    mindpath: 'arena', version: 1, name: 'forty', size: ['3 m', '3 m'],
    scatter: colors.map(color => ({ kind: color, shape: color === 'red' || color === 'blue' ? 'box' : 'cylinder', length: '9 cm', width: '8 cm', diameter: '7 cm', height: '10 cm', color, tag: 3, count: 5, area: { at: ['1.7 m', '1.5 m'], size: ['2 m', '1.8 m'] }, apart: '6 cm' })),
    patches: [{ shape: 'disc', at: ['1.5 m', '1.5 m'], diameter: '80 cm', color: 'yellow' }],
    start: { at: ['20 cm', '1.5 m'] },
  })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const arena = read.value
  const scene = new Scene()
  for (const p of layOut(arena, 3).pieces) {
    const shape = p.body.shape === 'box' ? { shape: 'box' as const, hx: p.body.length / 2, hy: p.body.width / 2, hz: p.body.height / 2 } : { shape: 'cylinder' as const, radius: p.body.diameter / 2, hz: p.body.height / 2 }
    scene.solids.push(new Solid(p.name, shape, { friction: 1, echo: 'rough', paint: REFLECTS[p.color], steel: false, tag: p.tag, part: null }, { x: p.at[0], y: p.at[1], z: shape.hz }, yawQuaternion(-p.turn)))
  }
  const body = resting({ position: { x: 0.2, y: 1.5, z: 0.12 }, rotation: yawQuaternion(0) })
  const around: Surroundings = {
    scene, solids: scene.solids, ground: groundOf(arena), light: lightOf(arena), sound: soundOf(arena), rasteriser: new Rasteriser(arena),
    body, chassis: body, commands: new Float64Array(1), time: 0, pressOn: () => 0,
  }
  const kind = DEVICE_KINDS.find(k => k.kind === 'camera')!
  const parameters = kind.schema.validateSync({ colors: colors.slice(0, 7), tags: [3] })
  const camera = kind.create({ name: 'cam', parameters, mount: { forward: 0, left: 0, up: 0, yaw: 0, pitch: -0.15 }, realism: 'typical', noise: RandomStream.named(1, 'noise/cam'), taught: [], channel: -1, tick: 0.02, build: { height: 0.12, mass: 1, inertia: { x: 1, y: 1, z: 1 }, balance: [0, 0], make: USUAL_MAKE } })
  const into = new Float64Array(64)
  const times: number[] = []
  for (let i = 0; i < ROUNDS; i++) {
    const begin = performance.now()
    camera.look(around, into)
    if (i >= ROUNDS / 4) times.push(performance.now() - begin)
  }
  return times.sort((a, b) => a - b)[times.length >> 1]!
}

/** A rover with arm, claw and a camera at 15 pictures a second, as it looks for a buoy. */
function buoySeeker(): (seed: number, limit: number) => Simulation {
  const json = (path: string): unknown => JSON.parse(readFileSync(`demo/${path}`, 'utf8'))
  const read = readProject({ robot: json('robots/cuttle.json'), arena: json('arenas/buoy-field.json'), task: null })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const checked = checkProgram('when sonar.distance < 30 cm -> turn right 60 deg/s\notherwise -> drive 15 cm/s turning right cam.bearing(orange) * 0.2 deg/s per deg\n', factsOf(read.value.robot))
  if (!checked.runs) throw new Error(checked.diagnostics[0]!.message)
  return (seed, limit) => new Simulation({ ...read.value, program: compileProgram(checked.analysis), realism: 'typical', seed, limit })
}

/** Simulated seconds a second, the median of five seeds. */
export function realtimeCamera(): number {
  const make = buoySeeker()
  const rates: number[] = []
  for (let seed = 1; seed <= 5; seed++) {
    const simulation = make(seed, 20)
    const begin = performance.now()
    simulation.runToEnd()
    rates.push(20_000 / (performance.now() - begin))
    simulation.free()
  }
  return rates.sort((a, b) => a - b)[2]!
}

/** The whole tick with pictures drawn and recognised against the bare physics step. */
export const tickRatioCamera = (): number => {
  const make = buoySeeker()
  return wholeToPhysics(() => make(1, 60), 20)
}
