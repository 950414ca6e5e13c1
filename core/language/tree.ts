/**
 * The tree of a program. Nodes are plain readonly objects; `range` is where a node
 * stands in the text, in UTF-16 offsets, the end exclusive. A node that is a line of its
 * own carries its trivia, so that the formatter can print every comment again.
 */
export interface Range {
  readonly from: number
  readonly to: number
}

/** What surrounds a line: comment lines above it (without `#`), one behind it, and whether a blank line stood before. */
export interface Trivia {
  readonly above: readonly string[]
  readonly behind: string | null
  readonly gap: boolean
}

export const NO_TRIVIA: Trivia = { above: [], behind: null, gap: false }

interface Line {
  readonly range: Range
  readonly trivia: Trivia
}

/** A name with its place. */
export interface Name {
  readonly text: string
  readonly range: Range
}

export interface Program {
  readonly tag: 'program'
  readonly items: readonly Item[]
  /** Comment lines after the last item. */
  readonly tail: readonly string[]
  readonly range: Range
}

export type Item = Title | Dial | Memory | Let | Start | Rule | Mode | Lane | Routine | Unread

export interface Title extends Line { readonly tag: 'title', readonly text: string }
export interface Dial extends Line {
  readonly tag: 'dial'
  readonly name: Name
  readonly value: Expression
  readonly from: Expression | null
  readonly to: Expression | null
}
export interface Memory extends Line, Remembered { readonly tag: 'memory' }
/** What a memory is: one value, one for each colour, or so many, told apart by their number. */
export interface Remembered {
  readonly name: Name
  /** `of color`. */
  readonly perColor: boolean
  /** `24 of`. */
  readonly count: Expression | null
  readonly value: Expression
}
/** A named value, worked out anew on every tick; with parameters, a function of one expression. */
export interface Let extends Line { readonly tag: 'let', readonly name: Name, readonly parameters: readonly Name[], readonly value: Expression }
export interface Start extends Line { readonly tag: 'start', readonly body: Block }
export interface Rule extends Line {
  readonly tag: 'rule'
  /** null for `otherwise`. */
  readonly when: Condition | null
  readonly until: Condition | null
  readonly once: boolean
  readonly off: boolean
  readonly body: Block
}
export interface Mode extends Line {
  readonly tag: 'mode'
  readonly name: Name
  readonly off: boolean
  readonly items: readonly (Start | Rule | Unread)[]
  readonly tail: readonly string[]
}
export interface Lane extends Line {
  readonly tag: 'lane'
  readonly name: Name
  readonly off: boolean
  readonly items: readonly (Start | Rule | Mode | Unread)[]
  readonly tail: readonly string[]
}
export interface Routine extends Line {
  readonly tag: 'routine'
  readonly name: Name
  readonly parameters: readonly Name[]
  readonly body: Block
}
/** A line that could not be read; its words are kept as they were, and so is what was indented under it. */
export interface Unread extends Line { readonly tag: 'unread', readonly text: string, readonly body: Block }

/** Steps under a line. `inline` when written after an arrow. */
export interface Block {
  readonly steps: readonly Step[]
  readonly tail: readonly string[]
  readonly inline: boolean
}

/** What stands after `when`, `until` and `wait until`: an expression, perhaps held for a time. */
export interface Condition {
  readonly expression: Expression
  readonly held: Expression | null
  readonly range: Range
}

export type Step =
  | Action | If | Repeat | Leave | Choose | SetStep | Local | Keep | Reset | Go | Do | Send | Finish | Wait | WaitUntil | Note | Unread

interface StepLine extends Line { readonly off: boolean }

