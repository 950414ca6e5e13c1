import { describe, expect, test } from 'vitest'
import { ENDLESS, hold, play, type Moment } from '../kit'

/** What programs mean on a clock: each rule of the language against a scripted course of readings. A tick is 20 ms. */

const near = { 'sonar.distance': 0.1, 'sonar.sees': 1 }
const far = { 'sonar.distance': 1.5, 'sonar.sees': 1 }
const lost = { 'sonar.distance': Infinity, 'sonar.sees': 0 }
const rules = (all: readonly Moment[]): number[] => all.map(m => m.rule)
const commands = (all: readonly Moment[]): string[] => all.map(m => m.command)
const notes = (all: readonly Moment[]): [number, string][] => all.flatMap((m, i) => m.events.filter(e => e.type === 'note').map(e => [i, e.text] as [number, string]))
const finished = (all: readonly Moment[]): number => all.findIndex(m => m.events.some(e => e.type === 'finish'))

describe('who has control', () => {
  const program = 'when sonar.distance < 20 cm -> halt\notherwise -> drive 20 cm/s'
  test('the first rule from the top that wants', () => {
    expect(rules(play(program, [far, near, near, far]))).toEqual([2, 1, 1, 2])
  })
  test('the program is worked out anew in every tick, in that tick', () => {
    expect(commands(play(program, [far, near, far]))).toEqual(['speed 0.20 0.20', 'brake', 'speed 0.20 0.20'])
  })
  test('where none wants, none has control and motions brake', () => {
    const all = play('when sonar.distance < 20 cm -> drive 10 cm/s', [near, near, far, near])
    expect(rules(all)).toEqual([1, 1, 0, 1])
    expect(commands(all)).toEqual(['speed 0.10 0.10', 'speed 0.10 0.10', 'brake', 'speed 0.10 0.10'])
  })
  test('a rule higher up takes over in the middle of steps, and they never resume', () => {
    const all = play('when bumper_left.pressed -> halt\nwhen sonar.sees\n  note "a"\n  wait 0.06 s\n  note "b"', [
      near, {}, { 'bumper_left.pressed': 1 }, { 'bumper_left.pressed': 0 }, {}, {}, {}, {},
    ])
    expect(rules(all)).toEqual([2, 2, 1, 2, 2, 2, 2, 2])
    expect(notes(all)).toEqual([[0, 'a'], [3, 'a'], [6, 'b'], [6, 'a']])
  })
  test('a rule in the middle of its steps carries on although its condition ended', () => {
    expect(rules(play('when sonar.sees\n  wait 0.06 s\notherwise -> coast', [near, lost, {}, {}, {}]))).toEqual([1, 1, 1, 2, 2])
  })
  test('a stepped rule that is still on top starts again in the same tick', () => {
    expect(notes(play('when sonar.sees\n  note "x"\n  wait 0.04 s', [near, ...hold(5)])).map(n => n[0])).toEqual([0, 2, 4])
  })
  test('a stepped rule whose steps take no time starts once a tick', () => {
    expect(notes(play('when sonar.sees\n  note "x"\n  wait 0 s', [near, ...hold(2)])).map(n => n[0])).toEqual([0, 1, 2])
  })
  test('off switches a rule and a step off', () => {
    expect(rules(play('off when sonar.sees -> halt\notherwise -> coast', [near]))).toEqual([1])
    expect(commands(play('start\n  off drive 10 cm/s for 1 s\n  drive 20 cm/s for 1 s', [far]))).toEqual(['speed 0.20 0.20'])
  })
})

