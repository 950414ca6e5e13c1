import type { Guard, Op, Value } from '../program'

/** An instruction of one kind. */
export type OpOf<K extends Op['op']> = Extract<Op, { op: K }>

/** A stretch of a program's code with its structure: what another language says with blocks. */
export type Outline = readonly Part[]
export type Part =
  /** Something done at once. */
  | { readonly part: 'instant', readonly op: OpOf<'set' | 'put' | 'reset' | 'send' | 'note' | 'finish' | 'go' | 'setting' | 'hold' | 'call'> }
  /** The first way whose test holds, else `otherwise`. */
  | { readonly part: 'ways', readonly ways: readonly { readonly test: Value, readonly body: Outline }[], readonly otherwise: Outline }
  /** `top` says whether there is another round; `count` comes before a counted one. `size`: instructions from its top to its end. */
  | { readonly part: 'loop', readonly top: OpOf<'round' | 'each' | 'test' | 'jump'>, readonly count: OpOf<'count'> | null, readonly again: OpOf<'again'>, readonly size: number, readonly body: Outline }
  /** Out of the innermost loop. */
  | { readonly part: 'leave' }
  | { readonly part: 'wait', readonly op: OpOf<'deadline'> }
  /** `late`: what is done where its limit was over first. */
  | { readonly part: 'wait until', readonly begins: OpOf<'await'>, readonly op: OpOf<'wait until'>, readonly late: Outline }
  | { readonly part: 'move', readonly begins: OpOf<'begin'>, readonly op: OpOf<'move'>, readonly late: Outline }
  /** A routine's steps within a limit of time that they may wait for. */
  | { readonly part: 'limited', readonly call: OpOf<'call'>, readonly guard: Guard, readonly body: Outline, readonly late: Outline }

/** The code that begins there, up to its end. Throws Error where the code is not as the compiler makes it. */
export function outlineOf(code: readonly Op[], from: number): Outline {
  return new Reader(code).read(from, code.length, null)
}

class Reader {
  /** Of each loop's top, where its end stands. */
  private readonly ends = new Map<number, number>()

  constructor(private readonly code: readonly Op[]) {
    code.forEach((op, at) => { if (op.op === 'again') this.ends.set(op.to, at) })
  }

  /** Parts from there up to, not with, `to`, or up to an `end`. `loop`: where the innermost loop goes on when it is left. */
  read(from: number, to: number, loop: number | null): Outline {
    const parts: Part[] = []
    let at = from
    while (at < to) {
      const op = this.code[at]!
      if (op.op === 'end') break
      const again = this.ends.get(at)
      if (again !== undefined) {
        parts.push(this.loop(at, again, null))
        at = again + 1
        continue
      }
      switch (op.op) {
        case 'count': {
          const end = this.ends.get(at + 1)!
          parts.push(this.loop(at + 1, end, op))
          at = end + 1
          break
        }
        case 'test': {
          const { part, end } = this.ways(at, loop)
          parts.push(part)
          at = end
          break
        }
        case 'jump':
          // One that no part accounts for: out of a loop, or over what is never come to.
          if (op.to === loop) { parts.push({ part: 'leave' }); at++ } else at = op.to
          break
        case 'deadline':
          parts.push({ part: 'wait', op })
          at += 2
          break
        case 'await': {
          const waiting = this.at(at + 1, 'wait until')
          const { late, end } = this.late(at + 2, waiting.late, loop)
          parts.push({ part: 'wait until', begins: op, op: waiting, late })
          at = end
          break
        }
        case 'begin': {
          const moving = this.at(at + 1, 'move')
          const { late, end } = this.late(at + 2, moving.late, loop)
          parts.push({ part: 'move', begins: op, op: moving, late })
          at = end
          break
        }
        case 'call': {
          const guard = op.limit === null ? null : this.guardOf(op.cell, at + 1)
          if (guard === null) { parts.push({ part: 'instant', op }); at++; break }
          // Where it has an `else`, a jump before its exit leads past that.
          const last = this.code[guard.exit - 1]!
          const past = last.op === 'jump' && last.to > guard.exit ? last.to : null
          parts.push({
            part: 'limited', call: op, guard, body: this.read(at + 1, past === null ? guard.exit : guard.exit - 1, null),
            late: past === null ? [] : this.read(guard.exit, past, loop),
          })
          at = past ?? guard.exit
          break
        }
        case 'set': {
          // The count of an `each` begins with it.
          const next = this.code[at + 1]
          if (next?.op !== 'each' || next.cell !== op.cell) parts.push({ part: 'instant', op })
          at++
          break
        }
        case 'put': case 'reset': case 'send': case 'note': case 'finish': case 'go': case 'setting': case 'hold':
          parts.push({ part: 'instant', op })
          at++
          break
        default: throw new Error(`instruction ${at}, ${op.op}, stands where none of its kind does`)
      }
    }
    return parts
  }

  private at<K extends Op['op']>(at: number, kind: K): OpOf<K> {
    const op = this.code[at]!
    if (op.op !== kind) throw new Error(`instruction ${at} is ${op.op}, not ${kind}`)
    return op as OpOf<K>
  }

  private loop(top: number, again: number, count: OpOf<'count'> | null): Part {
    return {
      part: 'loop', top: this.code[top]! as OpOf<'round' | 'each' | 'test' | 'jump'>, count, again: this.at(again, 'again'),
      size: again - top + 1, body: this.read(top + 1, again, again + 1),
    }
  }

  /** A chain of tests; each body ends with a jump behind all of them. */
  private ways(from: number, loop: number | null): { readonly part: Part, readonly end: number } {
    const ways: { test: Value, body: Outline }[] = []
    let at = from
    let end = -1
    for (;;) {
      const op = this.code[at]
      if (op?.op !== 'test' || this.ends.has(at)) break
      const jump = this.at(op.no - 1, 'jump')
      if (end !== -1 && jump.to !== end) break
      end = jump.to
      ways.push({ test: op.test, body: this.read(at + 1, op.no - 1, loop) })
      at = op.no
      if (at >= end) break
    }
    return { part: { part: 'ways', ways, otherwise: at < end ? this.read(at, end, loop) : [] }, end }
  }

  /** What stands behind an instruction that waits: a jump past what is done when it was late, and that. */
  private late(at: number, late: number | null, loop: number | null): { readonly late: Outline, readonly end: number } {
    if (late === null) return { late: [], end: at }
    const end = this.at(at, 'jump').to
    return { late: this.read(late, end, loop), end }
  }

  /** The limit of a `do`, as the instructions know it that wait within it; null where none does. */
  private guardOf(cell: number, from: number): Guard | null {
    for (let at = from; at < this.code.length; at++) {
      const op = this.code[at]!
      if (op.op === 'end') return null
      if (op.op !== 'wait' && op.op !== 'wait until' && op.op !== 'move') continue
      const guard = op.guards.find(g => g.cell === cell)
      if (guard !== undefined) return guard
    }
    return null
  }
}