/** A step that commands a device, by the form that the device declares. */
export interface Action extends StepLine {
  readonly tag: 'action'
  readonly form: string
  readonly slots: readonly Slot[]
  readonly lasting: Expression | null
  readonly until: Condition | null
  readonly atMost: Expression | null
  /** The `else` under an `at most`: what is done when the time ran out. */
  readonly late: Branch | null
}
/** One filled place of a form: an expression, or a word (a device's name, a choice, a flag, a colour). */
export interface Slot {
  readonly name: string
  readonly value: Expression | null
  readonly word: string | null
  readonly range: Range
}
export interface If extends StepLine {
  readonly tag: 'if'
  readonly branches: readonly Branch[]
  readonly otherwise: Branch | null
}
export interface Branch extends Line { readonly condition: Expression | null, readonly body: Block }
export interface Repeat extends StepLine {
  readonly tag: 'repeat'
  readonly times: Expression | null
  readonly test: { readonly word: 'while' | 'until', readonly condition: Expression } | null
  /** `for NAME in A, B`. */
  readonly each: { readonly name: Name, readonly values: readonly Expression[] } | null
  readonly body: Block
}
export interface Leave extends StepLine { readonly tag: 'leave' }
export interface Choose extends StepLine {
  readonly tag: 'choose'
  readonly value: Expression
  readonly cases: readonly Case[]
  readonly otherwise: Branch | null
}
export interface Case extends Line { readonly values: readonly Expression[], readonly body: Block }
export interface SetStep extends StepLine {
  readonly tag: 'set'
  readonly name: Name
  /** Which of a memory's values, where it has several. */
  readonly at: Expression | null
  readonly value: Expression
}
/** `let` in a block: a value that holds to the block's end. */
export interface Local extends StepLine { readonly tag: 'local', readonly name: Name, readonly value: Expression }
/** `memory` in a routine: kept from one time that it is done to the next. */
export interface Keep extends StepLine, Remembered { readonly tag: 'keep' }
export interface Reset extends StepLine { readonly tag: 'reset', readonly reading: Expression }
export interface Go extends StepLine { readonly tag: 'go', readonly mode: Name }
export interface Do extends StepLine {
  readonly tag: 'do'
  readonly routine: Name
  readonly given: readonly Expression[]
  readonly atMost: Expression | null
  readonly late: Branch | null
}
export interface Send extends StepLine { readonly tag: 'send', readonly signal: Name }
export interface Finish extends StepLine { readonly tag: 'finish', readonly why: Text | null }
export interface Wait extends StepLine { readonly tag: 'wait', readonly time: Expression }
export interface WaitUntil extends StepLine {
  readonly tag: 'waitUntil'
  readonly condition: Condition
  readonly atMost: Expression | null
  readonly late: Branch | null
}
export interface Note extends StepLine { readonly tag: 'note', readonly text: Expression }

export type Comparison = '<' | '>' | '<=' | '>='
export type Arithmetic = '+' | '-' | '*' | '/'

export type Expression =
  | NumberLiteral | Text | Truth | NameUse | Reading | Call | Unary | Binary | Compare | Between | Is | Logic | Not
  | RandomDraw | Heard | Every | Bracket | Missing

export interface NumberLiteral {
  readonly tag: 'number'
  readonly value: number
  /** The figure as written: "0.30". */
  readonly figure: string
  /** The unit as written; null for a plain number. */
  readonly unit: string | null
  readonly range: Range
}
export interface Text { readonly tag: 'text', readonly parts: readonly (string | Inset)[], readonly range: Range }
/** A value in the braces of a text: `{EXPRESSION}`, `{EXPRESSION in UNIT}` or `{EXPRESSION to STEP}`. */
export interface Inset { readonly of: Expression, readonly unit: Name | null, readonly step: Expression | null }
export interface Truth { readonly tag: 'truth', readonly value: boolean, readonly range: Range }
/** A word alone: a dial, a memory, a named value, a parameter or a colour. */
export interface NameUse { readonly tag: 'name', readonly name: string, readonly range: Range }
/** `device.reading` or `device.reading(argument, …)`. */
export interface Reading {
  readonly tag: 'reading'
  readonly device: Name
  readonly reading: Name
  readonly given: readonly Expression[] | null
  readonly range: Range
}
/** `name(value, …)`: a function, a reading over time, or one of a memory's values. */
export interface Call { readonly tag: 'call', readonly name: Name, readonly given: readonly Expression[], readonly range: Range }
export interface Unary { readonly tag: 'minus', readonly of: Expression, readonly range: Range }
export interface Binary {
  readonly tag: 'arithmetic'
  readonly operator: Arithmetic
  readonly left: Expression
  readonly right: Expression
  readonly range: Range
}
export interface Compare {
  readonly tag: 'compare'
  readonly operator: Comparison
  readonly left: Expression
  readonly right: Expression
  readonly range: Range
}
export interface Between {
  readonly tag: 'between'
  readonly value: Expression
  readonly low: Expression
  readonly high: Expression
  readonly range: Range
}
export interface Is {
  readonly tag: 'is'
  readonly value: Expression
  readonly negated: boolean
  readonly options: readonly Expression[]
  readonly range: Range
}
export interface Logic {
  readonly tag: 'logic'
  readonly operator: 'and' | 'or'
  readonly operands: readonly Expression[]
  readonly range: Range
}
export interface Not { readonly tag: 'not', readonly of: Expression, readonly range: Range }
export interface RandomDraw { readonly tag: 'random', readonly low: Expression, readonly high: Expression, readonly range: Range }
export interface Heard { readonly tag: 'heard', readonly signal: Name, readonly range: Range }
export interface Every { readonly tag: 'every', readonly time: Expression, readonly range: Range }
export interface Bracket { readonly tag: 'bracket', readonly inner: Expression, readonly range: Range }
/** Where an expression should stand and none could be read. */
export interface Missing { readonly tag: 'missing', readonly range: Range }
