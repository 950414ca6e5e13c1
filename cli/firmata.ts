import { Option, type Command } from 'commander'
import { spawn, type ChildProcess } from 'node:child_process'
import { lstat, writeFile } from 'node:fs/promises'
import { createServer, type Server, type Socket } from 'node:net'
import { basename } from 'node:path'
import { FirmataBoard, RobotPins } from '../core/firmata'
import { wiredPorts, type Board } from '../core/hardware'
import { REALISMS, type RealismName } from '../core/devices'
import { LAST_SEED } from '../core/random'
import type { Robot, Wiring } from '../core/robot'
import { writeKept } from '../core/runs/kept'
import { openRun, summarise, type RunInputs, type Simulation } from '../core/simulation'
import { onFirmata } from './board'
import { problemLines, readFolder } from './project'
import { robotOf } from './robot'
import { UsageError, numberFrom, type Exit } from './usage'

interface Options {
  readonly tcp: number, readonly pty?: string, readonly seed: number, readonly realism: RealismName, readonly seconds?: number
  readonly board?: string, readonly keep?: string, readonly json?: true
}

/** The simulated robot of a project poses as a board that speaks Firmata: a client drives it through pins (docs/hardware.md). 0 when all goals are met, 1 when not. */
export function addBoard(program: Command, exit: Exit): void {
  program.command('board').description('The simulated robot as a board that speaks Firmata, for programs that people have already (docs/hardware.md).')
    .argument('<project>', 'a folder, such as demo/projects/kiss-the-fender, or a zip of one')
    .option('--tcp <port>', 'where it listens, on this machine alone; 0 for any that is free', numberFrom(0, 65_535, true), 3030)
    .option('--pty <path>', 'a serial line besides, which stands there while it runs: for programs that know no sockets')
    .option('--board <name or file>', 'the board that it poses as; the robot’s own, or firmata')
    .option('--seed <n>', 'which of all possible runs', numberFrom(0, LAST_SEED, true), 1)
    .addOption(new Option('--realism <name>', 'how much like real devices').choices([...REALISMS]).default('typical'))
    .option('--seconds <s>', 'when it ends at the latest', numberFrom(0.02, 3600))
    .option('--keep <file>', 'where the run is kept with its tape, NAME.mindrun: for replay, compare and the page').option('--json', 'what it came to in one line')
    .action(async (project: string, options: Options) => { exit.code = await board(project, options) })
}

async function board(path: string, { tcp, pty, seed, realism, seconds, keep, ...options }: Options): Promise<number> {
  const folder = await readFolder(path)
  const robot = await robotOf(undefined, folder)
  const { board, wiring } = await onFirmata(robot, folder.pathOf('robot'), options.board)
  // No program runs here: it runs at the other end of the wire.
  const inputs: RunInputs = { ...folder.documents, program: '', realism, seed, limit: seconds ?? null }
  const opened = await openRun(inputs)
  if (!opened.ok) throw new UsageError(problemLines(opened.problems, folder.pathOf))
  const { simulation } = opened
  const pins = pinsOf(robot, simulation, board, wiring)
  const server = createServer()
  const port = await listening(server, tcp)
  const line = pty === undefined ? null : await serialLine(pty, port)
  process.stderr.write([
    `${robot.name} is a board that speaks Firmata at 127.0.0.1:${port}${pty === undefined ? '' : ` and ${pty}`}; the run begins when a client comes`,
    ...wiredPorts(robot, board, wiring).flatMap(({ fitted, by, wires }) => by === null ? [] : [`  ${fitted.name}, ${by.name}: ${wires.map(w => `${w.line} ${w.pin}${w.note === '' ? '' : ` (${w.note})`}`).join(', ')}${pins.missing.includes(fitted.name) ? '; it is not there: a client finds nothing' : ''}`]),
  ].join('\n') + '\n')
  await driven(simulation, pins, server, robot.name)
  server.close()
  line?.kill()
  if (keep !== undefined) await writeFile(keep, writeKept(basename(path), inputs, simulation))
  const summary = summarise(simulation)
  process.stdout.write(`${JSON.stringify({ ...summary, events: summary.events.filter(e => e.type !== 'poke') }, null, options.json === true ? 0 : 2)}\n`)
  return summary.goals.every(g => g.met) ? 0 : 1
}

