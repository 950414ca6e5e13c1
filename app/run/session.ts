import { useEventListener } from '@vueuse/core'
import { defineStore } from 'pinia'
import { ref, shallowRef, triggerRef, watch } from 'vue'
import type { Diagnostic } from '~~/core/language'
import type { Poke, ProblemIn, RunEnd, RunInputs, RunRecord } from '~~/core/simulation'
import { Tape } from '~~/core/tape'
import type { GoalState } from '~~/core/task'
import type { LivePart, Why } from '~~/core/why'
import { Beforehand, type LeftRun } from './beforehand'
import { Runner } from './runner'
import { broughtOver, type Compared, type Stuck } from '~~/core/runs'
import type { Behind, CameraPicture, DrivenBy, FromSimulation, Opened } from './protocol'
import { api } from '~/utils/api'
import { useWireStore } from '~/wire/wire'
import { useKeepingStore, type Keepsake } from './keeping'

/** A run shorter than this is not kept by itself, ticks: a touch of the key. */
const SHORT = 50
/** The two events of a page that is being closed come within this, milliseconds. */
const TOLD_ONCE = 5000

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)

/** What is asked of a session when a run is opened. */
export interface OpenOptions { readonly go: boolean, readonly factor: number, readonly by?: DrivenBy }

/**
 * The one run of the page, above its views: it goes on while another view is open. Everything of it comes from a worker, with
 * the number of the run that it is about; what comes of an older run is dropped.
 */
