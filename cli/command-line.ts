import { Command } from 'commander'
import { addCheck } from './check'
import { addCompare } from './compare'
import { addCompile } from './compile'
import { addDrive } from './drive'
import { addExport } from './export'
import { addBoard } from './firmata'
import { addFormat } from './format'
import { addMeasure } from './measure'
import { addReplay } from './replay'
import { addReport } from './report'
import { addSim } from './sim'
import { addTrials } from './trials'
import { runCommands } from './usage'
import { addWhy } from './why'
import { addWiring } from './wiring'
import { addWorker } from './worker'

/** The command line over the core: does what is asked, and says with which code to exit. */
export async function commandLine(args: readonly string[]): Promise<number> {
  const program = new Command('mindpath')
  const exit = { code: 0 }
  addSim(program, exit)
  addReplay(program, exit)
  addCompare(program, exit)
  addWhy(program)
  addTrials(program, exit)
  addWorker(program, exit)
  addCheck(program, exit)
  addCompile(program)
  addWiring(program, exit)
  addExport(program)
  addBoard(program, exit)
  addDrive(program, exit)
  addReport(program, exit)
  addMeasure(program, exit)
  addFormat(program, exit)
  return await runCommands(program, args) || exit.code
}