describe('live and stepped', () => {
  test('a live rule chooses anew every tick', () => {
    const all = play('otherwise\n  if sonar.distance < 20 cm\n    turn left 90 deg/s\n  else\n    drive 20 cm/s', [far, near, far])
    expect(commands(all)[0]).toBe('speed 0.20 0.20')
    expect(commands(all)[1]).toMatch(/^speed -0\.1\d 0\.1\d$/)
    expect(commands(all)[2]).toBe('speed 0.20 0.20')
  })
  test('what a pass of a live rule does not move, stops', () => {
    expect(commands(play('otherwise\n  if sonar.sees\n    drive 20 cm/s', [near, lost, near]))).toEqual(['speed 0.20 0.20', 'brake', 'speed 0.20 0.20'])
  })
  test('a note in a live rule is written once per activation', () => {
    expect(notes(play('when sonar.sees -> note "x"', [near, {}, {}, lost, near, {}]))).toEqual([[0, 'x'], [4, 'x']])
  })
  test('speeds follow the readings, measures are taken when the step begins', () => {
    const live = play('otherwise -> drive (sonar.distance - 10 cm) * 0.8 cm/s per cm', [{ 'sonar.distance': 0.35 }, { 'sonar.distance': 0.2 }])
    expect(commands(live)).toEqual(['speed 0.20 0.20', 'speed 0.08 0.08'])
    const fixed = play('memory length = 4 cm\nstart\n  drive length\n  note "done"', [{}, { 'wheels.travel': 0.03 }, { 'wheels.travel': 0.04 }, {}, {}])
    expect(notes(fixed).map(n => n[0])).toEqual([3])
  })
  test('no echo is farther than anything in a comparison, and the maximum in arithmetic', () => {
    expect(rules(play('when sonar.distance < 20 cm -> halt\nwhen 2 m < sonar.distance -> coast', [lost]))).toEqual([2])
    expect(notes(play('start -> note "{sonar.distance}, {sonar.distance * 2}"', [lost]))).toEqual([[0, 'no echo, 500 cm']])
  })
})

describe('once, until, for, every', () => {
  test('a once rule stands aside until its condition has been false', () => {
    expect(rules(play('when sonar.sees once\n  wait 0.04 s\notherwise -> coast', [near, {}, {}, {}, lost, near, {}]))).toEqual([1, 1, 2, 2, 2, 1, 1])
  })
  test('a once rule that was dropped halfway is not done', () => {
    const all = play('when bumper_left.pressed -> halt\nwhen sonar.sees once\n  wait 0.04 s\n  note "done"', [
      near, { 'bumper_left.pressed': 1 }, { 'bumper_left.pressed': 0 }, {}, {}, {},
    ])
    expect(rules(all)).toEqual([2, 1, 2, 2, 0, 0])
    expect(notes(all)).toEqual([[4, 'done']])
  })
  test('a live once rule acts, and what is in control goes on', () => {
    const all = play('when sonar.sees once -> note "seen"\notherwise -> drive 20 cm/s', [lost, near, {}, lost, near])
    expect(rules(all)).toEqual([2, 2, 2, 2, 2])
    expect(notes(all).map(n => n[0])).toEqual([1, 4])
    expect(new Set(commands(all))).toEqual(new Set(['speed 0.20 0.20']))
  })
  test('until holds wanting from one condition to another, and wins where both are true', () => {
    const program = 'when sonar.distance < 20 cm until sonar.distance > 60 cm -> halt\notherwise -> coast'
    const at = (d: number) => ({ 'sonar.distance': d })
    expect(rules(play(program, [at(0.5), at(0.1), at(0.5), at(0.7), at(0.5)]))).toEqual([2, 1, 1, 2, 2])
    expect(rules(play('when sonar.sees until bumper_left.pressed -> halt', [near, { 'bumper_left.pressed': 1 }, {}]))).toEqual([1, 0, 0])
  })
  test('until latches while outranked', () => {
    const program = 'when bumper_left.pressed -> halt\nwhen sonar.sees until bumper_right.pressed -> coast'
    expect(rules(play(program, [{ ...near, 'bumper_left.pressed': 1 }, lost, { 'bumper_left.pressed': 0 }]))).toEqual([1, 1, 2])
  })
  test('for asks for that long without a break', () => {
    // 0.06 s are three ticks; the first tick begins them.
    expect(rules(play('when sonar.sees for 0.06 s -> halt', [near, {}, {}, {}, lost, near, {}]))).toEqual([0, 0, 0, 1, 0, 0, 0])
  })
  test('every is first true that long after entry, and acts once', () => {
    expect(notes(play('when every 0.06 s -> note "x"', hold(8))).map(n => n[0])).toEqual([3, 6])
  })
})

