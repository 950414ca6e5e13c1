import { memoriesSet, wasTrue, why } from '~~/core/why'
import type { Analysis } from '~~/core/language'
import type { ProgramData } from '~~/core/program'
import type { Tape } from '~~/core/tape'
import type { Hindsight } from './hindsight'
import type { FromSimulation, ToSimulation } from './protocol'

/** Milliseconds after which a question is gone into, if none has come after it: whoever drags along the tape asks many. */
const PATIENCE = 80
/** Of so many memories, those that were set last, it is said where. */
const MOST_SET = 8

/** A run with what its tape means. */
export interface Stage { readonly tape: Tape, readonly analysis: Analysis, readonly program: ProgramData }

/** What can be asked now: the run that is at work, or shown (`stage` is null for one without rules), and what looks into its ticks. */
export interface Askable { readonly run: number, readonly stage: Stage | null, readonly hindsight: Hindsight | null }

/** Answers why something was so, from the tapes of a run and of those that it went on from. */
export class Asking {
  /** The runs that this one went on from, the first before the others. */
  private earlier: readonly Stage[] = []
  private questions = 0

  constructor(private readonly now: () => Askable, private readonly post: (message: FromSimulation) => void, private readonly fail: (doing: string, error: unknown) => void) {}

  /** Another run, which went on from none. */
  anew(): void { this.earlier = [] }

  /** The run that there is, with those before it: to be given to `wentOn` where another goes on from it. */
  soFar(): readonly Stage[] { const { stage } = this.now(); return stage === null ? this.earlier : [...this.earlier, stage] }
  wentOn(from: readonly Stage[]): void { this.earlier = from }

  /** The run that a tick was of. */
  private stageOf(tick: number): Stage | null {
    const { stage } = this.now()
    return stage !== null && tick >= stage.tape.first ? stage : this.earlier.findLast(s => tick >= s.tape.first && tick < s.tape.rows) ?? null
  }

  /** Answers for every lane, from the tape; and, where nothing is asked after it, what was behind that. */
  because(tick: number): void {
    const of = this.stageOf(tick)
    if (of === null) return
    const lanes = of.program.lanes.map((_, lane) => why(of.analysis, of.program, of.tape, tick, lane)).filter(w => w !== null)
    this.post({ type: 'because', run: this.now().run, tick, lanes, earlier: of.tape !== this.now().stage?.tape })
    const asked = ++this.questions
    setTimeout(() => {
      try {
        if (asked === this.questions) this.goInto(tick)
      } catch (error) {
        this.fail('asking why', error)
      }
    }, PATIENCE)
  }

  /** Tells what was behind a tick, where the run has come so far. */
  private goInto(tick: number): void {
    const { run, stage, hindsight } = this.now()
    if (stage === null || hindsight === null) return
    const insight = hindsight.lookInto(tick)
    if (insight === null) return
    const latest = memoriesSet(stage.program, stage.tape, tick).slice(0, MOST_SET)
    const within = new Map(latest.map(({ at }) => [at, at === tick ? insight : hindsight.lookInto(at)]))
    this.post({
      type: 'behind', run, tick, known: insight.known, moving: insight.moving,
      set: latest.flatMap(({ name, at }) => { const by = within.get(at)?.set.findLast(s => s.name === name); return by === undefined ? [] : [{ ...by, tick: at }] }),
    })
  }

  wasTrue({ tick, lane, rule, from, to }: Extract<ToSimulation, { type: 'wasTrue' }>): void {
    const of = this.stageOf(tick)
    if (of === null) return
    const found = wasTrue(of.analysis, of.program, of.tape, lane, rule, { from, to }, tick)
    this.post({ type: 'wasTrue', run: this.now().run, tick: found === null ? null : found.to - 1 })
  }
}
