import { defineStore } from 'pinia'
import { computed, ref, shallowRef, triggerRef, watch } from 'vue'
import type { Diagnostic } from '~~/core/language'
import type { RealismName } from '~~/core/devices'
import type { Poke, ProblemIn, RunEnd } from '~~/core/simulation'
import type { GoalState } from '~~/core/task'
import type { Why } from '~~/core/why'
import { ProgramChecker } from '~/bench/checker'
import { Runner } from '~/bench/runner'
import { Tape } from '~~/core/tape'
import type { CameraPicture, DialView, FromSimulation, Opened } from '~/workers/protocol'
import { useProjectStore } from './project'

/** How long one may have the robot in hand, seconds. */
const BY_HAND = 3600
export const SPEEDS = [0.25, 0.5, 1, 2, 4, 8, Infinity] as const

/** What the bench shows: the run, the instant looked at, and what the checker says. */
export const useBenchStore = defineStore('bench', () => {
  const project = useProjectStore()

  const seed = ref(1)
  const realism = ref<RealismName>('typical')
  const speed = ref<number>(1)

  const opened = shallowRef<Opened | null>(null)
  const tape = shallowRef<Tape | null>(null)
  const goals = shallowRef<readonly GoalState[]>([])
  const end = shallowRef<RunEnd | null>(null)
  /** Fingerprint of the tape of a run that is over. */
  const hash = ref<string | null>(null)
  const running = ref(false)
  /** No program runs: the robot is in somebody's hands. */
  const byHand = ref(false)
  /** Rows on the tape; grows while it runs. */
  const rows = ref(0)
  /** The instant looked at, as a tick; null for the newest. */
  const cursor = ref<number | null>(null)
  /** Why the lanes did what they did in a tick, as somebody asked; null when nobody did. */
  const reasons = shallowRef<{ readonly tick: number, readonly lanes: readonly Why[] } | null>(null)
  const asking = ref(false)
  /** What each camera saw last. */
  const pictures = shallowRef<ReadonlyMap<string, CameraPicture>>(new Map())
  const problems = shallowRef<readonly ProblemIn[]>([])
  /** What failed in a worker, for people; null when nothing did. */
  const failure = ref<string | null>(null)
  /** Why the program could not be checked; null when it could. */
  const checkFailure = ref<string | null>(null)

  const diagnostics = shallowRef<readonly Diagnostic[]>([])
  const runs = ref(false)
  const checked = ref(false)
  const dials = shallowRef<readonly DialView[]>([])

  let runNumber = 0
  let opening = false
  let wasRun = false
  /** How often what was to be opened had mistakes: the program that ran last stands in for it, then none. */
  let standIns = 0

  const runner = new Runner(hear)
  const checker = new ProgramChecker((answer) => {
    checkFailure.value = answer.failure
    diagnostics.value = answer.diagnostics
    runs.value = answer.runs
    checked.value = true
    // While there are mistakes, the dials stay as they were.
    if (answer.runs) dials.value = answer.dials
  })

  const shownTick = computed(() => cursor.value ?? Math.max(0, rows.value - 1))
  const row = computed(() => { void rows.value; return tape.value?.find(shownTick.value) ?? opened.value?.first ?? null })
  const time = computed(() => opened.value === null ? 0 : shownTick.value * opened.value.layout.dt)
  const mistakes = computed(() => diagnostics.value.filter(d => d.severity === 'error').length)
  /** Why Run cannot start; null when it can. */
  const runHindrance = computed(() => checkFailure.value !== null ? 'not checked' : mistakes.value === 0 ? null : mistakes.value === 1 ? '1 mistake' : `${mistakes.value} mistakes`)
  const atStart = computed(() => rows.value <= 1 && !running.value)

  function hear(message: FromSimulation): void {
    if (message.type === 'failed' ? message.run !== null && message.run !== runNumber : message.run !== runNumber) return
    switch (message.type) {
      case 'opened':
        opening = false
        failure.value = null
        opened.value = message.opened
        tape.value = new Tape(message.opened.layout)
        rows.value = 0
        cursor.value = null
        end.value = null
        hash.value = null
        problems.value = []
        pictures.value = new Map()
        return
      case 'refused':
        opening = false
        problems.value = message.problems
        if (message.diagnostics.length > 0) { diagnostics.value = message.diagnostics; runs.value = false }
        running.value = false
        // With mistakes the robot still stands in its arena: as the program left it that ran last, else with none.
        if (message.diagnostics.length > 0 && opened.value === null && standIns < 2) { standIns++; back() }
        return
      case 'failed':
        // The worker is done with: the next run begins another. What it recorded stays to be looked at.
        runner.close()
        opening = false
        running.value = false
        wasRun = false
        failure.value = `Something failed while ${message.doing}: ${message.message}. Run begins anew.`
        return
      case 'because':
        reasons.value = { tick: message.tick, lanes: message.lanes }
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
        if (message.events.length > 0) triggerRef(tape)
    }
  }

  function open(program: string, go: boolean, limit: number | null = null): void {
    byHand.value = false
    putWhyAway()
    const data = project.data
    if (data === null) return
    const plain = JSON.parse(JSON.stringify({ robot: data.robot, arena: data.arena, task: data.task ?? null })) as { robot: unknown, arena: unknown, task: unknown }
    opening = true
    runner.send({ type: 'open', run: ++runNumber, ...plain, program, seed: seed.value, realism: realism.value, go, limit, factor: speed.value })
    running.value = go
    wasRun = go
  }

  /** Runs the program as it is now, from the start. */
  function run(): void {
    if (runHindrance.value !== null) return
    open(project.program, true)
    void project.markRan()
  }

  /** Runs the program that ran last, while the one being written has mistakes. */
  function runLast(): void {
    if (project.data?.ranProgram != null) open(project.data.ranProgram, true)
  }

  /** Back to the start: the same program, standing. */
  function back(): void {
    open(mistakes.value === 0 ? project.program : standIns > 1 ? '' : project.data?.ranProgram ?? '', false)
    wasRun = false
  }

  function toggle(): void {
    if (running.value) { runner.send({ type: 'pause' }); running.value = false; return }
    if (cursor.value !== null && end.value === null) cursor.value = null
    if (end.value !== null || opened.value === null || (!wasRun && rows.value <= 1)) { run(); return }
    putWhyAway()
    runner.send({ type: 'go' })
    running.value = true
  }

  function tickOnce(): void {
    if (cursor.value !== null && cursor.value < rows.value - 1) { look(cursor.value + 1); return }
    cursor.value = null
    if (rows.value <= 1 && !wasRun && mistakes.value === 0 && opened.value?.program?.text !== project.program) open(project.program, false)
    wasRun = true
    runner.send({ type: 'tick' })
    running.value = false
  }

  /** Looks at an instant of the tape; the run pauses. */
  function look(tick: number | null): void {
    if (tick !== null && running.value) { runner.send({ type: 'pause' }); running.value = false }
    cursor.value = tick === null || tick >= rows.value - 1 ? null : Math.max(0, Math.round(tick))
  }

  function setSpeed(factor: number): void {
    speed.value = factor
    runner.send({ type: 'speed', factor })
  }

  function faster(by: 1 | -1): void {
    const at = SPEEDS.findIndex(s => s === speed.value)
    setSpeed(SPEEDS[Math.min(SPEEDS.length - 1, Math.max(0, at + by))]!)
  }

  /** Asks why, of the instant looked at; asking again puts the answer away. The run pauses. */
  function askWhy(): void {
    if (asking.value) { putWhyAway(); return }
    asking.value = true
    if (running.value) { runner.send({ type: 'pause' }); running.value = false }
    question()
  }
  function putWhyAway(): void {
    asking.value = false
    reasons.value = null
  }
  function question(): void {
    if (asking.value && rows.value > 0) runner.send({ type: 'why', tick: shownTick.value })
  }
  watch(shownTick, () => { if (!running.value) question() })

  /** Hands on: the robot without a program, live, to be driven and put about while one reads its senses. */
  function handle(): void {
    if (byHand.value) { back(); return }
    open('', true, BY_HAND)
    byHand.value = true
  }

  /** Drives by hand; nothing while a program has the wheels. */
  function steer(speed: number, right: number): void {
    if (byHand.value) runner.send({ type: 'poke', poke: { poke: 'drive', speed, right } })
  }

  function poke(poke: Poke): void { runner.send({ type: 'poke', poke }) }

  function check(): void {
    if (project.data === null) return
    const { goals } = (project.data.task ?? {}) as { goals?: { goal?: string }[] }
    checker.ask(project.program, project.data.robot, { finish: goals?.some(g => g.goal === 'finish') === true })
  }

  /** Text to be put where the caret is; the editor takes it and sets it to null. */
  const inserting = ref<string | null>(null)
  function insert(text: string): void { inserting.value = text }

  /** Ends both workers; the next use begins anew. */
  function close(): void {
    runner.close()
    checker.close()
    runNumber++
    standIns = 0
    opened.value = null
    tape.value = null
    rows.value = 0
    cursor.value = null
    end.value = null
    running.value = false
    wasRun = false
    checked.value = false
    diagnostics.value = []
    dials.value = []
    goals.value = []
    problems.value = []
  }

  return {
    seed, realism, speed, opened, tape, goals, end, hash, failure, checkFailure, running, rows, cursor, pictures, reasons, asking, problems, diagnostics, runs, checked, dials,
    shownTick, row, time, mistakes, runHindrance, atStart,
    byHand, inserting,
    run, runLast, back, toggle, tickOnce, look, setSpeed, faster, handle, steer, askWhy, poke, insert, check, close,
  }
})
