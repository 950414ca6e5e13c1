import { autocompletion, type Completion, type CompletionContext, type CompletionResult } from '@codemirror/autocomplete'
import { RangeSetBuilder } from '@codemirror/state'
import { Decoration, EditorView, ViewPlugin, type DecorationSet, type ViewUpdate } from '@codemirror/view'
import { STEP_FORMS } from '~~/core/devices'
import { FUNCTIONS, OVER_TIME, marginFor, stepWords } from '~~/core/language'
import type { RobotFacts } from '~~/core/robot'
import { UNITS } from '~~/core/units'
import { deviceColor, readingLabel } from '~/shown/readings'
import type { ReadingSpec } from '~~/core/devices'

/** Colouring and completion of programs; both know the robot. */

const KEYWORDS = new Set(['when', 'otherwise', 'until', 'once', 'for', 'start', 'mode', 'lane', 'routine', 'dial', 'memory', 'let', 'of', 'in', 'program', 'from', 'to', 'at', 'most', 'and', 'or', 'not', 'is', 'between', 'heard', 'every', 'off'])
const WORDS = new Set(stepWords(STEP_FORMS).concat('else'))
const PATTERN = /#.*|"[^"]*"?|\d+\.?\d*(?: ?(?:deg\/s|turn\/s|cm\/s|mm\/s|m\/s|in\/s|cm|mm|min|ms|m|in|s|deg|turn|rpm|Hz|%)(?![A-Za-z0-9_]))?|[A-Za-z_]\w*(?:\.[A-Za-z_]\w*)?/g

const mark = (name: string) => Decoration.mark({ class: name })
const MARKS = {
  comment: mark('mp-comment'), text: mark('mp-text'), number: mark('mp-number'), keyword: mark('mp-keyword'),
  step: mark('mp-step'), color: mark('mp-color'), dial: mark('mp-dial'),
}

/** Colours the visible lines; readings are underlined in their device's colour. */
export function colouring(facts: () => RobotFacts | null) {
  return ViewPlugin.fromClass(class {
    decorations: DecorationSet
    private facts: RobotFacts | null
    constructor(view: EditorView) {
      this.facts = facts()
      this.decorations = paint(view, this.facts)
    }

    update(update: ViewUpdate): void {
      const now = facts()
      if (update.docChanged || update.viewportChanged || now !== this.facts) {
        this.facts = now
        this.decorations = paint(update.view, now)
      }
    }
  }, { decorations: plugin => plugin.decorations })
}

function paint(view: EditorView, facts: RobotFacts | null): DecorationSet {
  const builder = new RangeSetBuilder<Decoration>()
  const devices = new Map<string, Decoration>(facts?.devices.map(d => [d.name, mark(`mp-reading mp-${deviceColor(facts, d.name)}`)]) ?? [])
  const colors = new Set(facts?.colors ?? [])
  const dials = new Set([...view.state.doc.toString().matchAll(/^dial\s+([A-Za-z_]\w*)/gm)].map(m => m[1]!))
  for (const { from, to } of view.visibleRanges) {
    for (let at = from; at <= to;) {
      const line = view.state.doc.lineAt(at)
      for (const match of line.text.matchAll(PATTERN)) {
        const decoration = decorationOf(match[0], devices, dials, colors)
        if (decoration !== null) builder.add(line.from + match.index, line.from + match.index + match[0].length, decoration)
      }
      at = line.to + 1
    }
  }
  return builder.finish()
}

function decorationOf(text: string, devices: ReadonlyMap<string, Decoration>, dials: ReadonlySet<string>, colors: ReadonlySet<string>): Decoration | null {
  if (text.startsWith('#')) return MARKS.comment
  if (text.startsWith('"')) return MARKS.text
  if (/^\d/.test(text)) return MARKS.number
  const dot = text.indexOf('.')
  if (dot > 0) return devices.get(text.slice(0, dot)) ?? null
  if (dials.has(text)) return MARKS.dial
  if (KEYWORDS.has(text)) return MARKS.keyword
  if (WORDS.has(text)) return MARKS.step
  if (colors.has(text)) return MARKS.color
  return null
}

/** A reading with what stands in its brackets. */
function writtenReading(r: ReadingSpec): string {
  return r.takes.length > 0 ? `${r.name}(${r.takes.map(() => '0 m').join(', ')})` : readingLabel(r)
}

