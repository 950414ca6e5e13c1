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
