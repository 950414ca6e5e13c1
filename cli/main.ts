import { commandLine } from './command-line'

const code = await commandLine(process.argv.slice(2))
// Node would wait for the physics library’s code to be compiled to its end, which nobody needs any more.
process.stdout.write('', () => process.exit(code))