/** Offers what can stand at the caret: readings after a dot, units after a number, names elsewhere. */
export function completion(facts: () => RobotFacts | null) {
  return autocompletion({ override: [context => complete(context, facts())], icons: false, activateOnTyping: true })
}

function complete(context: CompletionContext, facts: RobotFacts | null): CompletionResult | null {
  const line = context.state.doc.lineAt(context.pos)
  const before = line.text.slice(0, context.pos - line.from)
  if (/#|"[^"]*$/.test(before.replaceAll(/"[^"]*"/g, ''))) return null
  const reading = /([A-Za-z_]\w*)\.(\w*)$/.exec(before)
  if (reading !== null) {
    const device = facts?.devices.find(d => d.name === reading[1])
    if (device === undefined) return null
    return {
      from: context.pos - reading[2]!.length,
      options: device.readings.filter(r => !r.hidden).map(r => ({ label: writtenReading(r), detail: r.summary, type: 'property' })),
    }
  }
  const unit = /\d (\S*)$/.exec(before)
  if (unit !== null) {
    return { from: context.pos - unit[1]!.length, options: UNITS.filter(u => u.inPrograms).map(u => ({ label: u.name, type: 'unit' })) }
  }
  const word = context.matchBefore(/[A-Za-z_]\w*/)
  if (word === null && !context.explicit) return null
  const from = word?.from ?? context.pos
  const first = before.slice(0, from - line.from).trim() === '' || before.trimEnd().endsWith('->')
  return { from, options: first ? beginnings(before.startsWith(' ') || before.includes('->')) : insides(context, facts) }
}

function beginnings(inside: boolean): Completion[] {
  const forms = STEP_FORMS.map(f => ({ label: f.example, detail: f.summary, type: 'step' }))
  const steps = ['wait 0.5 s', 'wait until ', 'if ', 'repeat', 'set ', 'let ', 'repeat for ', 'note ""', 'finish ""', 'go ', 'choose '].map(label => ({ label, type: 'step' }))
  const heads = ['when ', 'otherwise', 'start', 'dial ', 'memory ', 'let ', 'mode ', 'lane ', 'routine ', 'program ""'].map(label => ({ label, type: 'head' }))
  return inside ? [...forms, ...steps, { label: 'else', type: 'step' }, ...heads.slice(0, 3)] : heads
}

function insides(context: CompletionContext, facts: RobotFacts | null): Completion[] {
  const text = context.state.doc.toString()
  const own = [...text.matchAll(/^\s*(dial|memory|let|mode|routine|lane)\s+([A-Za-z_]\w*)/gm)].map(m => ({ label: m[2]!, detail: m[1]!, type: 'name' }))
  const readings = facts?.devices.flatMap(d => d.readings.filter(r => !r.hidden).map(r => ({ label: `${d.name}.${writtenReading(r)}`, detail: r.summary, type: 'property' }))) ?? []
  const words = ['and', 'or', 'not', 'is', 'between', 'for', 'until', 'once', 'at most', 'random', 'mode.time', 'run.time'].map(label => ({ label, type: 'word' }))
  const functions = [...FUNCTIONS.keys(), ...OVER_TIME.keys(), 'count'].map(label => ({ label: `${label}(`, type: 'function' }))
  return [...own, ...readings, ...words, ...(facts?.colors ?? []).map(label => ({ label, type: 'color' })), ...functions]
}

/** A word of the margin that is typed among steps moves out by itself, once the word is done: by the space or the new line behind it. */
export const movesOut = EditorView.inputHandler.of((view, from, to, text) => {
  if (text !== ' ' || from !== to) return false
  const line = view.state.doc.lineAt(from)
  const typed = line.text.slice(0, from - line.from)
  if (typed.trimStart() !== line.text.trim() || !/^ +[a-z]+$/.test(typed)) return false
  const above: string[] = []
  for (let n = 1; n < line.number; n++) above.push(view.state.doc.line(n).text)
  const indent = marginFor(above, line.text)
  if (indent === null) return false
  view.dispatch({
    changes: { from: line.from, to: line.to, insert: `${' '.repeat(indent)}${typed.trimStart()} ` },
    selection: { anchor: line.from + indent + typed.trimStart().length + 1 }, userEvent: 'input.type',
  })
  return true
})
