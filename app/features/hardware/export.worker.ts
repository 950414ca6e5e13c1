import { exportTo } from '~~/core/export'
import { boardsFor } from '~~/core/hardware'
import { readRobot } from '~~/core/robot'
import { zipOf } from '~~/core/zip'
import type { FromExport, ToExport } from './export'

/** Makes source for a board of a program, beside the page. */
self.onmessage = ({ data: { ask, text, robot, board: name, wiring } }: MessageEvent<ToExport>) => {
  const post = (message: FromExport): void => { (self as unknown as { postMessage(m: FromExport): void }).postMessage(message) }
  const read = readRobot(robot)
  const board = read.ok ? boardsFor(read.value).find(b => b.name === name) : undefined
  if (!read.ok || board === undefined || board.language === 'firmata') return post({ ask, says: 'the robot has something wrong', zip: null, differs: [], needs: [] })
  const made = exportTo(board.language, { text, robot: read.value, board, wiring, seed: 1 })
  if (made.ok) post({ ask, says: null, zip: zipOf(made.files), differs: made.differs, needs: made.needs })
  else post({ ask, says: made.diagnostics.length > 0 ? `${made.says}: ${made.diagnostics.find(d => d.severity === 'error')!.message}` : made.says, zip: null, differs: [], needs: [] })
}
