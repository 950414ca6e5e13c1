import { defineStore } from 'pinia'
import { computed, nextTick, shallowRef, watch, type ShallowRef } from 'vue'
import { applyChanges, outlineOf, sheetOf, type Card, type Change, type Edit, type KnownRows, type Sheet } from '~~/core/editing'
import { LineIndex, type Diagnostic, type Fix } from '~~/core/language'
import type { RobotFacts } from '~~/core/robot'
import type { LivePart } from '~~/core/why'
import { useKept } from '~/composables/useKept'
import { useBenchStore } from '~/features/bench/bench'
import { useProjectStore } from '~/draft/project'

export type Face = 'rules' | 'text' | 'map'

/** Digits that a value takes, so that nothing moves when it changes. */
const VALUE = 9

/** The parts of a condition as they stand, on one line. */
export function shownParts(parts: readonly LivePart[]): string {
  return parts.map(p => `${p.truth ? '●' : '○'} ${p.value.padEnd(p.value === '' ? 0 : VALUE)}`).join(' ').trimEnd()
}

/** What the text face does for the other faces: one document, one history. */
export interface TextFace {
  apply(changes: readonly Change[], goesOn: boolean): void
  undo(): void
  redo(): void
  focus(): void
  goTo(offset: number): void
  insert(text: string): void
  /** Line of the caret, from 1. */
  line(): number
  /** The caret's offset, and where it stands on the page. */
  caret(): { readonly offset: number, readonly left: number, readonly top: number, readonly bottom: number }
}

/** What a finder is open for, and where on the page. */
export interface Finding {
  /** Of an element's `data-key`: the finder stands below it. */
  readonly key: string
  /** Where it stands instead, where there is no such element. */
  readonly place?: { readonly left: number, readonly top: number, readonly bottom: number }
  readonly title: string
  readonly offers: readonly Offer[]
  /** What stands there now; typed over, or kept. */
  readonly text: string
  /** Takes what was typed or chosen: null when it was done, else why not. */
  take(text: string): string | null
}

export interface Offer { readonly text: string, readonly says: string, readonly group: string, readonly act?: () => void }

