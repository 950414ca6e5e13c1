import { checkCommand } from './check'
import { formatCommand } from './format'
import { simCommand } from './sim'
import { UsageError } from './usage'

/** The command line over the core: `sim`, `check`, `format`. Returns the exit code. */
const COMMANDS: Readonly<Record<string, (args: readonly string[]) => Promise<number>>> = {
  sim: simCommand,
  check: checkCommand,
  format: formatCommand,
}

async function main(): Promise<number> {
  const [command = '', ...args] = process.argv.slice(2)
  const run = Object.hasOwn(COMMANDS, command) ? COMMANDS[command] : undefined
  try {
    if (run === undefined) throw new UsageError(`there is no command ${JSON.stringify(command)}; there are ${Object.keys(COMMANDS).join(', ')}`)
    return await run(args)
  } catch (error) {
    if (error instanceof UsageError) {
      process.stderr.write(`mindpath: ${error.message}\n`)
      return 2
    }
    throw error
  }
}

process.exitCode = await main()
