import { defineStore } from 'pinia'
import { ref, shallowRef, triggerRef } from 'vue'
import type { Diagnostic } from '~~/core/language'
import type { Poke, ProblemIn, RunEnd, RunInputs, RunRecord } from '~~/core/simulation'
import { Tape } from '~~/core/tape'
import type { GoalState } from '~~/core/task'
import type { LivePart, Why } from '~~/core/why'
import { Runner } from './runner'
import type { CameraPicture, FromSimulation, Opened } from './protocol'

/** What is asked of a session when a run is opened. */
export interface OpenOptions { readonly go: boolean, readonly factor: number }

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
  const reasons = shallowRef<{ readonly tick: number, readonly lanes: readonly Why[] } | null>(null)
  const problems = shallowRef<readonly ProblemIn[]>([])
  /** The program that could not be run: what is wrong with it. */
  const refused = shallowRef<readonly Diagnostic[]>([])
  /** What failed in the worker, for people; null when nothing did. */
  const failure = ref<string | null>(null)
  /** The project and the documents that the run is of, as text; null when there is none. */
  const of = ref<{ readonly project: string, readonly documents: string } | null>(null)

  let run = 0
  let opening = false
  /** Who waits for the run's record. */
  let waiting: ((record: RunRecord) => void)[] = []
  const runner = new Runner(hear)

  function hear(message: FromSimulation): void {
    if (message.type === 'failed' ? message.run !== null && message.run !== run : message.run !== run) return
    switch (message.type) {
      case 'opened':
        opening = false
        failure.value = null
        opened.value = message.opened
        tape.value = new Tape(message.opened.layout)
        rows.value = 0
        end.value = null
        hash.value = null
        live.value = null
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
        // The worker is done with: the next run begins another. What it recorded stays to be looked at.
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
      case 'because':
        reasons.value = { tick: message.tick, lanes: message.lanes }
        return
      case 'live':
        live.value = { tick: message.tick, parts: new Map(message.parts) }
        return
      case 'rows':
        if (tape.value === null || opening) return
        tape.value.append(message.rows, message.events)
        goals.value = message.goals
        end.value = message.end
        hash.value = message.hash
        running.value = message.running
        rows.value = tape.value.rows
        if (message.pictures.length > 0) pictures.value = new Map([...pictures.value, ...message.pictures.map(p => [p.name, p] as const)])
        if (message.live !== null) live.value = { tick: message.live.tick, parts: new Map(message.live.parts) }
        if (message.events.length > 0) triggerRef(tape)
    }
  }

  /** Opens a run of a project's documents and program; it stands before its first tick, or goes. */
  function open(project: string, inputs: RunInputs, { go, factor }: OpenOptions): void {
    const { robot, arena, task } = inputs
    of.value = { project, documents: JSON.stringify([robot, arena, task]) }
    reasons.value = null
    opening = true
    running.value = go
    begun.value = go
    runner.send({ type: 'open', run: ++run, inputs: JSON.parse(JSON.stringify(inputs)) as RunInputs, go, factor })
  }

  /** Whether the run is of this project, with its documents as they are. */
  const isOf = (project: string, documents: unknown): boolean => opened.value !== null && of.value?.project === project && of.value.documents === JSON.stringify(documents)

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
  /** Asks what conditions were worth in a tick: the answer comes to `live`. */
  const askLive = (at: number): void => { runner.send({ type: 'live', tick: at }) }

  /** Ends the run and its worker; the next use begins anew. */
  function close(): void {
    runner.close()
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
  }

  return {
    opened, tape, goals, end, hash, running, rows, pictures, live, reasons, problems, refused, failure, of, begun,
    open, isOf, pause, go, tick, setSpeed, poke, record, askWhy, askLive, close,
  }
})