/** The program by its parts: the outline of the text, and the edits of the Rules and Map faces. */
export const useRulesStore = defineStore('rules', () => {
  const project = useProjectStore()
  const bench = useBenchStore()
  const face = useKept<Face>('face', 'rules')
  /** Read only while a face shows it: the text face does without. */
  const sheet = computed(() => sheetOf(project.program))
  const known: KnownRows = new Map()
  let cardsBefore: readonly Card[] = []
  /** What did not change is the same object as before: it is not drawn anew. */
  const outline = computed(() => {
    const now = outlineOf(sheet.value, known)
    const cards = now.cards.map((card, i) => cardsBefore[i] !== undefined && sameCard(cardsBefore[i], card) ? cardsBefore[i] : card)
    cardsBefore = cards
    return { ...now, cards }
  })
  /** What each of hundreds of sentences asks for: the same objects as long as they say the same, so that an edit elsewhere does not even ask them. */
  const facts = shallowRef<RobotFacts | null>(null)
  const dials = shallowRef<ReadonlySet<string>>(new Set())
  /** Places of errors. */
  const wrong = shallowRef<readonly (readonly [number, number])[]>([])
  /** What the checker says, by the line of each. */
  const marks = shallowRef<ReadonlyMap<number, readonly Diagnostic[]>>(new Map())
  /** Has those follow the program, as long as the component that asks is there. */
  function follow(): void {
    const keep = <T>(kept: ShallowRef<T>, made: () => T, text: (value: T) => string): void => {
      watch(made, (now) => { if (text(now) !== text(kept.value)) kept.value = now }, { immediate: true })
    }
    watch(() => bench.opened?.facts ?? null, (now) => { facts.value = now }, { immediate: true, flush: 'sync' })
    keep(dials, () => new Set(sheet.value.tree.items.flatMap(i => i.tag === 'dial' ? [i.name.text] : [])), now => [...now].join(' '))
    keep(wrong, () => bench.diagnostics.flatMap(({ severity, range: { from, to } }) => severity === 'error' ? [[from, Math.max(to, from + 1)] as const] : []), now => now.join(' '))
    keep(marks, () => {
      const byLine = new Map<number, Diagnostic[]>()
      for (const diagnostic of bench.diagnostics) {
        const line = lineOf(diagnostic.range.from)
        byLine.set(line, [...byLine.get(line) ?? [], diagnostic])
      }
      return byLine
    }, now => JSON.stringify([...now]))
  }
  const lines = computed(() => new LineIndex(project.program))
  const lineOf = (offset: number): number => lines.value.placeOf(offset).line
  /** The worst of what the checker says of some lines, from one to another: a mistake, else a warning; null where it says neither. */
  function worstOf(from: number, to: number): Diagnostic | null {
    let warning: Diagnostic | null = null
    const { value: all } = marks
    for (let line = from; line <= to; line++) {
      for (const diagnostic of all.get(line) ?? []) {
        if (diagnostic.severity === 'error') return diagnostic
        if (diagnostic.severity === 'warning') warning ??= diagnostic
      }
    }
    return warning
  }
  /** What conditions are worth, of the program that is open; null while another is being written. */
  const conditions = computed(() => {
    return bench.opened?.program?.text === project.program ? bench.live?.parts ?? null : null
  })
  const finding = shallowRef<Finding | null>(null)
  let text: TextFace | null = null

  function attach(face: TextFace | null): void { text = face }

  /** Makes an edit; false when it may not be. */
  function apply(edit: Edit, goesOn = false): boolean {
    if (edit === null) return false
    if (text === null) project.edit(applyChanges(project.program, edit))
    else text.apply(edit, goesOn)
    return true
  }

  /** Makes an edit of the program as it is, and puts the focus on a part of what it became. */
  function change(make: (sheet: Sheet) => Edit, then: string | null = null): boolean {
    const edit = make(sheet.value)
    // What was typed may be anything: an edit after which less can be read is none.
    if (edit === null || sheetOf(applyChanges(sheet.value.text, edit)).problems > sheet.value.problems || !apply(edit)) return false
    if (then !== null) focus(then)
    return true
  }

  /** Mends what a diagnostic is about. */
  const mend = (fix: Fix): void => { apply([{ from: fix.from, to: fix.to, insert: fix.text }]) }

  /** Puts the focus on the element of a key, once it is there. */
  function focus(key: string): void {
    void nextTick(() => {
      const found = document.querySelector<HTMLElement>(`[data-key="${key}"]`)
      found?.focus({ preventScroll: true })
      found?.scrollIntoView({ block: 'nearest' })
    })
  }

  function find(what: Finding): void { finding.value = what }
  function closeFinder(back = true): void {
    const key = finding.value?.key
    finding.value = null
    if (back && key === '') text?.focus()
    else if (back && key !== undefined) focus(key)
  }

  const undo = (): void => { closeFinder(false); text?.undo() }
  const redo = (): void => { closeFinder(false); text?.redo() }
  const goTo = (offset: number): void => { face.value = 'text'; void nextTick(() => text?.goTo(offset)) }
  const insert = (words: string): void => text?.insert(words)
  const caret = () => text?.caret() ?? null
  const caretLine = (): number => text?.line() ?? 1

  return { face, sheet, outline, conditions, facts, follow, dials, wrong, lineOf, worstOf, finding, attach, apply, change, mend, focus, find, closeFinder, undo, redo, goTo, insert, caret, caretLine }
})

/** Whether two cards are alike in all that is drawn and asked of them; unchanged rows are the same objects. */
function sameCard(a: Card, b: Card): boolean {
  return a.rows.length === b.rows.length && a.rows.every((row, i) => row === b.rows[i])
    && JSON.stringify({ ...a, rows: [] }) === JSON.stringify({ ...b, rows: [] })
}
