import { layOut } from '~~/core/arena'
import { mapOf, type Analysis } from '~~/core/language'
import { loadPhysics } from '~~/core/physics'
import type { ProgramData } from '~~/core/program'
import { firstDifference, stuckIn } from '~~/core/runs'
import { comparedOf } from '~~/core/runs/context'
import { writeKept, type KeptRun } from '~~/core/runs/kept'
import { ENGINE_VERSION, movingShapes, openRun, originOf, recordOf, wireTo, worldParts, type Known, type OpenedRun, type RunInputs, type Simulation } from '~~/core/simulation'
import type { Tape } from '~~/core/tape'
import { DEFAULT_LIMIT } from '~~/core/task'
import type { Carried } from '~~/core/vm'
import { LiveConditions } from '~~/core/why'
import { Asking } from './asking'
import { Hindsight } from './hindsight'
import { Link } from './link'
import { Past } from './past'
import { Pose } from './pose'
import { keptOf } from './unpack'
import type { CameraPicture, FromSimulation, LiveAt, Opened, Rows, ToSimulation } from './protocol'

/** Runs the simulation beside the page: real time, slower, faster, or tick by tick. */

// It may have been begun before a run is wanted; whoever opens one is told what went wrong.
loadPhysics().catch(() => undefined)

/** Milliseconds between two messages to the page, and the longest that is simulated in one go. */
const FRAME = 16
const BUSY = 12
/** Milliseconds between two pictures of a camera. */
const PICTURES = 100
/** And between two answers to what conditions are worth. */
const LIVES = 90
/** Blocks of a kept tape that go to the page in one message. */
const PIECE = 16
/** A page has about so long to show a kept run that was opened, milliseconds. */
const SHOWING = 300
/** After a pause of the machine, no more than this is caught up, seconds. */
const CATCH_UP = 0.1
/** Milliseconds between two looks at the clock where devices are real: a tick of theirs is due to the clock. */
const PROMPT = 4

let simulation: Simulation | null = null
let past: Past | null = null
let hindsight: Hindsight | null = null
/** A kept run that is looked at: its tape is shown, while the simulation runs it again beside. */
let shown: KeptRun | null = null
let conditions: LiveConditions | null = null
let livesAt = -Infinity
let analysis: Analysis | null = null
/** The program of the run; null for one without rules. */
let program: ProgramData | null = null
let inputs: RunInputs | null = null
let run = 0
let running = false
let factor = 1
let owed = 0
let last = 0
let timer: ReturnType<typeof setTimeout> | null = null
let sentRows = 0
/** The tick up to which was sent what real devices read. */
let sentHeard = 0
let sentEvents = 0
let picturesAt = -Infinity

const post = (message: FromSimulation, transfer: Transferable[] = []): void => {
  (self as unknown as { postMessage(m: FromSimulation, t: Transferable[]): void }).postMessage(message, transfer)
}

const asking = new Asking(() => {
  const tape = (shown ?? simulation)?.tape
  return { run, stage: tape === undefined || analysis === null || program === null ? null : { tape, analysis, program }, hindsight }
}, post, (doing, error) => fail(doing, error))
const link = new Link(post)
/** The run has real devices: it goes by the clock, and what is real stands when it does. */
let wired = false
/** A client drives the run's robot, by the clock as well; null where none does. */
let pose: Pose | null = null

/** Copies of what the cameras saw, a few times a second: enough for an eye. */
function newPictures(): CameraPicture[] {
  const now = performance.now()
  if (simulation === null || (running && now - picturesAt < PICTURES)) return []
  picturesAt = now
  return simulation.pictures().map(({ name, picture }) => ({
    name, width: picture.width, height: picture.height, pixels: new Uint8ClampedArray(picture.pixels), marks: [...picture.marks],
  }))
}

/** What conditions are worth, as often as an eye follows. */
function newLive(tape: Tape): LiveAt | null {
  const now = performance.now()
  if (conditions === null || (running && now - livesAt < LIVES)) return null
  livesAt = now
  return liveAt(conditions, Math.max(0, tape.rows - 1))
}

const liveAt = (conditions: LiveConditions, tick: number): LiveAt => ({ tick, parts: [...conditions.at(tick)] })

/** Before the first tick, conditions are asked of how things stand then. */
function conditionsOn(tape: Tape, analysis: Analysis, program: ProgramData, first: Float64Array): LiveConditions {
  return new LiveConditions(analysis, program, {
    layout: tape.layout, get first() { return tape.first }, get rows() { return Math.max(1, tape.rows) }, events: tape.events, at: tick => tape.find(tick) ?? first,
  })
}

