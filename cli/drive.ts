import { Option, type Command } from 'commander'
import { writeFile } from 'node:fs/promises'
import { basename } from 'node:path'
import { REALISMS, type RealismName } from '../core/devices'
import { WiredRobot, reachable } from '../core/firmata'
import type { Board } from '../core/hardware'
import { LAST_SEED } from '../core/random'
import { factsOf, type Robot, type RobotFacts, type Wiring } from '../core/robot'
import { writeKept } from '../core/runs/kept'
import { openRun, summarise, wireTo, type RunInputs, type Simulation } from '../core/simulation'
import { BAUD, WireError, openWire, type Wire } from '../wires'
import { onFirmata } from './board'
import { errorLines, problemLines, readFolder } from './project'
import { robotOf } from './robot'
import { UsageError, numberFrom, type Exit } from './usage'

interface Options {
  readonly wire: string, readonly baud: number, readonly board?: string, readonly real?: readonly string[], readonly simulated?: readonly string[]
  readonly program?: string, readonly seed: number, readonly realism: RealismName, readonly seconds?: number, readonly keep?: string, readonly json?: true
}

/** How long a board may take to say that it has stopped, milliseconds. */
const CONFIRMS_WITHIN = 1000

const names = (text: string): readonly string[] => text.split(',').map(name => name.trim()).filter(name => name !== '')

/** A project's program runs here and drives a board over a wire (docs/hardware.md). 0 when all goals are met, 1 when not or when the wire is lost, 2 when it could not run. */
export function addDrive(program: Command, exit: Exit): void {
  program.command('drive').description('Runs a project here and drives a board that speaks Firmata over a wire (docs/hardware.md). Ctrl+C stops the robot.')
    .argument('<project>', 'a folder, such as demo/projects/kiss-the-fender, or a zip of one')
    .requiredOption('--wire <address>', 'a serial port, such as /dev/ttyACM0 or COM3, or tcp://HOST:PORT')
    .option('--baud <n>', 'bits a second of a serial port', numberFrom(300, 4_000_000, true), BAUD)
    .option('--board <name or file>', 'the board that it is; the robot’s own, or firmata')
    .option('--real <names>', 'devices that are real, as in sonar,bumper_left; all that can be', names)
    .option('--simulated <names>', 'devices that are simulated, as in wheels; the others are real', names)
    .option('--program <file>', 'another program than its own, of the project or by its path')
    .option('--seed <n>', 'which of all possible runs, for what is simulated', numberFrom(0, LAST_SEED, true), 1)
    .addOption(new Option('--realism <name>', 'how much like real devices those are that are simulated').choices([...REALISMS]).default('typical'))
    .option('--seconds <s>', 'when it ends at the latest', numberFrom(0.02, 3600))
    .option('--keep <file>', 'where the run is kept with its tape, NAME.mindrun: for replay, compare, why and the page').option('--json', 'what it came to in one line')
    .action(async (project: string, options: Options) => { exit.code = await drive(project, options) })
}

async function drive(path: string, options: Options): Promise<number> {
  const folder = await readFolder(path, options.program)
  const robot = await robotOf(undefined, folder)
  const { board, wiring } = await onFirmata(robot, folder.pathOf('robot'), options.board)
  const facts = factsOf(robot)
  const real = chosen(robot, facts, board, wiring, options)
  const inputs: RunInputs = { ...folder.documents, program: folder.program, realism: options.realism, seed: options.seed, limit: options.seconds ?? null, wire: wireTo(real) }
  const opened = await openRun(inputs)
  if (!opened.ok) {
    throw new UsageError(opened.problems.length > 0 ? problemLines(opened.problems, folder.pathOf) : `the program cannot run\n${errorLines(folder.programPath, folder.program, opened.diagnostics)}`)
  }
  const { simulation } = opened
  const lost = await driven(simulation, { robot, facts, board, wiring, real }, options)
  if (options.keep !== undefined) await writeFile(options.keep, writeKept(basename(path), inputs, simulation))
  const summary = summarise(simulation)
  process.stdout.write(`${JSON.stringify(summary, null, options.json === true ? 0 : 2)}\n`)
  return !lost && summary.ended !== 'error' && summary.goals.every(g => g.met) ? 0 : 1
}

