import { Command } from 'commander'
import { addCheck } from './check'
import { addCompile } from './compile'
import { addFormat } from './format'
import { addReplay } from './replay'
import { addSim } from './sim'
import { runCommands } from './usage'

/** The command line over the core. */
const program = new Command('mindpath')
const exit = { code: 0 }
addSim(program, exit)
addReplay(program, exit)
addCheck(program, exit)
addCompile(program)
addFormat(program, exit)

const code = await runCommands(program, process.argv.slice(2)) || exit.code
// Node would wait for the physics library’s code to be compiled to its end, which nobody needs any more.
process.stdout.write('', () => process.exit(code))