function send(): void {
  if (simulation === null) return
  const { tape } = simulation
  const rows = tape.slice(sentRows, tape.rows)
  const pictures = newPictures()
  const heard = (wired ? simulation.heard?.since(sentHeard) : null) ?? new Float64Array(0)
  sentHeard = simulation.heard?.end ?? 0
  const message: Rows = {
    type: 'rows', run, from: sentRows, blocks: [], rows, heard,
    events: tape.events.slice(sentEvents), goals: simulation.goals.map(g => ({ ...g, memo: [] })), end: simulation.end,
    hash: simulation.end === null ? null : tape.digest(), running, stuck: running ? null : stuckIn(tape, simulation.facts), pictures, live: newLive(tape),
  }
  sentRows = tape.rows
  sentEvents = tape.events.length
  post(message, [rows.buffer, heard.buffer, ...pictures.map(p => p.pixels.buffer)])
}

function loop(): void {
  timer = null
  if (simulation === null || !running) return
  try {
    advance(simulation)
  } catch (error) {
    fail('running', error)
    return
  }
  if (running) timer = setTimeout(loop, wired || pose !== null ? PROMPT : factor === Infinity ? 0 : FRAME)
}

/** What went wrong, said; this worker is of no more use then. */
function fail(doing: string, error: unknown, of = run): void {
  running = false
  post({ type: 'failed', run: of, doing, message: error instanceof Error ? error.message : String(error) })
}

/** As many ticks as are due. */
function advance(simulation: Simulation): void {
  const now = performance.now()
  const before = last
  const passed = Math.min((now - last) / 1000, CATCH_UP)
  last = now
  const { tick } = simulation.facts
  if (wired || pose !== null) {
    if (!promptly(simulation, (now - before) / 1000)) return
  } else if (factor === Infinity) {
    while (simulation.end === null && performance.now() - now < BUSY) past!.advance()
  } else {
    owed += passed * factor
    while (owed >= tick && simulation.end === null) {
      past!.advance()
      owed -= tick
      if (performance.now() - now > CATCH_UP * 1000) { owed = 0; break }
    }
  }
  if (simulation.end !== null) running = false
  send()
}

/** A tick where one is due by the clock; those that were missed are not made up for, as what is real has moved on meanwhile. Whether there was one. */
function promptly({ facts: { tick } }: Simulation, passed: number): boolean {
  owed += passed
  if (owed < tick) return false
  const missed = Math.floor(owed / tick + 1e-9) - 1
  if (wired) link.late += missed
  owed -= (missed + 1) * tick
  const lost = wired ? link.lost : null
  if (lost !== null) past!.poke({ poke: 'end', why: lost })
  for (const poke of pose?.told() ?? []) past!.poke(poke)
  past!.advance()
  pose?.after()
  return true
}

/** Nothing real moves while the run stands. */
function stand(): void {
  running = false
  if (wired) link.robot?.rest()
}

function go(): void {
  if (simulation === null || shown !== null || simulation.end !== null) return
  running = true
  owed = 0
  last = performance.now()
  if (timer === null) loop()
}

async function open(m: Extract<ToSimulation, { type: 'open' }>): Promise<void> {
  stand()
  factor = m.factor
  let of = m.inputs
  if (m.by === 'wire') {
    const lost = await link.ready()
    if (lost !== null) return post({ type: 'refused', run: m.run, problems: [{ document: 'run', path: 'wire', value: 'lost', message: lost }], diagnostics: [] })
    of = { ...of, wire: wireTo(link.robot!.devices) }
    link.late = 0
  }
  const opened = await openRun(of)
  if (!opened.ok) return post({ type: 'refused', run: m.run, problems: opened.problems, diagnostics: opened.diagnostics })
  take(m.run, of, opened)
  wired = m.by === 'wire'
  if (wired) opened.simulation.connect(link.robot)
  if (m.by === 'client') pose = new Pose(opened.simulation, bytes => post({ type: 'answer', bytes: Uint8Array.from(bytes) }))
  send()
  if (m.go) go()
}

