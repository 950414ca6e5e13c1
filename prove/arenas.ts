import { readFileSync, readdirSync } from 'node:fs'
import { ITEMS } from '../core/arena'
import { checkProgram, compileProgram } from '../core/language'
import { RandomStream } from '../core/random'
import { factsOf } from '../core/robot'
import { Simulation, readProject, startProblem, type ProjectParts } from '../core/simulation'
import { randomProgram } from './programs'

/** Random arenas with random programs and robots that belong elsewhere: sane physics, or a clear error. */
export interface ArenaFuzz {
  /** Arenas that were made, and how many of them a run could begin in. */
  readonly made: number
  readonly ran: number
  /** Simulated seconds in all. */
  readonly seconds: number
  readonly failures: readonly string[]
}

/** No thing may be faster than this, metres a second: a fall to the harbour's bed and the fastest visitor or blade stay well below. */
const FASTEST = 15
/** The harbour's bed, metres. */
const BED = -1.3
/** Energy (joules for each kilogram of what lies loose) that a world without a motor may seem to gain from one tick to the next: what solids that lay in one another are pushed apart by. */
const SLACK = 0.1
/** So long after the start what was put into one another may still be pushed apart, seconds. */
const SETTLES = 2
const GRAVITY = 9.81

const ROBOTS = readdirSync('demo/robots').sort()

/** An arena of random things at random places, some outside of it, some on one spot, some in one another. */
export function randomArena(r: RandomStream): Record<string, unknown> {
  const [w, h] = [0.6 + 3.4 * r.unit(), 0.6 + 2.4 * r.unit()]
  const arena: Record<string, unknown> = {
    mindpath: 'arena', version: 1, name: 'any', size: [`${w} m`, `${h} m`], surround: r.unit() < 0.5 ? 'water' : 'ground',
    start: { at: [`${w * r.unit()} m`, `${h * r.unit()} m`], heading: `${-180 + 360 * r.unit()} deg` },
  }
  const spot = [w * r.unit(), h * r.unit()] as const
  const things = Math.floor(14 * r.unit())
  for (let i = 0; i < things; i++) {
    const item = ITEMS[Math.floor(ITEMS.length * r.unit())]!
    if (item.list === 'decks' && r.unit() < 0.7) continue
    // A third of all lies on one spot.
    const [x, y] = r.unit() < 0.33 ? spot : [w * (1.2 * r.unit() - 0.1), h * (1.2 * r.unit() - 0.1)]
    const raw = { ...item.fresh(x, y, `thing_${i}`) } as Record<string, unknown>
    if (item.list === 'lanes') raw['exit'] = `exit_${i}`
    if (item.list === 'pieces' || item.list === 'scatter') {
      Object.assign(raw, { kind: `kind_${i}`, stack: 1 + Math.floor(4 * r.unit()), fixed: r.unit() < 0.2, friction: Math.round(150 * r.unit()) / 100 })
      for (const side of ['length', 'width', 'diameter', 'height']) if (raw[side] !== undefined) raw[side] = `${1 + 20 * r.unit()} cm`
      if (r.unit() < 0.25) {
        for (const side of ['length', 'width', 'height', 'stack']) delete raw[side]
        Object.assign(raw, { shape: 'ball', diameter: `${1 + 20 * r.unit()} cm` })
      }
    }
    ;((arena[item.list] ??= []) as unknown[]).push(raw)
  }
  return arena
}

/** Runs random arenas from a seed on, each for some simulated seconds: half of them with a random program, the others without one and with nothing that moves by itself. */
export function fuzzArenas(from: number, count: number, seconds: number, tell: (line: string) => void = () => undefined): ArenaFuzz {
  const failures: string[] = []
  let [ran, time] = [0, 0]
  for (let seed = from; seed < from + count; seed++) {
    const r = RandomStream.named(seed, 'arenas')
    const arena = randomArena(r)
    const still = r.unit() < 0.5
    if (still) for (const list of ['visitors', 'belts']) delete arena[list]
    const name = ROBOTS[Math.floor(ROBOTS.length * r.unit())]!
    const read = readProject({ robot: JSON.parse(readFileSync(`demo/robots/${name}`, 'utf8')) as unknown, arena, task: null })
    if (!read.ok) {
      // What cannot be says where and what is allowed.
      if (read.problems.some(p => p.path === '' || p.message === '')) failures.push(`seed ${seed}: a problem that says nothing: ${JSON.stringify(read.problems)}`)
      continue
    }
    const parts = read.value
    const program = still ? null : programFor(parts, r)
    const run = new Simulation({ ...parts, program, realism: 'rough', seed, limit: seconds, keeping: 'fingerprint' })
    if (startProblem(run) === null) {
      ran++
      const wrong = watched(run, still)
      time += run.time
      if (wrong !== null) failures.push(`seed ${seed}, ${name}: ${wrong}`)
    }
    run.free()
    if (seed % 20 === 0) tell(`${seed - from} arenas`)
  }
  return { made: count, ran, seconds: Math.round(time), failures }
}

function programFor({ robot }: ProjectParts, r: RandomStream): ReturnType<typeof compileProgram> {
  const facts = factsOf(robot)
  for (;;) {
    const checked = checkProgram(randomProgram(r, facts), facts)
    if (checked.runs) return compileProgram(checked.analysis)
  }
}

/** Runs to the end and says what went wrong; null when nothing did. `still`: no motor and nobody moves, so that no energy comes from anywhere. */
function watched(run: Simulation, still: boolean): string | null {
  const { world, facts } = run
  const loose = world.pieces.filter(p => p.body !== null)
  const mass = run.layout.pieces.reduce((sum, p) => sum + (p.fixed ? 0 : p.mass), 0)
  const massOf = new Map(run.layout.pieces.map(p => [p.name, p.mass]))
  let before = loose.map(p => [p.solid.px, p.solid.py, p.solid.pz] as const)
  let least = Infinity
  while (run.end === null) {
    run.advance()
    const { x: east, y: north, yaw } = run.pose()
    if (!Number.isFinite(east + north + yaw)) return `the robot is nowhere at ${run.time} s`
    let energy = 0
    for (let i = 0; i < loose.length; i++) {
      const { solid, name } = loose[i]!
      const [x, y, z] = before[i]!
      const speed = Math.hypot(solid.px - x, solid.py - y, solid.pz - z) / facts.tick
      if (!Number.isFinite(speed)) return `${name} is nowhere at ${run.time.toFixed(2)} s`
      // What rolled off the harbour's bed, some minutes later, falls out of the world.
      if (solid.pz < BED) continue
      if (speed > FASTEST) return `${name} goes at ${speed.toFixed(1)} m/s at ${run.time.toFixed(2)} s`
      energy += massOf.get(name)! * (GRAVITY * solid.pz + speed * speed / 2)
    }
    before = loose.map(p => [p.solid.px, p.solid.py, p.solid.pz] as const)
    if (still && mass > 0 && run.time > SETTLES && loose.every(p => p.solid.pz > BED)) {
      if (energy > least + SLACK * mass + 1e-6) return `what lies loose gained ${((energy - least) / mass).toFixed(3)} J/kg by ${run.time.toFixed(2)} s`
      least = Math.min(least, energy)
    }
  }
  return null
}
