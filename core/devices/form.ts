import type { KindName } from '../units'

/**
 * How a device's step is written. The parser, the formatter, the completion and the
 * checker all read the same description; the device's file adds what the step does.
 */
export interface StepForm {
  /** Unique among all forms; the tree's `form`. */
  readonly id: string
  readonly parts: readonly Part[]
  /** Whether `for` and `until` may end it. */
  readonly mayLast: boolean
  /** A line on what it does, for the finder and the docs. */
  readonly summary: string
  /** One correct step, for messages and completion. */
  readonly example: string
}

/** What a value in a slot may be: a kind of quantity, a share (%), a text, or anything. */
export type SlotKind = KindName | 'share' | 'text' | 'color'

export type Part = PlainPart
  /** Parts that stand together or not at all, known by their first word. Clauses may come in any order. */
  | { readonly part: 'clause', readonly parts: readonly PlainPart[] }

export type PlainPart =
  | { readonly part: 'word', readonly word: string }
  /** An optional word; its slot holds the word when it was written. */
  | { readonly part: 'flag', readonly slot: string, readonly words: readonly string[] }
  /** One of some words. */
  | { readonly part: 'choice', readonly slot: string, readonly words: readonly string[] }
  | { readonly part: 'value', readonly slot: string, readonly kinds: readonly SlotKind[], readonly optional: boolean }
  /** The name of a device of one of these kinds. */
  | { readonly part: 'device', readonly slot: string, readonly kinds: readonly string[] }
  /** A name that the robot keeps. */
  | { readonly part: 'kept', readonly slot: string, readonly what: KeptKind }

/** What robots keep by a name for programs to use. */
export type KeptKind = 'gesture' | 'clip' | 'picture'

export const word = (text: string): PlainPart => ({ part: 'word', word: text })
export const flag = (slot: string, ...words: string[]): PlainPart => ({ part: 'flag', slot, words: words.length === 0 ? [slot] : words })
export const choice = (slot: string, ...words: string[]): PlainPart => ({ part: 'choice', slot, words })
export const value = (slot: string, ...kinds: SlotKind[]): PlainPart => ({ part: 'value', slot, kinds, optional: false })
export const optionalValue = (slot: string, ...kinds: SlotKind[]): PlainPart => ({ part: 'value', slot, kinds, optional: true })
export const device = (slot: string, ...kinds: string[]): PlainPart => ({ part: 'device', slot, kinds })
export const kept = (slot: string, what: KeptKind): PlainPart => ({ part: 'kept', slot, what })
export const clause = (...parts: PlainPart[]): Part => ({ part: 'clause', parts })

const plain = new WeakMap<StepForm, readonly PlainPart[]>()

/** All parts of a form, those of its clauses among them. */
export function plainParts(form: StepForm): readonly PlainPart[] {
  let parts = plain.get(form)
  if (parts === undefined) {
    parts = form.parts.flatMap(p => p.part === 'clause' ? p.parts : [p])
    plain.set(form, parts)
  }
  return parts
}