/** Another run from now on, which happens here. */
function take(number: number, of: RunInputs, opened: OpenedRun): void {
  simulate(opened.simulation)
  shown = null
  asking.anew()
  const { program, task, limit } = opened.simulation.input
  announce(number, of, {
    tape: opened.simulation.tape, facts: opened.simulation.facts, analysis: opened.analysis, program, placed: opened.simulation.layout, parts: opened.simulation.movingParts(), first: opened.simulation.peek(),
    goals: task?.goals ?? [], limit, carried: opened.carried,
  })
}

/** The simulation that is at work from now on; null for none. */
function simulate(now: Simulation | null): void {
  if (wired) link.robot?.rest()
  wired = false
  pose = null
  simulation?.free()
  hindsight?.free()
  simulation = now
  past = now === null ? null : new Past(now)
  hindsight = now === null ? null : new Hindsight(now, past!)
}

/** What is told of a run before its first rows. */
interface Announced extends Pick<Opened, 'facts' | 'placed' | 'parts' | 'first' | 'limit'> {
  readonly tape: Tape
  readonly analysis: Analysis
  readonly program: ProgramData | null
  readonly goals: readonly { readonly sentence: string }[]
  readonly carried: readonly Carried[]
}

function announce(number: number, of: RunInputs, { tape, analysis: read, program: compiled, goals, carried, ...told }: Announced): void {
  analysis = read
  program = compiled
  inputs = of
  conditions = program === null ? null : conditionsOn(tape, read, program, told.first)
  run = number
  sentRows = tape.first
  sentHeard = 0
  sentEvents = 0
  post({
    type: 'opened', run,
    opened: {
      ...told, layout: tape.layout, arena: told.placed.arena, goals: goals.map(g => g.sentence), inputs: of,
      program: program === null ? null : mapOf(program, of.program),
      from: of.from == null ? null : { ticks: of.from.ticks, carried },
      kept: shown === null ? null : { seed: shown.record.seed, realism: shown.record.realism, older: shown.record.engine !== ENGINE_VERSION },
    },
  })
}

/** Goes on from an instant of the run that there is: with its own program the same to the bit, with another as far as that fits. */
async function goOn(m: Extract<ToSimulation, { type: 'goOn' }>): Promise<void> {
  if (simulation === null || past === null || inputs === null) {
    // A kept run that can be looked at, but not be run again.
    return post({ type: 'refused', run: m.run, problems: [{ document: 'run', path: 'engine', value: String(ENGINE_VERSION), message: 'this run cannot be run again, so nothing can go on from it' }], diagnostics: [] })
  }
  stand()
  factor = m.factor
  past.goTo(m.tick)
  const { tape } = simulation
  const known: Known = { program: simulation.input.program, state: simulation.snapshot() }
  const of: RunInputs = { ...inputs, program: m.program, dials: {}, pokes: m.noise === null ? [] : [{ poke: 'draw', seed: m.noise, tick: tape.rows }], wire: null, from: originOf(inputs, simulation, tape.rows, tape.digest()) }
  const opened = await openRun(of, known)
  if (!opened.ok) return post({ type: 'refused', run: m.run, problems: opened.problems, diagnostics: opened.diagnostics })
  const before = asking.soFar()
  take(m.run, of, opened)
  asking.wentOn(before)
  send()
  if (m.go) go()
}

/** Shows a kept run from its file, then runs it again beside, a little at a time: any instant can be gone on from, and it is seen whether it is the same. */
async function show(m: Extract<ToSimulation, { type: 'show' }>): Promise<void> {
  stand()
  const read = await keptOf(m.file)
  if (!read.ok) return post({ type: 'refused', run: m.run, problems: read.problems.map(p => ({ ...p, document: 'run' })), diagnostics: [] })
  const kept = read.value
  const { tape, standing, record, context } = kept
  // All that there is to see is on the tape: what runs it again is made after that.
  simulate(null)
  shown = kept
  asking.anew()
  announce(m.run, record, {
    tape, facts: context.facts, analysis: context.analysis, program: context.program, placed: layOut(context.parts.arena, record.seed), parts: movingShapes(worldParts(context.parts.robot)),
    first: tape.find(tape.first) ?? new Float64Array(tape.layout.width), goals: context.parts.task?.goals ?? [], limit: record.limit ?? context.parts.task?.limit ?? DEFAULT_LIMIT, carried: [],
  })
  const blocks = [...tape.blocks()]
  const told: Rows = { type: 'rows', run, from: tape.first, blocks: [], rows: new Float64Array(0), heard: new Float64Array(0), events: [], goals: standing.goals.map(g => g.state), end: null, hash: null, running: false, stuck: null, pictures: [], live: null }
  for (let at = 0; at === 0 || at < blocks.length; at += PIECE) post({ ...told, blocks: blocks.slice(at, at + PIECE), events: at === 0 ? tape.events : [] })
  const whole = { end: standing.end, hash: record.fingerprint }
  post({ ...told, ...whole })
  // What takes longer comes when that is on the screen, which a machine of few cores is busy with.
  await new Promise<void>((resolve) => { rest = resolve; setTimeout(resolve, SHOWING) })
  post({ ...told, ...whole, stuck: stuckIn(tape, context.facts), live: newLive(tape) })
  const opened = await openRun(record)
  if (!opened.ok) return post({ type: 'replayed', run, same: false, says: 'it cannot be run' })
  simulate(opened.simulation)
  void runAgain(m.run, kept, opened.simulation, past!)
}

