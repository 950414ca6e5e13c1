import { expect, test } from 'vitest'
import { ALL_DEVICE_KINDS, STEP_FORMS, wheelPair } from '../../core/devices'
import { OVER_TIME, parseProgram } from '../../core/language'
import { eachNode, type Node } from '../../core/language/nodes'
import { demoProjects } from '../../prove/fingerprints'
import { readFolder } from '../../cli/project'

/** What a newcomer can find an example of: the steps, each clause of theirs, the kinds of lines and values, functions, devices. */
const EXPECTED: readonly string[] = [
  ...['title', 'dial', 'memory', 'let', 'start', 'rule', 'mode', 'lane', 'routine'],
  ...['if', 'repeat', 'leave', 'choose', 'set', 'local', 'keep', 'reset', 'go', 'do', 'send', 'finish', 'wait', 'waitUntil', 'note'],
  ...['name', 'reading', 'call', 'minus', 'arithmetic', 'compare', 'between', 'is', 'logic', 'not', 'random', 'heard', 'every', 'bracket', 'truth', 'text'],
  ...['rule once', 'rule until', 'repeat times', 'repeat while', 'repeat until', 'repeat each', 'late', 'at most', 'for', 'until', 'held', 'let with parameters', 'memory of color', 'memory of several', 'rules for every mode', 'inset in', 'inset to'],
  ...STEP_FORMS.map(f => `step ${f.id}`),
  // Which of two displays, no robot of the demo needs to say.
  ...STEP_FORMS.flatMap(f => f.parts.flatMap(p => p.part === 'clause' ? p.parts.flatMap(q => 'slot' in q && q.slot !== 'device' ? [`${f.id} ${q.slot}`] : []) : p.part === 'flag' ? [`${f.id} ${p.slot}`] : [])),
  // Arithmetic of numbers alone (sin, sqrt) has its examples in docs/language.md.
  ...['abs', 'clamp', ...OVER_TIME.keys(), 'count'].map(f => `${f}()`),
  ...ALL_DEVICE_KINDS.map(k => `device ${k.kind}`),
]

/** What of it one line or value of a program shows. */
function* featuresOf(node: Node): Generator<string> {
  yield node.tag
  switch (node.tag) {
    case 'rule':
      if (node.once) yield 'rule once'
      if (node.until !== null) yield 'rule until'
      if (node.when?.held != null) yield 'held'
      break
    case 'let': if (node.parameters.length > 0) yield 'let with parameters'; break
    case 'memory': case 'keep':
      if (node.perColor) yield 'memory of color'
      if (node.count !== null) yield 'memory of several'
      break
    case 'repeat': yield node.times !== null ? 'repeat times' : node.each !== null ? 'repeat each' : `repeat ${node.test!.word}`; break
    case 'action':
      yield `step ${node.form}`
      for (const slot of node.slots) yield `${node.form} ${slot.name}`
      if (node.lasting !== null) yield 'for'
      if (node.until !== null) yield 'until'
      if (node.atMost !== null) yield 'at most'
      if (node.late !== null) yield 'late'
      break
    case 'call': yield `${node.name.text}()`; break
    case 'text': for (const part of node.parts) if (typeof part !== 'string') yield part.unit !== null ? 'inset in' : part.step !== null ? 'inset to' : 'inset'; break
    case 'program': if (node.items.some(i => i.tag === 'mode') && node.items.some(i => i.tag === 'rule')) yield 'rules for every mode'; break
  }
}

test('together the demo programs and robots use everything there is', async () => {
  const used = new Set<string>()
  for (const project of demoProjects()) {
    const { documents, program } = await readFolder(`demo/projects/${project}`)
    const { tree } = parseProgram(program, STEP_FORMS)
    for (const feature of featuresOf(tree)) used.add(feature)
    eachNode(tree, (node) => { for (const feature of featuresOf(node)) used.add(feature) })
    const robot = documents.robot as { readonly drive?: object, readonly devices: readonly { readonly kind: string }[] }
    for (const { kind } of robot.devices) used.add(`device ${kind}`)
    if (robot.drive !== undefined) used.add(`device ${wheelPair.kind}`)
  }
  expect(EXPECTED.filter(e => !used.has(e))).toEqual([])
})
