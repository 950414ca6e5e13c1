import { CHECK_USAGE, checkCommand } from './check'
import { COMPILE_USAGE, compileCommand } from './compile'
import { FORMAT_USAGE, formatCommand } from './format'
import { SIM_USAGE, simCommand } from './sim'
import { UsageError } from './usage'

/** The command line over the core. Returns the exit code. */
const COMMANDS: Readonly<Record<string, { readonly run: (args: readonly string[]) => Promise<number>, readonly usage: string }>> = {
  sim: { run: simCommand, usage: SIM_USAGE },
  check: { run: checkCommand, usage: CHECK_USAGE },
  compile: { run: compileCommand, usage: COMPILE_USAGE },
  format: { run: formatCommand, usage: FORMAT_USAGE },
}

async function main(): Promise<number> {
  const [command = '', ...args] = process.argv.slice(2)
  const found = Object.hasOwn(COMMANDS, command) ? COMMANDS[command] : undefined
  try {
    if (found === undefined) throw new UsageError(`there is no command ${JSON.stringify(command)}; there are ${Object.keys(COMMANDS).join(', ')}`)
    if (args.includes('--help') || args.includes('-h')) {
      process.stdout.write(`usage: ${found.usage}\n`)
      return 0
    }
    return await found.run(args)
  } catch (error) {
    if (error instanceof UsageError) {
      process.stderr.write(`mindpath: ${error.message}\n`)
      return 2
    }
    throw error
  }
}

const code = await main()
// Node would wait for the physics library’s code to be compiled to its end, which nobody needs any more.
process.stdout.write('', () => process.exit(code))