/** The devices that are real, as was asked; a usage error where one cannot be. */
function chosen(robot: Robot, facts: RobotFacts, board: Board, wiring: Wiring, { real, simulated }: Options): readonly string[] {
  const can = whichCan(robot, facts, board, wiring)
  for (const [option, asked] of [['--real', real], ['--simulated', simulated]] as const) {
    const strange = asked?.find(name => !can.some(d => d.device === name))
    if (strange !== undefined) throw new UsageError(`${option}: the robot has no device ${strange}; it has ${can.map(d => d.device).join(', ')}`)
  }
  const cannot = can.find(d => d.why !== null && real?.includes(d.device) === true)
  if (cannot !== undefined) throw new UsageError(`--real: ${cannot.device} cannot be real: ${cannot.why}`)
  const devices = can.filter(d => d.why === null && simulated?.includes(d.device) !== true && (real === undefined || real.includes(d.device))).map(d => d.device)
  if (devices.length === 0) throw new UsageError('no device is real: nothing would go over the wire')
  for (const d of can) process.stderr.write(`  ${d.device}: ${devices.includes(d.device) ? 'real' : `simulated${d.why === null ? '' : ` (${d.why})`}`}\n`)
  return devices
}

function whichCan(robot: Robot, facts: RobotFacts, board: Board, wiring: Wiring): ReturnType<typeof reachable> {
  try {
    return reachable(robot, facts, board, wiring)
  } catch (error) {
    if (error instanceof RangeError) throw new UsageError(`--board: ${error.message}`)
    throw error
  }
}

/** Runs in real time until it is over or the wire is lost; whether it was. */
async function driven(simulation: Simulation, setting: ConstructorParameters<typeof WiredRobot>[0], { wire: address, baud }: Options): Promise<boolean> {
  const now = (): number => performance.now()
  let gone: string | null = null
  let wire: Wire | null = null
  const robot = new WiredRobot(setting, (bytes) => { wire?.send(Uint8Array.from(bytes)) }, now)
  try {
    wire = await openWire(address, baud, { heard: (bytes) => { robot.receive(bytes) }, gone: (why) => { gone ??= `the wire is gone: ${why}` } })
  } catch (error) {
    if (error instanceof WireError) throw new UsageError(`--wire: ${error.message}`)
    throw error
  }
  let stopped = false
  const stop = (): void => { stopped = true }
  process.once('SIGINT', stop).once('SIGTERM', stop)
  const tick = simulation.facts.tick * 1000
  let [begun, done, late] = [0, 0, 0]
  simulation.connect(robot)
  await new Promise<void>((resolve) => {
    const timer = setInterval(() => {
      robot.pass()
      gone ??= robot.lost
      if (begun === 0 && (stopped || gone !== null)) { clearInterval(timer); return resolve() }
      if (begun === 0) {
        if (robot.stage !== 'ready') return
        begun = now()
        process.stderr.write(`${robot.host.name} answers in ${robot.host.roundTrip?.median.toFixed(1) ?? '?'} ms; the run begins\n`)
      }
      if (gone !== null || stopped) simulation.poke({ poke: 'end', why: gone ?? 'stopped' })
      const due = Math.floor((now() - begun) / tick) + 1
      // What came late is not made up for: the robot has moved on meanwhile.
      const missed = Math.max(0, due - done - 1)
      late += missed
      begun += missed * tick
      if (done < due) { simulation.advance(); done++ }
      if (simulation.end !== null) { clearInterval(timer); resolve() }
    }, 2)
  })
  const stands = robot.stop()
  const asked = now()
  while (!stands() && now() - asked < CONFIRMS_WITHIN) await new Promise(resolve => setTimeout(resolve, 5))
  await wire.close()
  process.off('SIGINT', stop).off('SIGTERM', stop)
  if (begun === 0 && gone !== null) throw new UsageError(`--wire ${address}: ${gone}`)
  const trip = robot.host.roundTrip
  process.stderr.write([
    ...trip === null ? [] : [`there and back took ${trip.median.toFixed(1)} ms (the longest ${trip.longest.toFixed(1)} ms)`], ...late === 0 ? [] : [`${late} of ${done} ticks came late`],
    ...robot.restarts === 0 ? [] : [`the board began anew ${robot.restarts} times`], ...robot.host.said.map(text => `the board said: ${text}`), ...stands() ? [] : [`${gone ?? 'the board did not answer'}: it may not have heard that it is to stop; what it did last goes on until it is switched off`],
  ].map(line => `${line}\n`).join(''))
  return gone !== null
}
