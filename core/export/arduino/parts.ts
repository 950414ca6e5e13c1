import { NAMING, WHEELS, namedPlaces, type DriveSettings } from '../../devices'
import { curveOf, fittedOn, type Board, type Fitted } from '../../hardware'
import { driveOf, type DeviceFacts, type PortWiring, type Robot, type RobotFacts, type Wiring } from '../../robot'
import { UNCOUNTED, countsOver, wayOf, type Missing, type Parts } from '../parts'
import type { WrittenProgram } from '../written'
import { driverLibrary } from './runtime'
import { float } from './values'

type Joint = { readonly from: number, readonly to: number, readonly home: number, readonly start?: number, readonly speed: number }

/** What white paper gives a colour sensor, until it was measured. */
const WHITE = 6000

/** The parts of a robot as a board reaches them by the boards' own library for C++: those that the program has to do with. `wiring` can be built. */
export function partsIn(robot: Robot, facts: RobotFacts, board: Board, wiring: Wiring, { devices: names, screens }: WrittenProgram): Parts {
  const missing: Missing[] = []
  const writer = new Writer(robot, facts, board, wiring, screens)
  const devices = facts.devices.filter(d => names.has(d.name))
  const lines = devices.flatMap((d) => {
    const device = names.get(d.name)!
    const made = writer.part(d, device)
    if (!('why' in made)) return [...made.before, `${made.type} ${device}_part(${[device, ...made.given].join(', ')});`]
    missing.push({ device: d.name, why: made.why })
    return [`Nothing ${device}_part(${device}, 0b${d.readings.map(r => r.mayMiss === true ? '1' : '0').reverse().join('') || '0'});  // ${made.why}`]
  })
  const all = `Part* const parts[PARTS] = {${devices.map(d => `&${names.get(d.name)!}_part`).join(', ')}};`
  const drivers = driverLibrary().for(`${[...lines, all].join('\n')} begin_robot run_robot`)
  const heads = [
    '#pragma once', '#include "program.h"', ...drivers.includes('Wire.') ? ['#include <Wire.h>'] : [], '#ifdef __AVR__', '#include <avr/sleep.h>', '#endif', '', `#define PARTS ${devices.length}`,
    ...drivers.includes('WHITE') ? [`const Number WHITE[] = {${WHITE}, ${WHITE}, ${WHITE}};  // red, green and blue over white paper: to be measured`] : [],
  ]
  return { missing, hardware: `// How ${robot.name} is connected to ${board.name}, and how its parts are reached.\n${heads.join('\n')}\n\n${drivers}\n\n${[...lines, all].join('\n')}\n` }
}

/** A part: its driver, what it is made of behind its device, and what stands before it. */
interface Made { readonly type: string, readonly given: readonly string[], readonly before: readonly string[] }

class Writer {
  private readonly fitted: readonly Fitted[]
  private encoders = 0

  constructor(private readonly robot: Robot, private readonly facts: RobotFacts, private readonly board: Board, private readonly wiring: Wiring, private readonly screens: ReadonlyMap<string, string>) {
    this.fitted = fittedOn(robot)
  }

  /** Why there is none, where there is none. */
  part(d: DeviceFacts, device: string): Made | { readonly why: string } {
    if (d.kind === WHEELS) return this.wheels()
    const wired = this.wiring.ports[d.port]
    const fitted = this.fitted.find(f => f.port === d.port)
    if (wired === undefined) return { why: (fitted?.connections.length ?? 0) === 0 ? 'no such board can have one' : 'it is not connected' }
    const pin = (line: string): string => pinNumber(wired.pins[line]!)
    const p = d.parameters as Joint & Readonly<Record<string, number>>
    const period = float(d.round)
    const address = `0x${(wired.address ?? 0).toString(16)}`
    const make = (type: string, ...given: readonly string[]): Made => ({ type, given, before: [] })
    const servo = (low: number, high: number): readonly string[] => [`Servo ${device}_servo(${pin('signal')}, ${float(low)}, ${float(high)});`]
    switch (`${d.kind} by ${wayOf(wired.by)}`) {
      case 'bumper by switch': case 'touch by switch': case 'gate by switch': return make('Switch', pin('signal'), period)
      case 'sonar by trigger and echo': return make('Echo', pin('trigger'), pin('echo'), float(p['nearest']!), float(p['range']!), period)
      case 'sonar by bus': return make('RangingChip', address, float(p['nearest']!), float(p['range']!), period)
      case 'sonar by voltage': case 'tof by voltage': return this.voltage('FarVoltage', d, device, wired)
      case 'light by voltage': case 'sound by voltage': return this.voltage('Voltage', d, device, wired)
      case 'tof by bus': return make('FlashChip', address, float(p['nearest']!), float(p['range']!), period, 'NO_PIN')
      case 'tof by bus and shut line': return make('FlashChip', address, float(p['nearest']!), float(p['range']!), period, pin('shut'))
      case 'gyro by bus': return make('RateChip', address, float(p['limit']!), period)
      case 'color by bus': {
        const places = namedPlaces(this.robot.taught).map(n => `{${[String(n.index), ...[n.a, n.b, n.light].map(x => float(Number(x.toFixed(4))))].join(', ')}}`)
        return {
          type: 'ColorChip', given: [address, `${device}_places`, String(places.length), float(NAMING.farthest), float(NAMING.margin), period],
          before: [`const ColorPlace ${device}_places[] PROGMEM = {${places.join(', ')}};`],
        }
      }
      case 'joint by servo': case 'slide by servo': return { type: 'ServoJoint', given: [`${device}_servo`, float(p.start ?? p.home), float(p.speed), float(p.home)], before: servo(p.from, p.to) }
      case 'claw by servo': return { type: 'ServoClaw', given: [`${device}_servo`, float(p['opening']!), float(p.speed)], before: servo(0, p['opening']!) }
      case 'motor by motor':
        return { type: 'Turning', given: [`${device}_shaft`], before: this.shaft(device, wired, p['ticks']!, p.speed, p.speed / 0.15) }
      case 'joint by motor': case 'slide by motor':
        return this.geared(device, wired, p.to - p.from, p.speed, 'MotorJoint', float(p.from), float(p.to), float(p.start ?? p.home), float(p.home))
      case 'claw by motor': return this.geared(device, wired, p['opening']!, p.speed, 'MotorClaw', float(p['opening']!))
      case 'display by bus': {
        const screen = this.screens.get(d.name)
        return screen === undefined ? { why: 'nothing is written on it' } : make('TextDisplay', screen, address)
      }
      case 'magnet by transistor': return make('Transistor', pin('signal'))
      case 'lamp by three pins': return make('ThreePinLamp', pin('red'), pin('green'), pin('blue'))
      case 'lamp by one pin': return make('OnePinLamp', pin('signal'))
      case 'lamp by data line': return make('DataLineLamp', pin('signal'))
      case 'horn by tone': return make('Sounder', pin('signal'))
      default: return { why: `there is no driver for a ${d.title} by ${wired.by}: write one in the shape of the others` }
    }
  }

