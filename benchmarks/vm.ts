import { Vm } from '../core/vm'
import { checkProgram, compileProgram } from '../core/language'
import { driveOf, factsOf, readRobot, type RobotFacts } from '../core/robot'
import { readFileSync } from 'node:fs'

/** A controller as a reactive program … */
const PROGRAM = `dial sight = 90 cm
dial cruise = 28 cm/s
memory pushes = 0

when bumper_left.pressed and bumper_right.pressed
  set pushes = pushes + 1
  drive back 20 cm/s for 0.5 s
when sonar.distance < sight for 0.1 s
  if bumper_left.pressed
    wheels left 18 % right 45 %
  else if bumper_right.pressed
    wheels left 45 % right 18 %
  else
    drive cruise turning right clamp((sonar.distance - 40 cm) * 1.5 deg/s per cm, -40 deg/s, 40 deg/s)
when gyro.turned > 370 deg or wheels.travel > 30 m
  halt
otherwise
  turn right 60 deg/s
`

/** … and the same one written by hand, with all that the machine keeps: who wants, who has control, the step. */
class ByHand {
  readonly commands = new Float64Array(3)
  readonly wants = new Uint8Array(4)
  control = -1
  step = -1
  private tick = -1
  private since = -1
  private looksThen = 0
  private pc = -1
  private until = 0
  private pushes = 0
  private heldBack = false
  private readonly readings: Float64Array

  constructor(private readonly at: Record<string, number>, count: number, private readonly track: number, private readonly dt: number) {
    this.readings = new Float64Array(count)
  }

  run(raw: Float64Array, looks: Float64Array): void {
    this.tick++
    this.readings.set(raw)
    this.commands.fill(0)
    const r = this.readings
    const { sonar, left, right, turned, travel } = this.at as { sonar: number, left: number, right: number, turned: number, travel: number }
    const pressedLeft = r[left] !== 0
    const pressedRight = r[right] !== 0
    this.wants[0] = pressedLeft && pressedRight ? 1 : 0
    if (!(r[sonar]! < 0.9)) { this.since = -1; this.wants[1] = 0 } else {
      if (this.since < 0) { this.since = this.tick; this.looksThen = looks[sonar]! }
      this.wants[1] = this.tick - this.since >= Math.ceil(0.1 / this.dt - 1e-9) && looks[sonar]! > this.looksThen ? 1 : 0
    }
    this.wants[2] = r[turned]! > 370 * Math.PI / 180 || r[travel]! > 30 ? 1 : 0
    this.wants[3] = 1
    const top = this.wants[0] === 1 ? 0 : this.wants[1] === 1 ? 1 : this.wants[2] === 1 ? 2 : 3
    if (this.control === 0 && this.pc !== -1) {
      if (this.tick >= this.until) { this.pc = -1; this.heldBack = false; this.control = top; if (top === 0) this.beginBack() }
    } else {
      if (this.control !== top) { this.pc = -1; this.heldBack = false }
      this.control = top
      if (top === 0) this.beginBack()
    }
    const c = this.commands
    switch (this.control) {
      case 0:
        this.step = 1
        if (this.heldBack) { c[0] = 2; c[1] = -0.2; c[2] = -0.2 }
        break
      case 1:
        if (pressedLeft) { this.step = 2; c[0] = 3; c[1] = 0.18; c[2] = 0.45 } else if (pressedRight) { this.step = 3; c[0] = 3; c[1] = 0.45; c[2] = 0.18 } else {
          this.step = 4
          const distance = r[sonar] === Infinity ? 2.5 : r[sonar]!
          const most = 40 * Math.PI / 180
          const rate = Math.min(most, Math.max(-most, (distance - 0.4) * 1.5 * (Math.PI / 180) / 0.01))
          c[0] = 2
          c[1] = 0.28 + rate * this.track / 2
          c[2] = 0.28 - rate * this.track / 2
        }
        break
      case 2: this.step = 5; break
      default: {
        this.step = 6
        const bend = 60 * Math.PI / 180 * this.track / 2
        c[0] = 2
        c[1] = bend
        c[2] = -bend
      }
    }
  }

  private beginBack(): void {
    this.pushes++
    this.until = this.tick + Math.ceil(0.5 / this.dt - 1e-9)
    this.pc = 0
    this.heldBack = true
  }

  get pushed(): number { return this.pushes }
}

