import type { EveryTick } from '../program'
import type { RobotFacts } from '../robot'
import type { Machine } from './machine'
import type { ValueLoader } from './values'

/** What works out one named value, or follows one over time, at the beginning of a tick. */
export function everyTick(what: EveryTick, values: ValueLoader, facts: RobotFacts): (m: Machine) => void {
  const { cell } = what
  switch (what.does) {
    case 'let': { const value = values.number(what.value); return (m) => { m.cells[cell] = value(m) } }
    case 'total': { const of = values.number(what.of); return (m) => { m.cells[cell] = m.cells[cell]! + of(m) * m.dt } }
    case 'since': { const test = values.truth(what.test); return (m) => { if (test(m)) m.cells[cell] = m.tick } }
    case 'rate': return rate(what, values, facts)
    default: return overTime(what, values)
  }
}

function overTime(what: Extract<EveryTick, { does: 'mean' | 'lowest' | 'highest' }>, values: ValueLoader): (m: Machine) => void {
  const { cell, most, does } = what
  const of = values.number(what.of)
  const time = values.number(what.time)
  const first = cell + 2
  return (m) => {
    const { cells } = m
    const count = cells[cell + 1]!
    cells[first + count % most] = of(m)
    cells[cell + 1] = count + 1
    const wanted = Math.min(most, count + 1, Math.max(1, Math.ceil(time(m) / m.dt - 1e-9)))
    let found = does === 'mean' ? 0 : does === 'lowest' ? Infinity : -Infinity
    // The oldest first, as sums depend on their order.
    for (let i = count + 1 - wanted; i <= count; i++) {
      const x = cells[first + i % most]!
      if (does === 'mean') found += x
      else if (does === 'lowest' ? x < found : x > found) found = x
    }
    cells[cell] = does === 'mean' ? found / wanted : found
  }
}

function rate(what: Extract<EveryTick, { does: 'rate' }>, values: ValueLoader, facts: RobotFacts): (m: Machine) => void {
  const { cell } = what
  const of = values.number(what.of)
  const devices = what.devices.map((name) => {
    const device = facts.devices.find(d => d.name === name)
    if (device === undefined) throw new Error(`the robot ${facts.robot} has no device ${name}`)
    return device.first
  })
  const [before, at, looks] = [cell + 1, cell + 2, cell + 3]
  return (m) => {
    const { cells } = m
    let looked = devices.length === 0
    for (let i = 0; i < devices.length; i++) {
      const count = m.looks[devices[i]!]!
      if (count !== cells[looks + i]) looked = true
      cells[looks + i] = count
    }
    if (!looked) return
    const x = of(m)
    if (cells[at]! >= 0) cells[cell] = (x - cells[before]!) / ((m.tick - cells[at]!) * m.dt)
    cells[before] = x
    cells[at] = m.tick
  }
}
