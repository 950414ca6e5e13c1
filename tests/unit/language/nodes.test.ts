import { describe, expect, test } from 'vitest'
import { randomProgram } from '../../../prove/programs'
import { STEP_FORMS } from '../../../core/devices'
import { parseProgram, type Tree } from '../../../core/language'
import { activeSteps, bodiesOf, childrenOf, expressionsIn, expressionsOf, flatSteps, nodesIn, type Node } from '../../../core/language/nodes'
import { RandomStream } from '../../../core/random'
import { facts } from '../kit'

/** Everything in a tree that has a tag, found by looking at all there is. */
function tagged(value: unknown): Node[] {
  if (typeof value !== 'object' || value === null) return []
  const inner = Object.values(value).flatMap(tagged)
  return 'tag' in value ? [value as Node, ...inner] : inner
}

const trees = Array.from({ length: 120 }, (_, seed) => parseProgram(randomProgram(RandomStream.named(seed, 'nodes'), facts), STEP_FORMS).tree)

describe('what stands under a node', () => {
  test('is all there is, each once, in the order of the text', () => {
    for (const tree of trees) {
      const found: Node[] = []
      const visit = (node: Node): void => {
        found.push(node)
        const children = childrenOf(node)
        expect(children.map(c => c.range.from)).toEqual(children.map(c => c.range.from).sort((a, b) => a - b))
        children.forEach(visit)
      }
      visit(tree)
      expect(found.length).toBe(new Set(found).size)
      expect(new Set(found)).toEqual(new Set(tagged(tree)))
    }
  })

  test('lines are items and steps; every expression belongs to one line', () => {
    for (const tree of trees) {
      const lines = [...nodesIn(tree)]
      expect(lines.every(l => 'trivia' in l)).toBe(true)
      const expressions = lines.flatMap(l => expressionsOf(l).flatMap(e => [...expressionsIn(e)]))
      expect(new Set<Node>([tree, ...lines, ...expressions])).toEqual(new Set(tagged(tree)))
      expect(expressions.length).toBe(new Set(expressions).size)
    }
  })

  test('the steps of a block are those of all blocks in it, and those that act are neither off nor under one that is', () => {
    const bodies = trees.flatMap(t => [...nodesIn(t)].flatMap((n): Tree.Block[] => n.tag === 'rule' || n.tag === 'start' || n.tag === 'routine' ? [n.body] : []))
    for (const body of bodies) {
      const all = flatSteps(body)
      expect(new Set(all)).toEqual(new Set([...body.steps, ...body.steps.flatMap(bodiesOf).flatMap(b => flatSteps(b.body))]))
      const off = new Set(all.filter(s => s.tag !== 'unread' && s.off).flatMap(s => [s, ...bodiesOf(s).flatMap(b => flatSteps(b.body))]))
      expect(new Set<Tree.Step>(activeSteps(body))).toEqual(new Set(all.filter(s => s.tag !== 'unread' && !off.has(s))))
      // A block begins where its heading does: what stands in it comes later.
      for (const step of all) for (const { at, body: inner } of bodiesOf(step)) expect(inner.steps.every(s => s.range.from > at)).toBe(true)
    }
  })
})