  private shaft(name: string, wired: PortWiring, counts: number, top: number, acceleration: number, dead?: number): readonly string[] {
    const { pins } = wired
    const pin = (line: string): string => pinNumber(pins[line]!)
    const motor = wired.by === 'two pins' ? `TwoPins ${name}_motor(${pin('forwards')}, ${pin('backwards')});` : `PinAndDirection ${name}_motor(${pin('power')}, ${pin('direction')});`
    const counted = pins['encoder a'] !== undefined
    const encoder = `encoder_${this.encoders}`
    if (counted) this.encoders++
    return [
      motor, ...counted ? [`extern Encoder ${encoder};`, `Encoder ${encoder}(${pin('encoder a')}, ${pin('encoder b')}, ${float(counts)}, [] { ${encoder}.count_edge(); });`] : [],
      `Shaft ${name}_shaft(${[`${name}_motor`, counted ? `&${encoder}` : 'nullptr', float(top), float(acceleration), ...dead === undefined ? [] : [float(dead)]].join(', ')});`,
    ]
  }

  /** What is moved between two ends, by its shaft; why there is none. */
  private geared(device: string, wired: PortWiring, range: number, speed: number, type: string, ...given: readonly string[]): Made | { readonly why: string } {
    if (wired.pins['encoder a'] !== undefined && wired.counts === undefined) return { why: UNCOUNTED }
    return { type, given: [`${device}_shaft`, ...given], before: this.shaft(device, wired, countsOver(wired.counts ?? 1, range), speed, speed / 0.15) }
  }

  private wheels(): Made | { readonly why: string } {
    const d: DriveSettings = driveOf(this.facts)!
    const sides = this.robot.drive!.ports.map(port => this.wiring.ports[port])
    if (sides.some(s => s === undefined)) return { why: 'a wheel is not connected' }
    const before = sides.flatMap((s, i) => this.shaft(i === 0 ? 'left' : 'right', s!, d['encoder ticks'], d['top speed'] / d.radius, d.acceleration / d.radius, d['dead zone']))
    return { type: 'WheelPair', given: ['left_shaft', 'right_shaft', float(d.radius), float(d.track)], before }
  }

  private voltage(driver: string, d: DeviceFacts, device: string, wired: PortWiring): Made | { readonly why: string } {
    const { volts: supply } = this.board
    // A level is a share of the supply where nothing else is said; what a distance is worth has to be said.
    const curve = curveOf(wired, this.fitted.find(f => f.port === d.port)!.reads) ?? (driver === 'Voltage' ? [[0, 0] as const, [supply, 1] as const] : null)
    if (curve === null) return { why: 'what its voltage means is not given: a curve, in the wiring' }
    return {
      type: driver, given: [pinNumber(wired.pins['signal']!), float(supply), `${device}_curve`, String(curve.length), float(d.round)],
      before: [`const OnCurve ${device}_curve[] = {${curve.map(([volts, value]) => `{${float(volts)}, ${float(value)}}`).join(', ')}};`],
    }
  }
}

/** As the boards' library calls pins: D2 by its number, others by their names. */
function pinNumber(name: string): string {
  const number = /^D(\d+)$/.exec(name)
  return number === null ? name : String(Number(number[1]))
}
