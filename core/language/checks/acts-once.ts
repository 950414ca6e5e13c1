import type { Analysis } from '../analysis'
import { activeSteps } from '../nodes'
import type { Expression, Step } from '../tree'
import { say } from '../wording'
import type { Check } from './index'

/** A program that is a `start` and decides or reacts one single time, or ends in a motion that its end stops. */
export const actsOnce: Check = (program, findings) => {
  const lane = program.lanes[0]
  if (program.lanes.length !== 1 || lane === undefined || lane.start === null) return
  if (lane.above.length > 0 || lane.modes.some(m => m.rules.length > 0 || m.start !== null)) return
  const steps = lane.start.body.steps.filter(s => s.tag === 'unread' || !s.off)
  const last = steps.at(-1)
  if (last?.tag === 'action' && program.planOf(last)?.plan.timing === 'held' && last.lasting === null && last.until === null) {
    findings.warning(say.endsAtOnce(), last.range)
    return
  }
  if (activeSteps(lane.start.body).some(s => s.tag === 'repeat')) return
  const decides = steps.find(s => decidesByReading(program, s))
  if (decides !== undefined) {
    findings.hint(say.decidesOnce(), { from: decides.range.from, to: decides.range.from + 2 })
    return
  }
  const waits = steps.findIndex(s => s.tag === 'waitUntil')
  if (waits === -1 || waits > 1) return
  const after = steps.slice(waits + 1)
  const acts = after.filter(s => s.tag === 'action' && s.form !== 'halt')
  if (acts.length <= 1 && after.length <= 2 && acts.length > 0) findings.hint(say.actsOnce(), steps[waits]!.range)
}

function decidesByReading(program: Analysis, step: Step): boolean {
  return step.tag === 'if' && step.branches.some(b => b.condition !== null && readsADevice(program, b.condition))
}

function readsADevice(program: Analysis, e: Expression): boolean {
  const text = program.text.slice(e.range.from, e.range.to)
  return program.facts.devices.some(d => text.includes(`${d.name}.`))
}
