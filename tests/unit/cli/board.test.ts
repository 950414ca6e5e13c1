import { expect, test } from 'vitest'
import { onFirmata } from '../../../cli/board'
import firmata from '../../../core/hardware/boards/firmata.json'
import rp2040 from '../../../core/hardware/boards/rp2040.json'
import type { Robot } from '../../../core/robot'
import { limpet } from '../kit'

/** By which board a robot is driven from the command line, and as which it poses: as on the page. */

const wiredTo = (document: object): Robot => ({ ...limpet(), wiring: { board: 'workbench', ports: {}, 'own board': { ...document, name: 'workbench' } } })

test('is the robot’s own where that speaks Firmata, else ours that does; or the one that is asked for', async () => {
  const board = async (robot: Robot, called?: string): Promise<string> => (await onFirmata(robot, 'limpet.json', called)).board.name
  expect(await board(wiredTo(firmata))).toBe('workbench')
  expect(await board(wiredTo(rp2040))).toBe('firmata')
  expect(await board(limpet())).toBe('firmata')
  expect(await board(wiredTo(firmata), 'firmata')).toBe('firmata')
  await expect(board(wiredTo(rp2040), 'workbench')).rejects.toThrow('--board is workbench, which does not speak Firmata; allowed is firmata, or the file of another that does')
})
