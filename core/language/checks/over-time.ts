import { KINDS, sameKind } from '../../units'
import { eachNode, expressionsIn } from '../nodes'
import { say } from '../wording'
import { OVER_TIME } from '../words'
import type { Check } from './index'

const NAMED = new RegExp(`\\b(?:${[...OVER_TIME.keys()].join('|')})\\b`)

/** An angle that jumps by a whole turn, under something that takes it for a change or for values between. */
export const overTime: Check = (program, findings) => {
  // Few programs follow anything over time, and the whole tree is long.
  if (!NAMED.test(program.text)) return
  eachNode(program.tree, (e) => {
    if (e.tag !== 'call' || !OVER_TIME.has(e.name.text) || e.name.text === 'since') return
    for (const part of e.given.flatMap(g => [...expressionsIn(g)])) {
      if (part.tag !== 'reading') continue
      const reading = program.facts.devices.find(d => d.name === part.device.text)?.readings.find(r => r.name === part.reading.text)
      const turns = reading?.type.type === 'quantity' && sameKind(reading.type.kind, KINDS.angle) && reading.range !== null && reading.range[1] - reading.range[0] === 2 * Math.PI
      if (turns) findings.warning(say.wraps(`${part.device.text}.${part.reading.text}`), part.range)
    }
  })
}
