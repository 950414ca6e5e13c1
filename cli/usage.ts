import { InvalidArgumentError, type Command } from 'commander'

/** A call that cannot be understood: told in one line, exit code 2. */
export class UsageError extends Error {}

/** Reads a number option within bounds. */
export function numberFrom(low: number, high: number, whole = false): (text: string) => number {
  return (text) => {
    const value = Number(text)
    if (text.trim() !== '' && Number.isFinite(value) && value >= low && value <= high && (!whole || Number.isInteger(value))) return value
    throw new InvalidArgumentError(`allowed is a ${whole ? 'whole ' : ''}number from ${low} to ${high}`)
  }
}

/** Reads `NAME=VALUE`, given as often as one likes. */
export function pairs(example: string): (text: string, before?: readonly (readonly [string, string])[]) => readonly (readonly [string, string])[] {
  return (text, before = []) => {
    const [, name, value] = /^([\w.[\]]+)=(.+)$/.exec(text) ?? []
    if (name === undefined || value === undefined) throw new InvalidArgumentError(`expected NAME=VALUE, such as ${example}`)
    return [...before, [name, value]]
  }
}

/** What a command ends with; 0 unless it says otherwise. */
export interface Exit { code: number }

/** Runs a command line; the exit code of a call that cannot be understood, 2, or 0. Errors are one line on stderr that begins with our name. */
export async function runCommands(program: Command, args: readonly string[]): Promise<number> {
  const output = { outputError: (text: string, write: (text: string) => void) => write(text.replace(/^error: /, 'mindpath: ')) }
  for (const command of [program, ...program.commands]) command.exitOverride().configureOutput(output).showHelpAfterError(false)
  try {
    await program.parseAsync(args, { from: 'user' })
    return 0
  } catch (error) {
    if (error instanceof UsageError) {
      process.stderr.write(`mindpath: ${error.message}\n`)
      return 2
    }
    // Commander has told it already; help that was asked for is no error.
    if (error instanceof Error && 'exitCode' in error && 'code' in error && String(error.code).startsWith('commander.')) return error.exitCode === 0 ? 0 : 2
    throw error
  }
}