/** Readings as a robot has them on its way, the same for both. */
function course(facts: RobotFacts, ticks: number): Float64Array[] {
  const first = (name: string) => facts.devices.find(d => d.name === name)!.first
  return Array.from({ length: ticks }, (_, t) => {
    const raw = new Float64Array(facts.readingCount)
    raw[first('sonar')] = t % 160 < 20 ? Infinity : 0.3 + 1.2 * Math.abs(Math.sin(t / 90))
    raw[first('bumper_left')] = t % 300 > 285 ? 1 : 0
    raw[first('bumper_right')] = t % 450 > 435 ? 1 : 0
    raw[first('gyro')] = (t % 2000) / 300
    return raw
  })
}

/** The time of the machine over the time of the controller by hand, on the same readings. */
export function vmRatio(): number {
  const robot = readRobot(JSON.parse(readFileSync('demo/robots/limpet.json', 'utf8')))
  if (!robot.ok) throw new Error('the demo robot')
  const facts = factsOf(robot.value)
  const checked = checkProgram(PROGRAM, facts)
  if (!checked.runs) throw new Error(checked.diagnostics[0]!.message)
  const program = compileProgram(checked.analysis)
  const readings = course(facts, 2000)
  const looks = new Float64Array(facts.readingCount)
  const index = (name: string) => facts.devices.find(d => d.name === name)!.first
  const make = () => ({
    vm: new Vm(program, facts, 1),
    hand: new ByHand({ sonar: index('sonar'), left: index('bumper_left'), right: index('bumper_right'), turned: index('gyro'), travel: index('wheels') + 1 }, facts.readingCount, driveOf(facts)!.track, facts.tick),
  })
  agree(make(), readings, looks)
  const { vm, hand } = make()
  const rounds = 300
  const time = (work: (raw: Float64Array) => void): number => {
    const begin = performance.now()
    for (const raw of readings) {
      looks[index('sonar')] = looks[index('sonar')]! + 1
      work(raw)
    }
    return performance.now() - begin
  }
  const input = { raw: readings[0]!, looks, began: looks, still: false }
  const ratios: number[] = []
  for (let i = 0; i < rounds; i++) {
    const machine = time((raw) => { input.raw = raw; vm.run(input) })
    const byHand = time(raw => hand.run(raw, looks))
    if (i >= rounds / 3) ratios.push(machine / byHand)
  }
  return ratios.sort((a, b) => a - b)[ratios.length >> 1]!
}

/** Rules in one mode, and ticks, of which rule evaluations are counted. */
const RULES = 100
const TICKS = 4000

/** Rule evaluations a second: a mode of a hundred rules, each a comparison, a truth and a `for`, worked out on every tick. */
export function ruleRate(): number {
  const robot = readRobot(JSON.parse(readFileSync('demo/robots/limpet.json', 'utf8')))
  if (!robot.ok) throw new Error('the demo robot')
  const facts = factsOf(robot.value)
  const rules = Array.from({ length: RULES }, (_, i) => `when sonar.distance < ${5 + i} mm and not bumper_left.pressed for 0.1 s -> drive ${i + 1} cm/s`)
  const checked = checkProgram(`${rules.join('\n')}\notherwise -> drive 20 cm/s`, facts)
  if (!checked.runs) throw new Error(checked.diagnostics[0]!.message)
  const vm = new Vm(compileProgram(checked.analysis), facts, 1)
  const readings = course(facts, TICKS)
  const looks = new Float64Array(facts.readingCount)
  const run = (): number => {
    const begin = performance.now()
    for (const raw of readings) vm.run({ raw, looks, began: looks, still: false })
    return (performance.now() - begin) / 1000
  }
  const times = [run(), run(), run(), run(), run()].sort((a, b) => a - b)
  return TICKS * (RULES + 1) / times[2]!
}

/** A comparison is worth something only where both do the same. */
function agree({ vm, hand }: { vm: Vm, hand: ByHand }, readings: readonly Float64Array[], looks: Float64Array): void {
  const counts = Float64Array.from(looks)
  readings.forEach((raw, t) => {
    for (let i = 0; i < counts.length; i++) counts[i] = t
    vm.run({ raw, looks: counts, began: counts, still: false })
    hand.run(raw, counts)
    const rule = vm.lane(0).rule
    for (let i = 0; i < 3; i++) {
      if (rule !== hand.control || Math.abs(vm.commands[i]! - hand.commands[i]!) > 1e-9) {
        throw new Error(`tick ${t}: the machine says rule ${rule} ${[...vm.commands].join(' ')}, by hand it is rule ${hand.control} ${[...hand.commands].join(' ')}`)
      }
    }
  })
}