describe('steps that take time', () => {
  test('a wait rounds up to whole ticks', () => {
    expect(notes(play('start\n  wait 0.05 s\n  note "x"', hold(6))).map(n => n[0])).toEqual([3])
  })
  test('wait until goes on in the tick in which it is true, at most after its time', () => {
    expect(notes(play('start\n  wait until sonar.sees\n  note "x"', [lost, {}, near, {}])).map(n => n[0])).toEqual([2])
    expect(notes(play('start\n  wait until sonar.sees at most 0.04 s\n  note "x"', [lost, ...hold(4)])).map(n => n[0])).toEqual([2])
  })
  test('a motion lasts for its time and brakes behind it', () => {
    expect(commands(play('start\n  drive 20 cm/s for 0.04 s\n  wait 0.04 s', hold(4)))).toEqual(['speed 0.20 0.20', 'speed 0.20 0.20', 'brake', 'brake'])
  })
  test('a motion goes on until its condition; one already true commands nothing', () => {
    expect(commands(play('start\n  drive 20 cm/s until sonar.sees\n  wait 1 s', [lost, {}, near, {}]))).toEqual(['speed 0.20 0.20', 'speed 0.20 0.20', 'brake', 'brake'])
    expect(commands(play('start\n  drive 20 cm/s until sonar.sees\n  wait 1 s', [near]))).toEqual(['brake'])
  })
  test('a held motion goes on through the steps behind it and ends with its rule', () => {
    expect(commands(play('when sonar.sees\n  drive 20 cm/s\n  wait 0.04 s\n  halt\n  wait 0.02 s', [near, {}, lost, {}]))).toEqual(['speed 0.20 0.20', 'speed 0.20 0.20', 'brake', 'brake'])
  })
  test('there is no gap where the next rule moves the same wheels', () => {
    const all = play('when sonar.distance < 20 cm -> drive back 10 cm/s\notherwise -> drive 20 cm/s', [far, near, far])
    expect(commands(all)).not.toContain('brake')
  })
  test('a turn is measured by the gyro', () => {
    const all = play('start\n  turn right 90 deg\n  note "there"', [{}, { 'gyro.turned': 1.5 }, { 'gyro.turned': Math.PI / 2 }, {}, {}])
    expect(all[0]!.command).toMatch(/^speed 0\.14 -0\.14$/)
    expect(notes(all).map(n => n[0])).toEqual([3])
  })
  test('turn to takes the shorter way', () => {
    const all = play('start\n  turn to 170 deg', [{ 'gyro.turned': -170 * Math.PI / 180 }])
    expect(all[0]!.command).toMatch(/^speed -0\.\d+ 0\.\d+$/)
  })
  test('negative measures reverse', () => {
    expect(play('start\n  drive -20 cm', [{}])[0]!.command).toMatch(/^speed -0\.20 -0\.20$/)
    expect(play('start\n  drive back -20 cm/s for 1 s', [{}])[0]!.command).toBe('speed 0.20 0.20')
  })
  test('a stalled motion ends by itself after a second and says so', () => {
    const all = play('start\n  drive 20 cm\n  note "on"', [{ 'wheels.stalled': 1 }, ...hold(60)])
    const at = all.findIndex(m => m.events.some(e => e.type === 'blocked'))
    expect(at).toBeGreaterThanOrEqual(49)
    expect(at).toBeLessThanOrEqual(51)
    expect(notes(all).map(n => n[0])).toEqual([at])
  })
  test('repeat counts, leaves and tests', () => {
    expect(notes(play('start\n  repeat 3 times\n    note "x"\n    wait 0.02 s', hold(6))).length).toBe(3)
    expect(notes(play('memory n = 0\nstart\n  repeat\n    set n = n + 1\n    if n > 2\n      leave\n    wait 0.02 s\n  note "{n}"', hold(6)))).toEqual([[2, '3']])
    expect(notes(play('memory n = 0\nstart\n  repeat until n >= 4\n    set n = n + 1\n  note "{n}"', hold(1)))).toEqual([[0, '4']])
  })
  test('choose takes the way of its value', () => {
    const program = 'memory n = 2\nstart\n  choose n\n    is 1\n      note "one"\n    is 2, 3\n      note "some"\n    else\n      note "many"'
    expect(notes(play(program, hold(1)))).toEqual([[0, 'some']])
  })
  test('random is drawn when the step begins, from the seed', () => {
    const program = 'start\n  repeat 3 times\n    drive 20 cm/s for random 0.02 s to 0.2 s\n    note "x"'
    const ticks = (seed: number) => notes(play(program, hold(40), seed)).map(n => n[0])
    expect(ticks(1)).toEqual(ticks(1))
    expect(ticks(1)).not.toEqual(ticks(2))
    expect(ticks(1).length).toBe(3)
  })
})

