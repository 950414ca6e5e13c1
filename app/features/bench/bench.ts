import { defineStore, storeToRefs } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Diagnostic } from '~~/core/language'
import { REALISMS, RUN_REALISMS, type RunRealism } from '~~/core/devices'
import { LAST_SEED } from '~~/core/random'
import type { Poke } from '~~/core/simulation'
import { ProgramChecker } from '~/run/checker'
import type { DialView } from '~/run/protocol'
import { raceOf, timeOf, useBest } from './best'
import { useProjectStore } from '~/draft/project'
import { useSessionStore } from '~/run/session'

/** How long one may have the robot in hand, seconds. */
const BY_HAND = 3600
export const SPEEDS = [0.25, 0.5, 1, 2, 4, 8, Infinity] as const

/** What the bench shows: the run, the instant looked at, and what the checker says. */
export const useBenchStore = defineStore('bench', () => {
  const project = useProjectStore()
  const session = useSessionStore()
  const { opened, tape, goals, end, hash, running, rows, pictures, live, reasons, behind, stuck, problems, failure, replayed } = storeToRefs(session)

  const seed = ref(1)
  const chosen = ref<RunRealism>('typical')
  /** What a run may be asked for: as it was measured only where the robot was. */
  const realisms = computed((): readonly RunRealism[] => (project.data?.robot as { readonly measured?: object } | undefined)?.measured === undefined ? REALISMS : RUN_REALISMS)
  const realism = computed({ get: () => realisms.value.includes(chosen.value) ? chosen.value : 'typical', set: (value: RunRealism) => { chosen.value = value } })
  const speed = ref<number>(1)
  /** No program runs: the robot is in somebody's hands. */
  const byHand = ref(false)
  /** The instant looked at, as a tick; null for the newest. */
  const cursor = ref<number | null>(null)
  const asking = ref(false)
  /** Why the program could not be checked; null when it could. */
  const checkFailure = ref<string | null>(null)

  const diagnostics = shallowRef<readonly Diagnostic[]>([])
  const runs = ref(false)
  const checked = ref(false)
  const dials = shallowRef<readonly DialView[]>([])

  /** Seeds of other noise that were gone on with. */
  let noise = 0
  let previewed = false
  /** How often what was to be opened had mistakes: the program that ran last stands in for it, then none. */
  let standIns = 0

  const checker = new ProgramChecker((answer) => {
    checkFailure.value = answer.failure
    // Nothing to say after nothing to say: all that shows it stays as it is.
    if (answer.diagnostics.length > 0 || diagnostics.value.length > 0) diagnostics.value = answer.diagnostics
    runs.value = answer.runs
    checked.value = true
    // While there are mistakes, the dials stay as they were; what did not change is the same object, as much is drawn by it.
    if (answer.runs && JSON.stringify(answer.dials) !== JSON.stringify(dials.value)) dials.value = answer.dials
    answered = asked
    const act = put
    put = null
    if (runHindrance.value === null) act?.()
  })
  /** The program that was given to be checked last, and the one that has been. */
  let asked: string | null = null
  let answered: string | null = null
  /** What was to be done with a program that was still being checked. */
  let put: (() => void) | null = null
  /** Does something with the program as it is now, as soon as it is known to have no mistakes: somebody may type and run faster than it is checked. */
  function onceChecked(act: () => void): void {
    put = null
    if (runHindrance.value === null) act()
    else if (answered !== project.program) put = act
  }

  const shownTick = computed(() => cursor.value ?? Math.max(0, rows.value - 1))
  const row = computed(() => { void rows.value; return tape.value?.find(shownTick.value) ?? opened.value?.first ?? null })
  const time = computed(() => opened.value === null ? 0 : shownTick.value * opened.value.layout.dt)
  /** A kept run is looked at: nothing happens in it any more, but it can be gone on from. */
  const kept = computed(() => opened.value?.kept ?? null)
  const mistakes = computed(() => diagnostics.value.filter(d => d.severity === 'error').length)
  /** Why Run cannot start; null when it can. */
  const runHindrance = computed(() => checkFailure.value !== null ? 'not checked' : mistakes.value === 0 ? null : mistakes.value === 1 ? '1 mistake' : `${mistakes.value} mistakes`)
  const hasInstant = computed(() => opened.value !== null && !byHand.value && failure.value === null && rows.value > 0)
  const canGoOn = computed(() => hasInstant.value && runHindrance.value === null)
  const atStart = computed(() => rows.value <= 1 && !running.value)

  const best = useBest()
  /** Seed and realism of the run, which may be others than those chosen for the next. */
  let race: string | null = null
  /** The best time on this seed before this run, seconds; null where there was none. */
  const toBeat = ref<number | null>(null)
  /** How long this run took, where it met all goals by itself. */
  const took = computed(() => timeOf(end.value, goals.value, end.value === null ? [] : tape.value?.events ?? []))
  watch(took, (time) => { if (time !== null && race !== null) best.take(race, time) })

  // Another run is looked at from its newest instant.
  watch(opened, () => { cursor.value = null })
  watch(() => session.refused, (said) => {
    if (said.length === 0) return
    diagnostics.value = said
    runs.value = false
    // With mistakes the robot still stands in its arena: as the program left it that ran last, else with none.
    if (opened.value === null && standIns < 2) { standIns++; back() }
  })

  function open(program: string, go: boolean, limit: number | null = null, by: 'itself' | 'client' = 'itself'): void {
    byHand.value = false
    putWhyAway()
    const { data } = project
    if (data === null) return
    race = raceOf(data.id, [data.robot, data.arena, data.task ?? null], seed.value, realism.value)
    toBeat.value = best.find(race)
    session.open(data.id, data.title, { robot: data.robot, arena: data.arena, task: data.task ?? null, program, seed: seed.value, realism: realism.value, limit }, { go, factor: speed.value, by })
  }

  /** A client drives the robot from now on: no program of ours runs. */
  function beDriven(): void { open('', true, null, 'client') }

  /** Comes to a project: its run goes on where there is one of it as it is, else the robot stands at its start. */
  function arrive(): void {
    if (isCurrent()) return
    standIns = 0
    session.close()
    back()
  }

  /** Runs the program as it is now, from the start. */
  function run(): void {
    onceChecked(() => {
      open(project.program, true)
      markRan()
    })
  }

  /** Notes which revision runs. */
  function markRan(): void { void project.markRan().then(() => session.ranRevision(project.revision)) }

  /** Goes on from the instant looked at, with the program as it is now; with other noise where asked. Of the run that was all stays, in the list of runs. */
  function goOn(otherNoise = false): void {
    const tick = shownTick.value
    onceChecked(() => {
      if (!hasInstant.value) return
      putWhyAway()
      toBeat.value = null
      race = null
      session.goOn(project.program, tick, otherNoise ? ++noise : null, { go: true, factor: speed.value })
      markRan()
    })
  }

  /** The instant of a kept run that is to be looked at once it is there, seconds; null for its end. */
  let arrival: number | null = null
  watch(rows, (n) => {
    if (arrival === null || kept.value === null || n < 2) return
    look(Math.round(arrival / opened.value!.facts.tick))
    arrival = null
  })

  /** Shows a kept run from its file, in place of the one that there is, at an instant (seconds), else at its end. */
  function show(file: Uint8Array, at: number | null = null): void {
    const { data } = project
    if (data === null) return
    arrival = at
    byHand.value = false
    putWhyAway()
    race = null
    toBeat.value = null
    session.show(data.id, data.title, [data.robot, data.arena, data.task ?? null], file)
  }

  /** The robot stands at its start in the next realism. */
  function nextRealism(): void {
    realism.value = realisms.value[(realisms.value.indexOf(realism.value) + 1) % realisms.value.length]!
    back()
  }

  /** Another seed, and the program runs in what that draws. */
  function shuffle(): void {
    seed.value = seed.value < LAST_SEED ? seed.value + 1 : 0
    run()
  }

  /** Runs the program that ran last, while the one being written has mistakes. */
  function runLast(): void {
    if (project.data?.ranProgram != null) open(project.data.ranProgram, true)
  }

  /** Back to the start: the same program, standing. */
  function back(): void {
    open(mistakes.value === 0 ? project.program : standIns > 1 ? '' : project.data?.ranProgram ?? '', false)
  }

  /** Whether the run is of the project as it is now. */
  const isCurrent = (): boolean => project.data !== null && session.isOf(project.data.id, [project.data.robot, project.data.arena, project.data.task ?? null])

  /** The robot at its start with no program: what another view shows of it. `endPreview` puts it away, so that the bench begins anew. */
  function preview(): void { previewed = true; open('', false) }
  function endPreview(): void { if (previewed) session.close(); previewed = false }

  function toggle(): void {
    if (running.value) { session.pause(); return }
    if (cursor.value !== null && end.value === null) cursor.value = null
    if (end.value !== null || opened.value === null || kept.value !== null || (!session.begun && rows.value <= 1)) { run(); return }
    putWhyAway()
    session.go()
  }

  /** Before anything happens, the program is taken up as it is now. */
  function takeUp(): void {
    if (rows.value <= 1 && !session.begun && mistakes.value === 0 && opened.value?.program?.text !== project.program) open(project.program, false)
  }

  function tickOnce(): void {
    if (cursor.value !== null && cursor.value < rows.value - 1) { look(cursor.value + 1); return }
    if (kept.value !== null) return
    cursor.value = null
    takeUp()
    session.tick()
  }

  /** Looks at an instant of the tape; the run pauses. */
  function look(tick: number | null): void {
    if (tick !== null && running.value) session.pause()
    cursor.value = tick === null || tick >= rows.value - 1 ? null : Math.max(tape.value?.first ?? 0, Math.round(tick))
  }

  function setSpeed(factor: number): void {
    speed.value = factor
    session.setSpeed(factor)
  }

  function faster(by: 1 | -1): void {
    const at = SPEEDS.findIndex(s => s === speed.value)
    setSpeed(SPEEDS[Math.min(SPEEDS.length - 1, Math.max(0, at + by))]!)
  }

  /** Asks why, of the instant looked at; asking again puts the answer away. The run pauses. */
  function askWhy(): void {
    if (asking.value) { putWhyAway(); return }
    asking.value = true
    if (running.value) session.pause()
    question()
  }
  function putWhyAway(): void {
    asking.value = false
    reasons.value = null
    behind.value = null
    toldTrue.value = ''
  }
  function question(): void {
    if (asking.value && rows.value > 0) session.askWhy(shownTick.value)
  }
  /** What came of asking when a condition was true; '' for nothing to tell. */
  const toldTrue = ref('')
  /** Goes to the latest tick before this one in which a part of a rule's condition was true. */
  function whenTrue(lane: number, rule: number, part: { readonly from: number, readonly to: number }): void { session.askWasTrue(shownTick.value, lane, rule, part) }
  watch(() => session.foundTrue, (found) => {
    if (found === null) return
    toldTrue.value = found.tick === null ? 'It was not true before, as far as is looked back.' : ''
    if (found.tick !== null) look(found.tick)
  })
  watch(shownTick, (tick) => {
    toldTrue.value = ''
    if (running.value) return
    question()
    if (live.value?.tick !== tick) session.askLive(tick)
  })

  /** Hands on: the robot without a program, live, to be driven and put about while one reads its senses. */
  function handle(): void {
    if (byHand.value) { back(); return }
    open('', true, BY_HAND)
    byHand.value = true
  }

  /** Drives by hand; nothing while a program has the wheels. */
  function steer(speed: number, right: number): void {
    if (byHand.value) session.poke({ poke: 'drive', speed, right })
  }
  /** Whether a hand reaches the run: there is one, and it is not over. */
  const inReach = computed(() => opened.value !== null && kept.value === null && end.value === null && failure.value === null)

  /** Lets a hand into the run, at its newest instant. Where it stands, it goes on by one tick, so that what came of it is seen. */
  function poke(poke: Poke): void {
    // A dial is turned in the text as well: where the run stands, it goes on with it when it does.
    if (poke.poke === 'dial') { session.poke(poke); return }
    if (!inReach.value) return
    cursor.value = null
    if (!byHand.value) takeUp()
    session.poke(poke)
    if (!running.value) session.tick()
  }

  /** The run as far as it has come, as a file's text. */
  const record = async (): Promise<string> => `${JSON.stringify(await session.record(project.data?.title ?? ''), null, 1)}\n`

  function check(): void {
    if (project.data === null) return
    const { goals } = (project.data.task ?? {}) as { goals?: { goal?: string }[] }
    asked = project.program
    checker.ask(asked, project.data.robot, { finish: goals?.some(g => g.goal === 'finish') === true })
  }

  /** Text to be put where the caret is; the editor takes it and sets it to null. */
  const inserting = ref<string | null>(null)
  function insert(text: string): void { inserting.value = text }

  /** Leaves the bench: the run goes on, checking does not. */
  function leave(): void {
    checker.close()
    checked.value = false
    answered = put = null
    diagnostics.value = []
    dials.value = []
  }

  return {
    seed, realism, realisms, speed, opened, tape, goals, end, hash, failure, checkFailure, running, rows, cursor, pictures, live, reasons, behind, stuck, toldTrue, asking, problems, diagnostics, runs, checked, dials,
    shownTick, row, time, mistakes, runHindrance, atStart,
    byHand, inserting, inReach, toBeat, took, kept, canGoOn, replayed,
    arrive, beDriven, goOn, show, isCurrent, preview, endPreview, run, nextRealism, shuffle, runLast, back, toggle, tickOnce, look, setSpeed, faster, handle, steer, askWhy, whenTrue, poke, record, insert, check, leave,
  }
})
