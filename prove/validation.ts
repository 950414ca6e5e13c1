import { readFileSync } from 'node:fs'
import { readArena } from '../core/arena'
import { checkProgram, compileProgram } from '../core/language'
import { factsOf, readRobot } from '../core/robot'
import { Simulation } from '../core/simulation'

/** The simulator against theory: each a figure worked out on paper, and what a run at ideal realism gives. */
export interface Validation {
  readonly name: string
  readonly theory: number
  readonly found: number
  readonly unit: string
  /** The largest deviation that is accepted, as a share of the figure, and why it is not nothing. */
  readonly within: number
  readonly says: string
}

const G = 9.81

interface Doc { drive: Record<string, unknown>, devices: { name: string, kind: string, mount: Record<string, string>, settings?: Record<string, unknown> }[], chassis: Record<string, string> }

function build(robot: string, program: string | null, arena: object = {}, change: (d: Doc) => void = () => undefined, limit = 20): Simulation {
  const document = JSON.parse(readFileSync(`demo/robots/${robot}.json`, 'utf8')) as Doc
  change(document)
  const made = readRobot(document)
  const place = readArena({ mindpath: 'arena', version: 1, name: 'deck', size: ['8 m', '4 m'], start: { at: ['1 m', '2 m'] }, ...arena })
  if (!made.ok || !place.ok) throw new Error(JSON.stringify([made, place]))
  const checked = program === null ? null : checkProgram(program, factsOf(made.value))
  if (checked !== null && !checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
  return new Simulation({ program: checked === null ? null : compileProgram(checked.analysis), robot: made.value, arena: place.value, task: null, realism: 'ideal', seed: 1, limit })
}

const height = (s: Simulation): number => s.tape.at(s.tape.rows - 1)[s.tape.layout.body + 2]!
const reading = (s: Simulation, name: string): number => {
  const [device, which] = name.split('.') as [string, string]
  const facts = s.facts.devices.find(d => d.name === device)!
  const [plain, of = null] = which.replace(')', '').split('(')
  return s.tape.at(s.tape.rows - 1)[s.tape.layout.readings + facts.first + facts.readings.findIndex(r => r.name === plain && r.of === of)]!
}

/** Metres that a limpet with locked wheels slides from a speed, and what Coulomb's law with load transfer says. */
function stopping(speed: number): Validation {
  const s = build('limpet', null, {}, undefined, 6)
  s.poke({ poke: 'push', forward: speed, right: 0 })
  s.runToEnd()
  const { drive, height: h } = s.input.robot
  const { forward, grip, castors } = drive!
  const { forward: back } = castors[0]!
  // Moments about the centre: the axle d1 ahead, the castor d2 behind; the tail lifts where the lever says so.
  const [d1, d2] = [forward, -back]
  const mu = grip * s.input.arena.floor.friction
  const share = d1 + d2 - mu * h <= d2 ? 1 : Math.min(1, d2 / (d1 + d2 - mu * h))
  return {
    name: `stopping distance from ${speed} m/s`, theory: speed * speed / (2 * mu * G * share), found: s.pose().x - 1, unit: 'm', within: 0.15,
    says: 'v² / (2 μ g n), n the share of the weight on the braked wheels with load transfer; the tail lifts, and while it rises and falls the wheels are pressed harder and lighter than that',
  }
}

function fall(): Validation {
  const s = build('limpet', 'otherwise -> drive 30 cm/s', { decks: [{ at: ['1 m', '2 m'], size: ['80 cm', '80 cm'] }], surround: 'water' })
  // From where it no longer touches anything: two heights and the speed between.
  const z: number[] = []
  while (s.end === null) { s.advance(); z.push(height(s)) }
  const from = z.findIndex(h => h < -0.25)
  const ticks = 5
  const t = ticks * s.facts.tick
  const second = (z[from + 2 * ticks]! - 2 * z[from + ticks]! + z[from]!) / (t * t)
  return { name: 'free fall', theory: -G, found: second, unit: 'm/s²', within: 0.01, says: 'second difference of the height' }
}

function square(): Validation {
  const s = build('limpet', 'start\n  repeat 4 times\n    drive 60 cm\n    turn right 90 deg\n  finish', {}, undefined, 60)
  const { x, y } = s.pose()
  s.runToEnd()
  const end = s.pose()
  return { name: 'a square of 60 cm: how far from where it began', theory: 0, found: Math.sqrt((end.x - x) ** 2 + (end.y - y) ** 2), unit: 'm', within: 0.03, says: 'each side to an encoder tick and a half, each turn to 0.6 deg (absolute)' }
}

function camera(): Validation {
  const s = build('cuttle', 'start -> wait 1 s', { pieces: [{ name: 'it', kind: 'buoy', shape: 'cylinder', diameter: '8 cm', height: '12 cm', color: 'orange', fixed: true, at: ['1.9 m', '1.75 m'] }] }, undefined, 1)
  s.runToEnd()
  const device = s.input.robot.devices.find(d => d.kind.kind === 'camera')!
  return {
    name: 'camera: bearing of a buoy', theory: Math.atan2(0.25, 0.9 - device.mount.forward) * 180 / Math.PI, found: reading(s, `${device.name}.bearing(orange)`) * 180 / Math.PI, unit: 'deg', within: 0.03,
    says: 'atan of its place; a picture is 160 pixels wide, half a pixel is 0.2 deg',
  }
}

function tipping(): Validation {
  // A tall rover on a narrow track, turned ever faster on the spot would not tip; braked at a limit it does: the smallest deceleration that lifts the tail.
  const s = build('limpet', null, {}, undefined, 1)
  const { drive, height: h } = s.input.robot
  const lift = (speed: number): boolean => {
    const run = build('limpet', null, { floor: { friction: 1 } }, undefined, 2)
    run.poke({ poke: 'push', forward: speed, right: 0 })
    let most = 0
    while (run.end === null) { run.advance(); most = Math.max(most, reading(run, 'gyro.tilt')) }
    return most * 180 / Math.PI > 8
  }
  // The energy that turns it about its wheels until 8 deg: m g (rise of the centre), from the speed that the brake takes.
  const d = drive!.forward
  const r = Math.sqrt(d * d + h * h)
  const lean = Math.atan2(d, h)
  const rise = r * Math.cos(lean - 8 * Math.PI / 180) - h
  const about = s.input.robot.inertia.y / s.input.robot.mass + r * r
  // Angular momentum about the point of contact is kept in a sudden stop: v h = ω (I/m + r²).
  const theory = Math.sqrt(2 * G * Math.max(rise, 0) * about) / h
  let [low, high] = [0.05, 1.5]
  for (let i = 0; i < 9; i++) { const middle = (low + high) / 2; if (lift(middle)) high = middle; else low = middle }
  return { name: 'tipping: the speed from which a sudden stop tips it by 8 deg', theory, found: (low + high) / 2, unit: 'm/s', within: 0.6, says: 'a lower bound: angular momentum about the wheels’ contact, then energy; the brake is not sudden, so it takes more' }
}

const DEG = Math.PI / 180

/** The value from which on something is so, between two that differ; halved so many times. */
function edge(low: number, high: number, rounds: number, isSo: (x: number) => boolean): number {
  for (let i = 0; i < rounds; i++) {
    const middle = (low + high) / 2
    if (isSo(middle)) high = middle
    else low = middle
  }
  return (low + high) / 2
}

/** Whether a heading that swings about 0 does not die away: its largest in the last third of a run against the first. */
function grows(s: Simulation): boolean {
  const all: number[] = []
  while (s.end === null) {
    s.advance()
    const lean = Math.abs(s.pose().yaw)
    // It has turned round.
    if (lean > 1) return true
    all.push(lean)
  }
  const third = Math.floor(all.length / 3)
  const most = (from: number): number => Math.max(...all.slice(from, from + third))
  return most(2 * third) > 0.8 * most(0)
}

/**
 * A vehicle that steers in proportion to how far a point L before its axle is off a line, known T later: s² + k (v + L s) e^(-sT) = 0.
 * On the imaginary axis atan(L w / v) = w T and w² = k sqrt(v² + L² w²).
 */
function limitGain(v: number, ahead: number, late: number): number {
  const w = edge(0.1, Math.PI / 2 / late - 1e-6, 60, x => Math.tan(x * late) > ahead * x / v)
  return w * w / Math.sqrt(v * v + ahead * ahead * w * w)
}

/** The rover with a narrow sensor that looks right, 25 cm from a wall: from which gain on it swings ever wider. */
function wallFollowing(v: number, latency: number): Validation {
  const ahead = 0.08
  const run = (gain: number): boolean => {
    let axle = 0
    const s = build('limpet', `otherwise -> drive ${v} m/s turning right (side.distance - 25 cm) * ${gain / DEG / 100} deg/s per cm`, {
      size: ['20 m', '4 m'], start: { at: ['1 m', '2 m'] }, walls: [{ from: ['0 m', '1.663 m'], to: ['20 m', '1.663 m'], thickness: '2 cm', height: '20 cm' }],
    }, (d) => {
      axle = parseFloat(String(d.drive['forward'] ?? '0')) / 100
      d.devices = [{ name: 'side', kind: 'tof', port: 'P1', mount: { forward: `${(axle + ahead) * 100} cm`, right: '8 cm', up: '5 cm', facing: '90 deg' }, settings: { range: '1 m', cone: '1 deg', latency: `${latency} s`, period: '10 ms' } } as never]
    }, 24)
    return grows(s)
  }
  // The clock adds the half of a look's period and the half of a tick.
  const theory = limitGain(v, ahead, latency + 0.005 + 0.01)
  return {
    name: `wall following at ${v} m/s, known ${latency} s late: the gain from which on it swings ever wider`, theory: theory / DEG / 100, found: edge(theory / 3, theory * 3, 8, run) / DEG / 100, unit: 'deg/s per cm', within: 0.2,
    says: 's² + k (v + L s) e^(-sT) = 0 on the imaginary axis, L = 8 cm before the axle, T with half a look’s period and half a tick; the wheels take some 15 ms more to follow',
  }
}

/** The rover on the edge of a line, steering in proportion to what its floor sensor reflects: from which speed on it swings ever wider. */
function lineFollowing(gain: number, latency: number): Validation {
  const ahead = 0.08
  const spot = 0.02
  const rope = { size: ['40 m', '4 m'], lines: [{ name: 'rope', points: [['0 m', '1.9 m'], ['40 m', '1.9 m']], width: '20 cm', color: 'black' }] }
  const sensor = (d: Doc): void => {
    const axle = parseFloat(String(d.drive['forward'] ?? '0')) / 100
    d.devices = [{ name: 'floor', kind: 'color', port: 'P6', mount: { forward: `${(axle + ahead) * 100} cm`, up: '1.5 cm', tilt: '-90 deg' }, settings: { spot: `${spot * 1000} mm`, latency: `${latency} s`, period: '10 ms' } } as never]
  }
  // What it reads on either side, far from the edge.
  const beside = (y: number): number => {
    const s = build('limpet', null, { ...rope, start: { at: ['1 m', `${y} m`] } }, sensor, 1)
    s.runToEnd()
    return reading(s, 'floor.reflect')
  }
  const [lit, dark] = [beside(2.1), beside(1.9)]
  // Light falls as 2 (1 - r²) on the spot: across an edge in its middle it changes by 8 / (3 pi) of its radius.
  const slope = 8 / (3 * Math.PI) / (spot / 2) * (lit - dark)
  const middle = (lit + dark) / 2
  const late = latency + 0.005 + 0.01
  const w = edge(0.1, Math.PI / 2 / late, 60, x => x * Math.sin(x * late) > gain * slope * ahead)
  const theory = ahead * w / Math.tan(w * late)
  const run = (v: number): boolean => {
    const s = build('limpet', `otherwise -> drive ${v} m/s turning left (${(100 * middle).toFixed(3)} % - floor.reflect) * ${gain / DEG} deg/s`, {
      ...rope, start: { at: ['1 m', '2.001 m'] },
    }, sensor, 12)
    return grows(s)
  }
  return {
    name: `line following with ${(gain / DEG).toFixed(0)} deg/s of full reflection, known ${latency} s late: the speed from which on it swings ever wider`, theory, found: edge(theory / 3, Math.min(theory * 3, 0.55), 8, run), unit: 'm/s', within: 0.25,
    says: 'the same equation with the slope of the spot’s light across an edge, 8 / (3 π r) of what either side reads; w sin(w T) = k L gives w, v = L w / tan(w T)',
  }
}

/** Two light sensors, each the speed of a wheel: after 3 s, against its path integrated by itself. */
function vehicle(crossed: boolean): Validation {
  const lamp = { x: 1.9, y: 2.25, up: 0.08, brightness: 1 }
  const gain = 0.3
  const facing = 40 * DEG
  const mount = { forward: 0.07, left: 0.05, up: 0.08 }
  const s = build('limpet', `otherwise -> wheels left ${crossed ? 'right' : 'left'}.level * ${gain} m/s right ${crossed ? 'left' : 'right'}.level * ${gain} m/s`, {
    light: { level: '10 %' }, lamps: [{ name: 'beam', at: [`${lamp.x} m`, `${lamp.y} m`], up: `${lamp.up} m`, brightness: '100 %', on: [{ from: '0 s', to: '60 s' }] }],
  }, (d) => {
    d.devices = [-1, 1].map(side => ({ name: side < 0 ? 'left' : 'right', kind: 'light', port: side < 0 ? 'P2' : 'P3', mount: { forward: `${mount.forward} m`, right: `${side * mount.left} m`, up: `${mount.up} m`, facing: `${side * 40} deg` } })) as never
  }, 3)
  s.runToEnd()
  const { track, forward } = s.input.robot.drive!
  // The same by small steps of Euler's rule, from the inverse square and Lambert's cosine alone.
  let [x, y, th] = [1 + forward, 2, 0]
  const h = 0.0005
  for (let t = 0; t < 3; t += h) {
    const level = (side: number): number => {
      const [fx, fy] = [Math.cos(th), Math.sin(th)]
      const px = x + (mount.forward - forward) * fx - side * mount.left * fy
      const py = y + (mount.forward - forward) * fy + side * mount.left * fx
      const [dx, dy, dz] = [lamp.x - px, lamp.y - py, lamp.up - mount.up]
      const far = Math.sqrt(dx * dx + dy * dy + dz * dz)
      const cos = (dx * Math.cos(th + side * facing) + dy * Math.sin(th + side * facing)) / far
      return Math.min(1, 0.1 + lamp.brightness * 0.25 / (far * far) * Math.max(0, cos))
    }
    const [l, r] = [level(crossed ? -1 : 1) * gain, level(crossed ? 1 : -1) * gain]
    x += (l + r) / 2 * Math.cos(th) * h
    y += (l + r) / 2 * Math.sin(th) * h
    th += (r - l) / track * h
  }
  return {
    name: `a vehicle with two light sensors, ${crossed ? 'crossed: it turns towards the lamp' : 'uncrossed: it turns away'}: heading after 3 s, left positive`, theory: th / DEG, found: s.pose().yaw / DEG, unit: 'deg', within: 0.12,
    says: 'its path by Euler’s rule from inverse square and cosine (V. Braitenberg, Vehicles, 1984, numbers 2a and 2b); the wheels take their time to follow',
  }
}

function claw(): Validation {
  const holds = (mass: number): boolean => {
    const s = build('heron', 'start\n  close claw\n  move lift to 4 cm at 1 cm/s\n  wait 0.5 s\n  finish', {
      pieces: [{ name: 'it', kind: 'float', shape: 'cylinder', at: ['1.29 m', '2 m'], diameter: '5 cm', height: '10 cm', mass: `${mass} kg`, friction: 0.5, color: 'orange' }],
    }, (d) => {
      d.devices = [
        { name: 'lift', kind: 'slide', port: 'A', mount: { forward: '6 cm', up: '5 cm' }, settings: { length: '20 cm', force: '60 N' } },
        { name: 'claw', kind: 'claw', port: 'B', mount: { on: 'lift', forward: '20 cm' }, settings: { force: '6 N' } },
      ] as never
    }, 12)
    s.runToEnd()
    return reading(s, 'claw.holding') === 1 && s.world.pieces[0]!.solid.pz > 0.08
  }
  return { name: 'grip of a claw: the heaviest that it lifts', theory: 2 * 0.5 * 6 / G, found: edge(0.1, 1.5, 9, m => !holds(m)), unit: 'kg', within: 0.12, says: 'Coulomb on two faces, 2 μ F / g, lifted slowly; setting off shakes a little' }
}

function magnet(gap: number): Validation {
  const lifts = (mass: number): boolean => {
    const s = build('heron', 'start\n  switch magnet on\n  wait 1 s\n  finish', {
      pieces: [{ name: 'it', kind: 'lid', shape: 'cylinder', at: ['1.12 m', '2 m'], diameter: '9 cm', height: `${0.03 - gap} m`, mass: `${mass} kg`, steel: true, color: 'blue' }],
    }, (d) => { d.devices = [{ name: 'magnet', kind: 'magnet', port: 'P1', mount: { forward: '12 cm', up: '3 cm', tilt: '-90 deg' }, settings: { force: '6 N', falloff: '8 mm', diameter: '3 cm' } } as never] }, 2)
    s.runToEnd()
    return reading(s, 'magnet.holding') === 1
  }
  return { name: `pull of a magnet over ${gap * 1000} mm: the heaviest that it lifts`, theory: 6 / (1 + gap / 0.008) ** 2 / G, found: edge(0.02, 0.6, 9, m => !lifts(m)), unit: 'kg', within: 0.05, says: 'F / (1 + gap / falloff)², a magnetic circuit with an air gap' }
}

export function validate(): readonly Validation[] {
  return [
    fall(), stopping(0.7), stopping(1), stopping(1.4), tipping(), square(), camera(),
    wallFollowing(0.2, 0.2), wallFollowing(0.1, 0.3), lineFollowing(2, 0.15), lineFollowing(1.5, 0.2), lineFollowing(2, 0.2), vehicle(false), vehicle(true), claw(), magnet(0.004), magnet(0.01),
  ]
}

/** A validation's deviation: as a share of its figure, or as it is where the figure is 0. */
export const deviation = (v: Validation): number => v.theory === 0 ? Math.abs(v.found) : Math.abs(v.found - v.theory) / Math.abs(v.theory)

export function validationText(all: readonly Validation[]): string {
  const figure = (x: number): string => Number(x.toPrecision(4)).toString()
  return `# The simulator against theory

Made by \`./mindpath prove validation\`, at ideal realism; a test holds each figure within what is accepted.

| what | theory | found | deviation | accepted | how |
| --- | --- | --- | --- | --- | --- |
${all.map(v => `| ${v.name} | ${figure(v.theory)} ${v.unit} | ${figure(v.found)} ${v.unit} | ${v.theory === 0 ? `${figure(v.found)} ${v.unit}` : `${(100 * deviation(v)).toFixed(1)} %`} | ${v.theory === 0 ? `${v.within} ${v.unit}` : `${100 * v.within} %`} | ${v.says} |`).join('\n')}
`
}
