import type { RobotFacts } from '../robot'
import type { Tape } from '../tape'
import { columnValue, unitOf, type Column } from './columns'

/** Rows of a file that are made at a time. */
const BATCH = 1000

/** A field as RFC 4180 has it: in quotes where it needs them. */
export const field = (text: string): string => /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text

/**
 * A tape as comma-separated values (RFC 4180), in pieces: a header with the units, then a line for every so many ticks. The time is
 * in seconds; what is farther than any number, as "no echo" is, is left empty; truths are 1 and 0, colours their names.
 */
export function* csvOf(tape: Tape, { colors }: Pick<RobotFacts, 'colors'>, columns: readonly Column[], every = 1): Generator<string> {
  const { dt } = tape.layout
  const units = columns.map(unitOf)
  let text = `${['time [s]', ...columns.map((c, i) => units[i] === null ? c.title : `${c.title} [${units[i]!.name}]`)].map(field).join(',')}\r\n`
  let held = 0
  for (let tick = tape.first; tick < tape.rows; tick += every) {
    const row = tape.at(tick)
    const cells = columns.map((c, i) => {
      const value = columnValue(c, row[c.column]!, tick, dt)
      switch (c.spec.type.type) {
        case 'truth': return value === 0 ? '0' : '1'
        case 'color': return field(colors[value] ?? 'none')
        case 'quantity': return Number.isFinite(value) ? figure(value / (units[i]?.scale ?? 1)) : ''
      }
    })
    text += `${figure(tick * dt)}${cells.length === 0 ? '' : ','}${cells.join(',')}\r\n`
    if (++held === BATCH) {
      yield text
      text = ''
      held = 0
    }
  }
  if (text !== '') yield text
}

/** To a millionth, without what arithmetic leaves behind. */
const figure = (value: number): string => String(Math.round(value * 1e6) / 1e6 + 0)
