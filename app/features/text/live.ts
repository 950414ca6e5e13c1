import { RangeSet, StateEffect, StateField } from '@codemirror/state'
import { Decoration, EditorView, GutterMarker, WidgetType, gutter, type DecorationSet } from '@codemirror/view'

/** Where the running program is, as lines of the text that runs (from 1). */
export interface LiveLines {
  /** Lines of the rules in control: first and last. */
  readonly control: readonly (readonly [number, number])[]
  readonly steps: readonly number[]
  /** First lines of rules that want control and are outranked. */
  readonly outranked: readonly number[]
  /** First lines of all rules: live ones, and stepped ones. */
  readonly live: readonly number[]
  readonly stepped: readonly number[]
  /** What the conditions of a line are worth, to be read behind it. */
  readonly worth: readonly (readonly [number, string])[]
}

export const setLive = StateEffect.define<LiveLines | null>()

const inControl = Decoration.line({ class: 'mp-control' })
const atStep = Decoration.line({ class: 'mp-at-step' })

class Worth extends WidgetType {
  constructor(private readonly text: string) { super() }
  override eq(other: Worth): boolean { return other.text === this.text }
  /** The element stays; only its words change. */
  override updateDOM(dom: HTMLElement): boolean { dom.textContent = this.text; return true }
  override toDOM(): HTMLElement {
    const element = document.createElement('span')
    element.className = 'mp-worth'
    element.textContent = this.text
    return element
  }
}

class Sign extends GutterMarker {
  constructor(private readonly sign: string, private readonly says: string, private readonly look: '' | 'quiet' = '') { super() }
  override eq(other: Sign): boolean { return other.sign === this.sign }
  override toDOM(): Node {
    const element = document.createElement('span')
    element.textContent = this.sign
    element.title = this.says
    if (this.look === 'quiet') element.className = 'mp-quiet'
    return element
  }
}
const LIVE = new Sign('~', 'live: gone through anew every tick', 'quiet')
const STEPPED = new Sign('=', 'stepped: played through, one step after another', 'quiet')
const CONTROL = new Sign('▶', 'in control')
const OUTRANKED = new Sign('◐', 'wants control, outranked')

interface LiveState { readonly lines: DecorationSet, readonly signs: RangeSet<GutterMarker> }
const NOTHING: LiveState = { lines: Decoration.none, signs: RangeSet.empty }

const field = StateField.define<LiveState>({
  create: () => NOTHING,
  update(value, transaction) {
    let next = transaction.docChanged ? { lines: value.lines.map(transaction.changes), signs: value.signs.map(transaction.changes) } : value
    for (const effect of transaction.effects) {
      if (!effect.is(setLive)) continue
      if (effect.value === null) { next = NOTHING; continue }
      const { doc } = transaction.state
      const start = (line: number): number => doc.line(Math.min(Math.max(1, line), doc.lines)).from
      const lines = effect.value.control.flatMap(([a, b]) => {
        const list = []
        for (let line = a; line <= Math.min(b, doc.lines); line++) list.push(inControl.range(start(line)))
        return list
      }).concat(effect.value.steps.map(line => atStep.range(start(line))))
        .concat(effect.value.worth.filter(([line]) => line <= doc.lines).map(([line, text]) => Decoration.widget({ widget: new Worth(text), side: 1 }).range(doc.line(line).to)))
      const signs = effect.value.control.map(([a]) => CONTROL.range(start(a)))
        .concat(effect.value.outranked.map(line => OUTRANKED.range(start(line))))
        .concat(quiet(effect.value.live, effect.value).map(line => LIVE.range(start(line))), quiet(effect.value.stepped, effect.value).map(line => STEPPED.range(start(line))))
      next = { lines: Decoration.set(lines, true), signs: RangeSet.of(signs, true) }
    }
    return next
  },
  provide: f => EditorView.decorations.from(f, value => value.lines),
})

/** The lines that no louder sign marks. */
function quiet(lines: readonly number[], { control, outranked }: LiveLines): readonly number[] {
  return lines.filter(line => !outranked.includes(line) && !control.some(([first]) => first === line))
}

/** Lights the rule in control and the step it is at. */
export function liveLines() {
  return [field, gutter({ class: 'mp-signs', markers: view => view.state.field(field).signs, initialSpacer: () => CONTROL })]
}