async function runAgain(number: number, { tape, record, context }: KeptRun, again: Simulation, of: Past): Promise<void> {
  while (run === number && again.tape.rows < record.ticks && again.end === null) {
    const begin = performance.now()
    while (again.tape.rows < record.ticks && again.end === null && performance.now() - begin < BUSY) of.advance()
    // What is asked meanwhile comes first.
    await new Promise(resolve => setTimeout(resolve, 0))
  }
  if (run !== number) return
  const same = again.tape.rows === record.ticks && again.tape.digest() === record.fingerprint
  const found = same ? null : firstDifference(comparedOf({ tape, context }), comparedOf({ tape: again.tape, context }))
  post({ type: 'replayed', run, same, says: found?.found === 'difference' ? `at ${found.time.toFixed(2)} s ${found.what[0]!.title}` : '' })
}

function keep(title: string): void {
  if (simulation === null || inputs === null || shown !== null) return
  const file = writeKept(title, inputs, simulation)
  post({ type: 'kept', run, file }, [file.buffer])
}

const DOING: Readonly<Record<ToSimulation['type'], string>> = {
  client: 'hearing a client', join: 'joining a board', part: 'parting from a board', heard: 'hearing a board', open: 'opening the run', goOn: 'going on from an instant', show: 'opening a kept run', keep: 'keeping the run', go: 'running', pause: 'pausing', tick: 'running a tick', speed: 'changing the speed', poke: 'poking', record: 'keeping the run', why: 'asking why', wasTrue: 'asking when it was true', live: 'asking for conditions',
}

/** Ends a rest that is taken while the page is busy. */
let rest = (): void => undefined
let asked = Promise.resolve()
self.onmessage = (event: MessageEvent<ToSimulation>) => {
  const m = event.data
  // What comes over the wire waits for nothing.
  if (m.type === 'heard') { link.heard(m.bytes); return }
  if (m.type !== 'live') rest()
  // One after the other: what is asked while a run is being opened is asked of that run.
  asked = asked.then(() => handle(m)).catch((error: unknown) => fail(DOING[m.type], error, 'run' in m ? m.run : run))
}

async function handle(m: ToSimulation): Promise<void> {
  switch (m.type) {
    case 'open': return open(m)
    case 'goOn': return goOn(m)
    case 'show': return show(m)
    case 'keep': keep(m.title); return
    case 'join': case 'part':
      // A run that loses what is real ends; one that stands goes on simulated.
      if (m.type === 'part' && m.why !== null && wired && running) { past!.poke({ poke: 'end', why: m.why }); past!.advance() }
      stand()
      if (wired) simulation?.connect(null)
      wired = false
      if (m.type === 'join') link.join(m)
      else link.part()
      if (shown === null && simulation?.end != null) send()
      return
    case 'heard': return
    case 'client':
      if (m.bytes !== null) pose?.heard(m.bytes)
      else pose?.left()
      return
    case 'go': go(); return
    case 'pause': stand(); if (shown === null) send(); return
    case 'tick': if (shown === null) { past?.advance(); send() } stand(); return
    case 'speed': factor = m.factor; owed = 0; return
    case 'poke': if (shown === null) past?.poke(m.poke); return
    case 'record': if (simulation !== null && inputs !== null) post({ type: 'record', run, record: recordOf(m.title, inputs, simulation) }); return
    case 'why': asking.because(m.tick); return
    case 'wasTrue': asking.wasTrue(m); return
    case 'live': if (conditions !== null && m.tick < Math.max(1, (shown ?? simulation)?.tape.rows ?? 0)) post({ type: 'live', run, ...liveAt(conditions, m.tick) })
  }
}
