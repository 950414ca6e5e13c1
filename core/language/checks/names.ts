import type { Analysis } from '../analysis'
import { activeSteps, flatSteps } from '../nodes'
import { say } from '../wording'
import type { Check } from './index'
import { allBodies } from './walk'

/** Dials, memories and signals that nothing uses. */
export const names: Check = (program, findings) => {
  const { uses } = program
  // A line that could not be read may use what no other does: one mistake, one message.
  let unread: string | null = null
  const mentioned = (name: string): boolean => new RegExp(`\\b${name}\\b`).test(unread ??= unreadText(program))
  for (const [name, { node }] of program.dials) if (!uses.names.has(name) && !mentioned(name)) findings.warning(say.unused('dial', name), node.name.range)
  for (const [name, { node }] of program.lets) if (!uses.names.has(name) && !mentioned(name)) findings.warning(say.unused('named value', name), node.name.range)
  for (const [name, { node }] of program.memories) {
    if (uses.names.has(name) || mentioned(name)) continue
    findings.warning(uses.sets.has(name) ? say.neverRead(name) : say.unused('memory', name), node.name.range)
  }
  const bodies = allBodies(program)
  for (const step of bodies.flatMap(activeSteps)) {
    if (step.tag === 'send' && !uses.heard.has(step.signal.text)) findings.warning(say.unheard(step.signal.text), step.signal.range)
  }
  for (const [signal, range] of uses.heard) if (!uses.sent.has(signal)) findings.warning(say.unsent(signal), range)
}

/** The lines of a program that could not be read. */
function unreadText(program: Analysis): string {
  const bodies = allBodies(program)
  const items = [...program.tree.items, ...program.tree.items.flatMap(i => i.tag === 'lane' || i.tag === 'mode' ? i.items : [])]
  return [...items, ...bodies.flatMap(b => flatSteps(b))].flatMap(i => i.tag === 'unread' ? [program.text.slice(i.range.from, i.range.to)] : []).join('\n')
}
