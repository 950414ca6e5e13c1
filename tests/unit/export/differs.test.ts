import { describe, expect, test } from 'vitest'
import { exportTo, type Difference } from '../../../core/export'
import { BOARDS, wiringOn } from '../../../core/hardware'
import { readRobot, type Wiring } from '../../../core/robot'
import { demo, limpet } from '../kit'

/** What is known beforehand of a program on a board. */

const BOARD = BOARDS.find(b => b.name === 'atmega328p')!
function made(text: string, change: (wiring: Wiring) => Wiring = w => w) {
  const robot = limpet()
  const all = exportTo('arduino', { text, robot, board: BOARD, wiring: change(wiringOn(robot, BOARD).wiring), seed: 1 })
  if (!all.ok) throw new Error(all.says)
  return all
}
const told = (differs: readonly Difference[]): readonly unknown[] => differs.map(d => [d.device, d.lines, d.absent])

describe('what will differ on a board', () => {
  test('is told with the lines that meet it, and only where some do', () => {
    // Clips do not sound on it, and none is played.
    expect(told(made('start\n  tone 440 Hz for 1 s\n').differs)).toEqual([])
    // What its voltage means is not known: nothing of what it is asked comes about.
    const looks = 'when rear.distance < 10 cm\n  drive 20 cm/s\n'
    expect(told(made(looks).differs)).toEqual([])
    expect(told(made(looks, w => ({ ...w, ports: { ...w.ports, P7: { by: 'voltage', pins: { signal: 'A3' } } } })).differs)).toEqual([['rear', [1], true]])
  })
  test('of two wheels that lose the same it is told once, by the steps that move them', () => {
    const without = (w: Wiring): Wiring => ({ ...w, ports: { ...w.ports, ...Object.fromEntries(['A', 'B'].map((port) => { const { power, direction } = w.ports[port]!.pins; return [port, { by: 'no encoder', pins: { power: power!, direction: direction! } }] })) } })
    expect(made('when sonar.distance < 10 cm\n  halt\notherwise\n  drive 20 cm/s\n', without).differs).toEqual([
      { device: 'wheels', lines: [2, 4], absent: false, says: 'how far and how fast it turns is not known: what goes by a way or an angle goes by power and time' },
    ])
  })
  test('what a motor moves between two ends has no driver before it is told what its encoder counts, in either language', () => {
    const read = readRobot(demo('robots/cuttle.json'))
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const mega = BOARDS.find(b => b.name === 'atmega2560')!
    const { wiring } = wiringOn(read.value, mega)
    const pins = { power: 'D44', direction: 'D40', 'encoder a': 'D3', 'encoder b': 'D41' }
    const absent = (to: 'arduino' | 'micropython', counts: object): readonly string[] => {
      const all = exportTo(to, { text: 'start\n  move lift to 20 deg\n', robot: read.value, board: mega, wiring: { ...wiring, ports: { ...wiring.ports, C: { by: 'pin and direction', pins, ...counts } } }, seed: 1 })
      if (!all.ok) throw new Error(all.says)
      return all.differs.filter(d => d.absent).map(d => d.says)
    }
    for (const to of ['arduino', 'micropython'] as const) {
      expect(absent(to, {})).toEqual([expect.stringContaining('how many edges its encoder counts from end to end is not given')])
      expect(absent(to, { counts: 950 })).toEqual([])
    }
  })
  test('what it needs is told, with the time that looks take of what is there', () => {
    const needs = (text: string): readonly string[] => made(text).needs.map(n => n.says)
    expect(needs('when sonar.distance < 10 cm once\n  note "near"\n').at(-1)).toMatch(/^time: looks take about 0.0 ms of a tick of 20 ms, the program itself about 0.1 ms, and 0.\d ms when much begins at once$/)
    expect(needs('when gyro.rate > 1 deg/s\n  halt\n').at(-1)).toMatch(/^time: looks take about 0.4 ms of a tick of 20 ms, /)
    expect(made('let far = mean(sonar.distance, 8 s)\nwhen far < 10 cm once\n  note "near"\n').needs.map(n => n.enough)).toEqual([false, true, true])
  })
})
