import { NEAR, NEAR_ANGLE } from '../../devices'
import type { Analysis } from '../analysis'
import { activeSteps } from '../nodes'
import type { Action, Block, Step } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { allBodies, askedBy, blocksOf, eachBlock, fixedValue, readingsIn } from './walk'

/** A round with a note that takes less than this floods the tape, seconds. */
const FLOOD = 0.1
/** A device whose looks are this many ticks apart may not have looked since the last step. */
const SELDOM = 1.5

/** What goes wrong between two ticks or two looks: steps too short to do anything, notes without end, readings from before a move, acting before a move is over. */
export const timing: Check = (program, findings) => {
  for (const { body, rule } of blocksOf(program)) {
    // A timed rule begins anew as long as it is true.
    if (rule !== null && !rule.once && body.steps.some(s => program.takesTime(s))) flood(program, body, findings)
  }
  const bodies = allBodies(program)
  for (const body of bodies) {
    for (const step of activeSteps(body)) {
      tooShort(program, step, findings)
      if (step.tag === 'repeat') flood(program, step.body, findings)
    }
    eachBlock(body, (block) => {
      const steps = block.steps.filter((s): s is Exclude<Step, { tag: 'unread' }> => s.tag !== 'unread' && !s.off)
      steps.forEach((step, i) => {
        const before = steps[i - 1]
        if (before !== undefined) stale(program, before, step, findings)
        if (step.tag === 'action') notThere(program, step, steps.slice(i + 1), findings)
      })
    })
  }
}

/** How long a step takes at most, seconds, as far as it is written; Infinity where it is not. */
function longest(program: Analysis, step: Step): number {
  if (step.tag === 'wait') return fixedValue(program, step.time) ?? Infinity
  if (step.tag === 'action' && step.lasting !== null) return fixedValue(program, step.lasting) ?? Infinity
  return program.takesTime(step) ? Infinity : 0
}

function flood(program: Analysis, round: Block, findings: Parameters<Check>[1]): void {
  const steps = activeSteps(round)
  const note = steps.find(s => s.tag === 'note')
  if (note === undefined) return
  const time = round.steps.reduce((sum, s) => sum + longest(program, s), 0)
  if (time > 0 && time < FLOOD) findings.hint(say.noteOften(Math.round(1 / Math.max(time, program.facts.tick))), note.range)
}

function tooShort(program: Analysis, step: Exclude<Step, { tag: 'unread' }>, findings: Parameters<Check>[1]): void {
  const { tick } = program.facts
  const time = step.tag === 'wait' ? step.time : step.tag === 'action' ? step.lasting : null
  if (time !== null) {
    const value = fixedValue(program, time)
    if (value !== null && value > 0 && value < tick * 0.999) findings.hint(say.shorterThanTick(Math.round(tick * 1000)), time.range)
  }
  if (step.tag !== 'action' || (step.form !== 'drive' && step.form !== 'turn') || program.planOf(step)?.plan.timing !== 'timed') return
  const amount = step.slots.find(s => s.name === 'amount')?.value
  const value = amount == null ? null : fixedValue(program, amount)
  if (amount == null || value === null || value === 0) return
  if (Math.abs(value) <= (step.form === 'turn' ? NEAR_ANGLE : NEAR)) findings.hint(say.shorterThanWheels(step.form === 'turn' ? '0.6 deg' : '1.5 mm'), amount.range)
}

/** A reading asked for in the tick in which the robot, or what carries the device, came to rest: it was taken before. */
function stale(program: Analysis, before: Step, step: Exclude<Step, { tag: 'unread' }>, findings: Parameters<Check>[1]): void {
  if (before.tag !== 'action' || !program.takesTime(before) || before.form === 'look') return
  const { moves = [] } = program.planOf(before) ?? {}
  for (const reading of askedBy(step).flatMap(readingsIn)) {
    const device = program.facts.devices.find(d => d.name === reading.device.text)
    if (device === undefined || device.kind === 'wheels' || device.round + device.latency <= SELDOM * program.facts.tick) continue
    if (!(before.form === 'turn' || before.form === 'turnTo') && !moves.some(m => carries(program, m, device.name))) continue
    findings.hint(say.staleReading(device.name, Math.round((device.round + device.latency) * 1000)), reading.range)
    return
  }
}

/** Whether a joint carries a device, itself or by others. */
function carries(program: Analysis, joint: string, device: string): boolean {
  for (let on = program.facts.devices.find(d => d.name === device)?.on ?? null; on !== null; on = program.facts.devices.find(d => d.name === on)?.on ?? null) if (on === joint) return true
  return false
}

/** A hand that acts while the joint that carries it is still on its way. */
function notThere(program: Analysis, step: Action, after: readonly Exclude<Step, { tag: 'unread' }>[], findings: Parameters<Check>[1]): void {
  if (!step.slots.some(s => s.name === 'free')) return
  const joint = step.slots.find(s => s.name === 'device')?.word
  for (const next of after) {
    if (next.tag === 'action' && ['open', 'close', 'switch'].includes(next.form)) {
      const hand = next.slots.find(s => s.name === 'device')?.word
      if (joint != null && hand != null && carries(program, joint, hand)) findings.hint(say.notThereYet(hand, joint), next.range)
      return
    }
    if (program.takesTime(next)) return
  }
}