/** The robot behind the board's pins; a usage error where they are not such as Firmata has. */
function pinsOf(robot: Robot, { facts }: Simulation, board: Board, wiring: Wiring): RobotPins {
  try {
    return new RobotPins(robot, facts, board, wiring)
  } catch (error) {
    if (error instanceof RangeError) throw new UsageError(`--board: ${error.message}`)
    throw error
  }
}

function listening(server: Server, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => { reject(new UsageError(`--tcp ${port}: ${error.code === 'EADDRINUSE' ? 'something listens there already; 0 takes one that is free' : error.message}`)) })
    server.listen(port, '127.0.0.1', () => { resolve((server.address() as { port: number }).port) })
  })
}

/** A pseudo terminal at a path, which becomes a client of the port once somebody opens it; a usage error where there can be none. */
async function serialLine(path: string, port: number): Promise<ChildProcess> {
  if (await lstat(path).then(() => true, () => false)) throw new UsageError(`--pty ${path}: something is there already`)
  const child = spawn('socat', [`PTY,link=${path},rawer,wait-slave,pty-interval=0.05`, `TCP:127.0.0.1:${port},nodelay`], { stdio: ['ignore', 'ignore', 'pipe'] })
  let said = ''
  child.stderr.on('data', (piece: Buffer) => { said += piece.toString() })
  return new Promise((resolve, reject) => {
    const timer = setInterval(() => { void lstat(path).then(() => { clearInterval(timer); resolve(child) }, () => undefined) }, 20)
    const failed = (why: string): void => { clearInterval(timer); reject(new UsageError(`--pty ${path}: ${why}`)) }
    child.once('error', (error: NodeJS.ErrnoException) => { failed(error.code === 'ENOENT' ? 'socat is needed for it; install it with: apt-get install socat' : error.message) })
    child.once('exit', () => { failed(said.trim().split('\n').at(-1) ?? 'it cannot be made') })
  })
}

/** Runs in real time from the first client on, until time is up or the client goes. One client at a time. */
function driven(simulation: Simulation, pins: RobotPins, server: Server, name: string): Promise<void> {
  return new Promise((resolve) => {
    let client: Socket | null = null
    server.on('connection', (socket) => {
      if (client !== null) { socket.destroy(); return }
      client = socket
      socket.setNoDelay(true)
      const board = new FirmataBoard(pins, name, (bytes) => { if (socket.writable) socket.write(Uint8Array.from(bytes)) })
      const tick = simulation.facts.tick * 1000
      const begun = performance.now()
      let done = 0
      let gone = false
      const over = (): void => { clearInterval(timer); socket.destroy(); resolve() }
      const step = (): void => {
        for (const { device, channel, value } of pins.taken()) simulation.poke({ poke: 'tell', device, channel, value })
        // The line is gone: nothing more will be told, and what moves stops.
        if (gone) simulation.poke({ poke: 'end', why: 'the client has gone' })
        simulation.advance()
        pins.read(simulation.tape.at(simulation.tape.rows - 1).subarray(simulation.tape.layout.readings, simulation.tape.layout.readings + simulation.facts.readingCount))
        board.pass(tick)
        done++
      }
      const timer = setInterval(() => {
        // As far as the clock has come, a few at a time: the client is heard in between.
        const due = Math.min(done + 5, Math.floor((performance.now() - begun) / tick))
        while (done < due && simulation.end === null) step()
        if (simulation.end !== null) over()
      }, 5)
      socket.on('data', bytes => board.receive(bytes))
      socket.on('error', () => { gone = true })
      socket.on('close', () => { gone = true; board.reset() })
      step()
      board.greet()
    })
  })
}