describe('modes, lanes, routines', () => {
  test('the first mode is entered first; go enters another in the same tick', () => {
    const all = play('mode a\n  when sonar.sees -> go b\n  otherwise -> coast\nmode b\n  otherwise -> drive 10 cm/s', [lost, near, {}])
    expect(all.map(m => m.mode)).toEqual(['a', 'b', 'b'])
    expect(all[1]!.command).toBe('speed 0.10 0.10')
  })
  test('rules before the first mode belong to every mode, above its own', () => {
    const all = play('when bumper_left.pressed -> halt\nmode a\n  when sonar.sees -> go b\nmode b\n  otherwise -> coast', [near, { 'bumper_left.pressed': 1 }])
    expect(all.map(m => [m.mode, m.rule])).toEqual([['b', 2], ['b', 1]])
  })
  test('start of a mode runs before its rules are looked at', () => {
    const all = play('mode a\n  start -> reset gyro.turned\n  when gyro.turned > 90 deg -> finish "too early"\n  otherwise -> coast', [{ 'gyro.turned': 3 }, {}])
    expect(finished(all)).toBe(-1)
  })
  test('a second go in a tick waits for the next', () => {
    const all = play('mode a\n  otherwise -> go b\nmode b\n  otherwise -> go a', hold(4))
    expect(all.map(m => m.mode)).toEqual(['b', 'a', 'b', 'a'])
  })
  test('entering a mode begins its time and timers anew, also from itself', () => {
    const all = play('mode a\n  when mode.time >= 0.06 s -> go a\n  when sonar.sees for 0.08 s -> note "never"\n  otherwise -> coast', [near, ...hold(12)])
    expect(notes(all)).toEqual([])
  })
  test('timers of rules above the modes run on across go', () => {
    const all = play('when sonar.sees for 0.08 s once -> note "seen"\nmode a\n  when mode.time >= 0.04 s -> go a\n  otherwise -> coast', [near, ...hold(8)])
    expect(notes(all).map(n => n[0])).toEqual([4])
  })
  test('a signal is heard in the next tick only, also by its sender', () => {
    const all = play('when heard bell -> note "main"\nlane b\n  when sonar.sees once -> send bell\n  when heard bell -> note "b"', [near, {}, {}, {}])
    expect(notes(all)).toEqual([[1, 'main'], [1, 'b']])
  })
  test('lanes share memory, and the higher lane goes first', () => {
    const all = play('memory n = 0\nwhen sonar.sees once -> set n = 5\nlane b\n  when n is 5 -> note "at once"', [lost, near])
    expect(notes(all)).toEqual([[1, 'at once']])
  })
  test('a routine is its steps in place of the do, with values worked out at the do', () => {
    const all = play('memory n = 2 cm\nstart\n  do twice(n)\n  set n = 9 cm\nroutine twice(x)\n  note "{x}"\n  wait 0.02 s\n  note "{x * 2}"', hold(3))
    expect(notes(all)).toEqual([[0, '2 cm'], [1, '4 cm']])
  })
  test('at most ends a routine where it is', () => {
    const all = play('start\n  do slow at most 0.04 s\n  note "on"\nroutine slow\n  repeat\n    drive 20 cm/s for 1 s', hold(4))
    expect(notes(all)).toEqual([[2, 'on']])
    expect(all[2]!.command).toBe('brake')
  })
})

describe('ends and errors', () => {
  test('finish ends with its tick and says why', () => {
    const all = play('when sonar.sees -> finish "at {sonar.distance}"\notherwise -> coast', [lost, near])
    expect(all[1]!.events).toEqual([{ type: 'finish', lane: 'main', why: 'at 10 cm' }])
  })
  test('a loop in which no time passes stops its lane and names the line; other lanes go on', () => {
    const all = play('memory n = 0\nstart\n  wait 0.02 s\n  repeat\n    set n = n + 1\nlane b\n  when every 0.04 s -> note "b {n > 5}"', hold(6))
    const error = all.flatMap(m => m.events).find(e => e.type === 'error')
    expect(error).toMatchObject({ lane: 'main', line: 4 })
    expect(notes(all).length).toBe(2)
  })
  test('it is stopped when the instructions of its rounds are over 10,000, whichever way they went', () => {
    // Rounds of the inner loop have 6 instructions, those of the outer one 10 besides: 192 of them, and 16 left for a part of one more.
    const outer = 193
    const rounds = 192 * 7 + 3
    expect(notes(play(ENDLESS, hold(8))).map(([, said]) => said)).toEqual(Array(2).fill(`${outer} ${51 * 2 + rounds - 51}`))
  })
  test('division by zero stops the lane with its line', () => {
    const all = play('memory n = 0\nstart\n  wait 0.02 s\n  set n = 1 / n', hold(3))
    expect(all.flatMap(m => m.events)).toEqual([{ type: 'error', lane: 'main', message: 'division by zero', line: 4 }])
  })
})
