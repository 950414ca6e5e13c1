import { conditionChoices, sheetOf, stepChoices } from '~~/core/editing'
import { driveOf, type RobotFacts } from '~~/core/robot'

/** A program that is as small as programs are, to begin with. */
export interface Example { readonly title: string, readonly text: string }

/** The two smallest programs that mean something for a robot: one that reacts, and a plain sequence. */
export function examplesFor(facts: RobotFacts): readonly Example[] {
  const { tree } = sheetOf('')
  const stands = driveOf(facts) === null
  const condition = conditionChoices(facts, tree).find(c => facts.devices.some(d => d.name === c.group && !facts.actuators.some(a => a.name === d.name)))?.text
  const move = stepChoices(facts, tree).find(c => /^move \S+ by /.test(c.text))?.text.replace('90 deg', '20 deg')
  const [reacts, acts] = stands ? ['note "something came"', move ?? 'wait 1 s'] : ['halt', 'drive 1 m']
  return [
    ...(condition === undefined ? [] : [{ title: stands ? 'Watch, and say what comes' : 'Drive, and stop when something is there', text: `when ${condition}\n  ${reacts}${stands ? '' : '\notherwise\n  drive 20 cm/s'}\n` }]),
    { title: stands ? 'Move a joint, and end' : 'Drive one metre, and end', text: `start\n  ${acts}\n  finish "there"\n` },
  ]
}
