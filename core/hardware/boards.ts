import type { Read } from '../document'
import type { Robot } from '../robot'
import { readBoard, type Board } from './board'
import atmega2560 from './boards/atmega2560.json'
import atmega328p from './boards/atmega328p.json'
import esp32 from './boards/esp32.json'
import firmata from './boards/firmata.json'
import rp2040 from './boards/rp2040.json'

/** The boards that are known; a new one is a document and a line here. Sources of their figures: docs/hardware.md. */
export const BOARDS: readonly Board[] = [atmega328p, atmega2560, rp2040, esp32, firmata].map((document) => {
  const read = readBoard(document)
  if (!read.ok) throw new Error(read.problems.map(p => `${p.path}: ${p.message}`).join('; '))
  return read.value
})

/** Reads the document of a board of one's own: a board, or all that is wrong with it. Its name is none of ours. */
export function readOwnBoard(document: unknown): Read<Board> {
  const read = readBoard(document)
  if (!read.ok || BOARDS.every(b => b.name !== read.value.name)) return read
  return { ok: false, problems: [{ path: 'name', value: JSON.stringify(read.value.name), message: 'one of our boards is called so; give yours another name' }] }
}

/** The board that a robot's document brings with it; null where it brings none. */
export function ownBoard(robot: Robot): Read<Board> | null {
  const document = robot.wiring?.['own board']
  if (document === undefined || document === null) return null
  const read = readOwnBoard(document)
  return read.ok ? read : { ok: false, problems: read.problems.map(p => ({ ...p, path: `wiring.own board.${p.path}` })) }
}

/** The boards that a robot may be wired to: ours, then its own. */
export function boardsFor(robot: Robot): readonly Board[] {
  const own = ownBoard(robot)
  return own?.ok === true ? [...BOARDS, own.value] : BOARDS
}

/** The board by which a robot is driven over a wire: its own where that speaks Firmata, else ours that does. */
export function drivenBoard(robot: Robot): Board {
  const speaks = boardsFor(robot).filter(b => b.language === 'firmata')
  return speaks.find(b => b.name === robot.wiring?.board) ?? speaks[0]!
}