export const useSessionStore = defineStore('session', () => {
  const opened = shallowRef<Opened | null>(null)
  const tape = shallowRef<Tape | null>(null)
  const goals = shallowRef<readonly GoalState[]>([])
  const end = shallowRef<RunEnd | null>(null)
  /** Fingerprint of the tape of a run that is over. */
  const hash = ref<string | null>(null)
  const running = ref(false)
  /** The run was set going, not only opened to be looked at. */
  const begun = ref(false)
  /** Rows on the tape; grows while it runs. */
  const rows = ref(0)
  /** What each camera saw last. */
  const pictures = shallowRef<ReadonlyMap<string, CameraPicture>>(new Map())
  /** What the parts of every condition are worth in a tick, by where the condition begins; null where nothing is known yet. */
  const live = shallowRef<{ readonly tick: number, readonly parts: ReadonlyMap<number, readonly LivePart[]> } | null>(null)
  /** Why the lanes did what they did in a tick, as somebody asked; null when nobody did. */
  const reasons = shallowRef<{ readonly tick: number, readonly lanes: readonly Why[], readonly earlier: boolean } | null>(null)
  /** What was behind the tick that was asked about; null until that is known. */
  const behind = shallowRef<Behind | null>(null)
  /** What was found of when a condition was true; null until somebody asks. */
  const foundTrue = shallowRef<{ readonly tick: number | null } | null>(null)
  /** When it got nowhere for a time, as far as was looked. */
  const stuck = shallowRef<readonly Stuck[]>([])
  const problems = shallowRef<readonly ProblemIn[]>([])
  /** The program that could not be run: what is wrong with it. */
  const refused = shallowRef<readonly Diagnostic[]>([])
  /** What failed in the worker, for people; null when nothing did. */
  const failure = ref<string | null>(null)
  /** The project and the documents that the run is of, as text; null when there is none. */
  const of = ref<{ readonly project: string, readonly title: string, readonly documents: string } | null>(null)

  /** Whether a kept run that is looked at is the same to the bit when it is run again, else where it first differs; null while that is not known. */
  const replayed = shallowRef<{ readonly same: boolean, readonly says: string } | null>(null)

  const keeping = useKeepingStore()
  const wire = useWireStore()
  let run = 0
  /** A client drives the run's robot: such a run is kept without a program of ours. */
  const driven = ref(false)
  /** Where what is for the client goes. */
  let answering: (bytes: Uint8Array<ArrayBuffer>) => void = () => undefined
  let opening = false
  /** What the run is kept with; null for one that is not: by hand, to look at, or kept already. */
  let keepsake: Keepsake | null = null
  /** Of runs that are being kept, by their number, until the server has them: what they are kept with, and what there is to say of them. */
  const leaving = new Map<number, { readonly keepsake: Keepsake, readonly left: LeftRun }>()
  /** The run that another goes on from, until that is open. */
  let before: Compared | null = null
  /** Runs whose files are being written, each with the worker that does; one that is of no other use ends after that. */
  const writing = new Map<number, Runner>()
  const writes = (by: Runner): boolean => [...writing.values()].includes(by)
  /** Who waits for the run's record. */
  let waiting: ((record: RunRecord) => void)[] = []
  const begin = (): Runner => {
    const made: Runner = new Runner(hear, (worker) => { if (made === runner) wire.attach((message) => { worker.postMessage(message) }) })
    return made
  }
  let runner = begin()

  function hear(message: FromSimulation): void {
    if (message.type === 'answer') return answering(message.bytes)
    if (message.type === 'tell') return wire.tell(message.bytes)
    if (message.type === 'link') return wire.hear(message.link)
    if (message.type === 'kept') {
      const of = leaving.get(message.run)
      const by = writing.get(message.run)
      writing.delete(message.run)
      if (of !== undefined) keeping.keep(message.run, message.file, of.keepsake)
      if (by !== undefined && by !== runner && !writes(by)) by.close()
      return
    }
    if (message.type === 'failed' ? message.run !== null && message.run !== run : message.run !== run) return
    switch (message.type) {
      case 'opened':
        opening = false
        failure.value = null
        // What is known of the same robot is the same object: nothing that shows it is drawn anew.
        opened.value = opened.value !== null && same(opened.value.facts, message.opened.facts) ? { ...message.opened, facts: opened.value.facts } : message.opened
        tape.value = begunTape(message.opened)
        rows.value = tape.value.rows
        replayed.value = null
        end.value = null
        hash.value = null
        live.value = null
        stuck.value = []
        problems.value = []
        pictures.value = new Map()
        return
      case 'refused':
        opening = false
        running.value = false
        problems.value = message.problems
        refused.value = message.diagnostics
        return
      case 'failed':
        // The worker is done with: the next run begins another. What it recorded stays to be looked at, and what is real stands.
        wire.stop()
        runner.close()
        opening = false
        running.value = false
        begun.value = false
        failure.value = `Something failed while ${message.doing}: ${message.message}. Run begins anew.`
        return
      case 'record':
        for (const take of waiting) take(message.record)
        waiting = []
        return
      case 'replayed':
        replayed.value = { same: message.same, says: message.says }
        return
      case 'because':
        reasons.value = { tick: message.tick, lanes: message.lanes, earlier: message.earlier }
        return
      case 'behind':
        behind.value = message
        return
      case 'wasTrue':
        foundTrue.value = { tick: message.tick }
        return
      case 'live':
        live.value = { tick: message.tick, parts: new Map(message.parts) }
        return
      case 'rows':
        if (tape.value === null || opening) return
        for (const block of message.blocks) tape.value.take(block)
        if (message.heard.length > 0) beforehand.hear(run, message.heard)
        tape.value.append(message.rows, message.events)
        goals.value = message.goals
        end.value = message.end
        hash.value = message.hash
        running.value = message.running
        rows.value = tape.value.rows
        if (message.stuck !== null) stuck.value = message.stuck
        if (message.pictures.length > 0) pictures.value = new Map([...pictures.value, ...message.pictures.map(p => [p.name, p] as const)])
        if (message.live !== null) live.value = { tick: message.live.tick, parts: new Map(message.live.parts) }
        if (message.events.length > 0) triggerRef(tape)
        if (message.end !== null) keep()
        else if (worthKeeping()) beforehand.came(run, performance.now(), () => recordNow(keepsake!.title))
    }
  }

  // Whatever the server has needs no more care.
  watch(() => keeping.known, (known) => { for (const number of known.keys()) leaving.delete(number) })

  /** What the run can be run again from, as far as it has come. */
  const recordNow = (title: string) => ({ ...opened.value!.inputs, title, ticks: rows.value, pokes: (tape.value?.events ?? []).flatMap(({ poke }) => poke === undefined ? [] : [poke]) })
  const leftNow = (title: string): LeftRun => beforehand.rest(run, recordNow(title))
  const beforehand = new Beforehand(async (record, more) => {
    const answer = await api.beginRun(of.value!.project, record, more)
    return answer.ok ? answer.value.id : null
  })

  /** When the server was told last, milliseconds. */
  let told = -TOLD_ONCE
  /** The page is being closed: what is not kept yet is told of, so that the server runs it again. */
  function leaveAll(): void {
    if (performance.now() - told < TOLD_ONCE) return
    told = performance.now()
    if (worthKeeping()) leaving.set(run, { keepsake: keepsake!, left: leftNow(keepsake!.title) })
    for (const { keepsake: { project, revision, origin }, left } of leaving.values()) api.leaveRun(project, { ...left, revision, origin: origin === null ? null : keeping.known.get(origin) ?? null })
  }
  // Before another page is fetched, as a browser may end this one's process while it is still saying farewell; and where that was not asked, at the
  // farewell. Also where the browser might bring the page back: whether it will is not known, and it may forget it at any time.
  useEventListener('beforeunload', leaveAll)
  useEventListener('pagehide', leaveAll)

  /** Whether there is a run that is to be kept and has not been. */
  const worthKeeping = (): boolean => keepsake !== null && begun.value && (opened.value?.program != null || driven.value) && rows.value - (opened.value?.from?.ticks ?? 0) >= SHORT

  /** Keeps the run as far as it has come, where it is one to be kept and has not been. */
  function keep(): void {
    if (keepsake === null || !worthKeeping()) return
    const { title } = keepsake
    writing.set(run, runner)
    leaving.set(run, { keepsake, left: leftNow(title) })
    keepsake = null
    runner.send({ type: 'keep', run, title })
  }

  /** The tape of a run that was opened; of one that goes on from another, with what that has of it. */
  function begunTape(of: Opened): Tape {
    const made = new Tape(of.layout)
    if (of.from === null) return made
    if (before === null) {
      made.rewind({ rows: of.from.ticks, events: 0, hash: [0, 0] })
      return made
    }
    const { rows, events } = broughtOver(before, { layout: of.layout, facts: of.facts, program: of.program }, of.from.ticks)
    made.rewind({ rows: before.tape.first, events: 0, hash: [0, 0] })
    made.append(rows, events)
    before = null
    return made
  }

  /** Opens a run of a project's documents and program; it stands before its first tick, or goes. */
  function open(project: string, title: string, inputs: RunInputs, { go, factor, by = 'itself' }: OpenOptions): void {
    const { robot, arena, task } = inputs
    leave(go)
    driven.value = by === 'client'
    of.value = { project, title, documents: JSON.stringify([robot, arena, task]) }
    keepsake = { project, title, revision: null, origin: null }
    before = null
    wire.of((robot as { readonly name?: string }).name ?? '', robot)
    runner.send({ type: 'open', run: ++run, inputs: JSON.parse(JSON.stringify(inputs)) as RunInputs, go, factor, by: by === 'client' ? by : go && wire.real ? 'wire' : 'itself' })
  }

  /** Another run begins: what is to be kept of the one that there is is kept. */
  function leave(go: boolean): void {
    keep()
    reasons.value = null
    behind.value = null
    opening = true
    running.value = go
    begun.value = go
  }

  /** Goes on from an instant of the run that there is with a program, and with other noise where a seed of it is given; what came after stays in the run that was, which is kept. */
  function goOn(program: string, tick: number, noise: number | null, { go, factor }: OpenOptions): void {
    if (of.value === null || opened.value === null || tape.value === null) return
    const origin = run
    leave(go)
    driven.value = false
    keepsake = { project: of.value.project, title: of.value.title, revision: null, origin }
    before = { tape: tape.value, facts: opened.value.facts, program: opened.value.program }
    runner.send({ type: 'goOn', run: ++run, program, tick, noise, go, factor })
  }

  /** What a client says that drives the run's robot; null: it has gone. `answer` takes what is said to it. */
  function client(bytes: Uint8Array | null): void { runner.send({ type: 'client', bytes }) }
  function whenAnswered(act: typeof answering): void { answering = act }

  /** Shows a kept run of a project from its file. */
  function show(project: string, title: string, documents: readonly unknown[], file: Uint8Array): void {
    leave(false)
    driven.value = false
    of.value = { project, title, documents: JSON.stringify(documents) }
    keepsake = null
    before = null
    runner.send({ type: 'show', run: ++run, file })
  }

  /** Has the worker loaded before it is needed. */
  const warm = (): void => { runner.ready() }

  /** Says which revision runs. */
  function ranRevision(revision: number): void { if (keepsake !== null) keepsake.revision = revision }

  /** Whether the run is of this project, with its documents as they are. */
  const isOf = (project: string, documents: unknown): boolean => (opening || opened.value !== null) && of.value?.project === project && of.value.documents === JSON.stringify(documents)

  wire.whenHalted(() => { if (running.value) pause() })
  function pause(): void {
    runner.send({ type: 'pause' })
    running.value = false
  }
  function go(): void {
    runner.send({ type: 'go' })
    running.value = true
    begun.value = true
  }
  function tick(): void {
    runner.send({ type: 'tick' })
    running.value = false
    begun.value = true
  }
  const setSpeed = (factor: number): void => { runner.send({ type: 'speed', factor }) }
  const poke = (poke: Poke): void => { runner.send({ type: 'poke', poke }) }
  /** The run as far as it has come, to be run again by `./mindpath replay`; never where it fails before. */
  const record = (title: string): Promise<RunRecord> => new Promise((resolve) => {
    waiting.push(resolve)
    runner.send({ type: 'record', title })
  })
  /** Asks why, of a tick: the answer comes to `reasons`. */
  const askWhy = (at: number): void => { runner.send({ type: 'why', tick: at }) }
  /** Asks when a part of a rule's condition was true last: the answer comes to `foundTrue`. */
  const askWasTrue = (tick: number, lane: number, rule: number, { from, to }: { readonly from: number, readonly to: number }): void => { runner.send({ type: 'wasTrue', tick, lane, rule, from, to }) }
  /** Asks what conditions were worth in a tick: the answer comes to `live`. */
  const askLive = (at: number): void => { runner.send({ type: 'live', tick: at }) }

  /** Ends the run and its worker; the next use begins anew. */
  function close(): void {
    keep()
    const old = runner
    wire.stop()
    // A run that is being kept is still under way in it: its answer is the last.
    if (writes(old)) runner = begin()
    else old.close()
    keepsake = null
    before = null
    run++
    opening = false
    begun.value = false
    of.value = null
    opened.value = null
    tape.value = null
    rows.value = 0
    end.value = null
    running.value = false
    goals.value = []
    problems.value = []
    live.value = null
    reasons.value = null
    behind.value = null
  }

  return {
    opened, tape, goals, end, hash, running, rows, pictures, live, reasons, behind, foundTrue, stuck, problems, refused, failure, of, begun, replayed,
    driven, client, whenAnswered, open, goOn, show, warm, ranRevision, isOf, pause, go, tick, setSpeed, poke, record, askWhy, askWasTrue, askLive, close,
  }
})
