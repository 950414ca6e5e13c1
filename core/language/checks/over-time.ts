import { KINDS, sameKind } from '../../units'
import { expressionsIn, expressionsOf, nodesIn } from '../nodes'
import { say } from '../wording'
import { OVER_TIME } from '../words'
import type { Check } from './index'

/** An angle that jumps by a whole turn, under something that takes it for a change or for values between. */
export const overTime: Check = (program, findings) => {
  for (const node of nodesIn(program.tree)) {
    for (const outer of expressionsOf(node)) {
      for (const e of expressionsIn(outer)) {
        if (e.tag !== 'call' || !OVER_TIME.has(e.name.text) || e.name.text === 'since') continue
        for (const part of e.given.flatMap(g => [...expressionsIn(g)])) {
          if (part.tag !== 'reading') continue
          const reading = program.facts.devices.find(d => d.name === part.device.text)?.readings.find(r => r.name === part.reading.text)
          const turns = reading?.type.type === 'quantity' && sameKind(reading.type.kind, KINDS.angle) && reading.range !== null && reading.range[1] - reading.range[0] === 2 * Math.PI
          if (turns) findings.warning(say.wraps(`${part.device.text}.${part.reading.text}`), part.range)
        }
      }
    }
  }
}
