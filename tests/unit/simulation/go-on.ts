import { readFileSync } from 'node:fs'
import { openRun, readSnapshot, type RunInputs } from '../../../core/simulation'

/** Goes on from a written snapshot in a process of its own, and prints the fingerprint at the end of the run. */
const { inputs, written } = JSON.parse(readFileSync(0, 'utf8')) as { inputs: RunInputs, written: string }
const opened = await openRun(inputs)
if (!opened.ok) throw new Error(JSON.stringify(opened.problems))
const read = readSnapshot(written, opened.simulation)
if (!read.ok) throw new Error(JSON.stringify(read.problems))
opened.simulation.restore(read.value)
opened.simulation.runToEnd()
process.stdout.write(opened.simulation.tape.digest())
