import type { Part, StepForm } from '../devices/form'
import type { Action, Block, Condition, Expression, Inset, Item, Name, Program, Remembered, Step, Trivia } from './tree'

/**
 * Prints a program in its one canonical form: two-space indentation, one space between
 * words, comments where they were. Formatting what was formatted changes nothing.
 */
export function formatProgram(tree: Program, forms: readonly StepForm[]): string {
  const out: string[] = []
  const printer = new Printer(out, new Map(forms.map(f => [f.id, f])))
  tree.items.forEach((item, i) => printer.item(item, 0, i === 0))
  printer.comments(tree.tail, 0, tree.items.length === 0)
  return out.length === 0 ? '' : `${out.join('\n')}\n`
}

class Printer {
  constructor(private readonly out: string[], private readonly forms: ReadonlyMap<string, StepForm>) {}

  comments(lines: readonly string[], depth: number, first: boolean): void {
    lines.forEach((line, i) => {
      if (line === '\n') { if (!(first && i === 0)) this.blank() }
      else this.out.push(`${indent(depth)}${line === '' ? '#' : `# ${line}`}`)
    })
  }

  /** A line with its comments; headings at the margin stand after a blank line. */
  private line(text: string, depth: number, trivia: Trivia, first: boolean, apart = false): void {
    if (apart && !first && trivia.above[0] !== '\n' && (trivia.above.length > 0 || !trivia.gap)) this.blank()
    this.comments(trivia.above, depth, first)
    if (trivia.gap && !(first && trivia.above.length === 0)) this.blank()
    this.out.push(indent(depth) + text + (trivia.behind === null ? '' : `  ${trivia.behind === '' ? '#' : `# ${trivia.behind}`}`))
  }

  private blank(): void {
    if (this.out.length > 0 && this.out.at(-1) !== '') this.out.push('')
  }

  item(item: Item, depth: number, first: boolean): void {
    switch (item.tag) {
      case 'title': return this.line(`program "${item.text}"`, depth, item.trivia, first)
      case 'dial': {
        const range = item.from === null || item.to === null ? '' : ` from ${expr(item.from)} to ${expr(item.to)}`
        return this.line(`dial ${item.name.text} = ${expr(item.value)}${range}`, depth, item.trivia, first)
      }
      case 'memory': return this.line(memory(item), depth, item.trivia, first)
      case 'let': return this.line(`let ${item.name.text}${inBrackets(item.parameters)} = ${expr(item.value)}`, depth, item.trivia, first)
      case 'start': return this.heading('start', item.body, depth, item.trivia, first)
      case 'rule': {
        const head = item.when === null ? 'otherwise'
          : `when ${condition(item.when)}${item.until === null ? '' : ` until ${condition(item.until)}`}${item.once ? ' once' : ''}`
        return this.heading(item.off ? `off ${head}` : head, item.body, depth, item.trivia, first)
      }
      case 'mode':
      case 'lane':
        this.line(`${off(item)}${item.tag} ${item.name.text}`, depth, item.trivia, first, true)
        item.items.forEach((inner, i) => this.item(inner, depth + 1, i === 0))
        this.comments(item.tail, depth + 1, false)
        return
      case 'routine': return this.heading(`routine ${item.name.text}${inBrackets(item.parameters)}`, item.body, depth, item.trivia, first, true)
      case 'unread': return this.heading(item.text, item.body, depth, item.trivia, first)
      default: return unreachable(item)
    }
  }

  private heading(text: string, body: Block, depth: number, trivia: Trivia, first: boolean, apart = false): void {
    const only = body.steps[0]
    if (body.inline && only !== undefined) {
      return this.line(`${text} -> ${this.plain(only)}`, depth, trivia, first, apart)
    }
    this.line(text, depth, trivia, first, apart)
    this.block(body, depth + 1)
  }

  private block(body: Block, depth: number): void {
    body.steps.forEach((step, i) => this.step(step, depth, i === 0))
    this.comments(body.tail, depth, false)
  }

  private step(step: Step, depth: number, first: boolean): void {
    switch (step.tag) {
      case 'if': {
        step.branches.forEach((branch, i) => {
          const head = i === 0 ? `${off(step)}if` : 'else if'
          this.heading(`${head} ${branch.condition === null ? '' : expr(branch.condition)}`, branch.body, depth, i === 0 ? step.trivia : branch.trivia, i === 0 && first)
        })
        if (step.otherwise !== null) this.heading('else', step.otherwise.body, depth, step.otherwise.trivia, false)
        return
      }
      case 'repeat': {
        const how = step.each !== null ? ` for ${step.each.name.text} in ${step.each.values.map(expr).join(', ')}` : step.times !== null ? ` ${expr(step.times)} times` : step.test !== null ? ` ${step.test.word} ${expr(step.test.condition)}` : ''
        return this.heading(`${off(step)}repeat${how}`, step.body, depth, step.trivia, first)
      }
      case 'choose':
        this.line(`${off(step)}choose ${expr(step.value)}`, depth, step.trivia, first)
        step.cases.forEach((c, i) => this.heading(`is ${c.values.map(expr).join(', ')}`, c.body, depth + 1, c.trivia, i === 0))
        if (step.otherwise !== null) this.heading('else', step.otherwise.body, depth + 1, step.otherwise.trivia, false)
        return
      case 'unread': return this.heading(step.text, step.body, depth, step.trivia, first)
      default:
        this.line(this.plain(step), depth, step.trivia, first)
        if ('late' in step && step.late !== null) this.heading('else', step.late.body, depth, step.late.trivia, false)
    }
  }

  /** A step without a block, on one line. */
  private plain(step: Step): string {
    switch (step.tag) {
      case 'action': return off(step) + this.action(step)
      case 'leave': return `${off(step)}leave`
      case 'set': return `${off(step)}set ${step.name.text}${step.at === null ? '' : `(${expr(step.at)})`} = ${expr(step.value)}`
      case 'local': return `${off(step)}let ${step.name.text} = ${expr(step.value)}`
      case 'keep': return off(step) + memory(step)
      case 'reset': return `${off(step)}reset ${expr(step.reading)}`
      case 'go': return `${off(step)}go ${step.mode.text}`
      case 'do': return `${off(step)}do ${step.routine.text}${step.given.length === 0 ? '' : `(${step.given.map(expr).join(', ')})`}${atMost(step.atMost)}`
      case 'send': return `${off(step)}send ${step.signal.text}`
      case 'finish': return `${off(step)}finish${step.why === null ? '' : ` ${expr(step.why)}`}`
      case 'wait': return `${off(step)}wait ${expr(step.time)}`
      case 'waitUntil': return `${off(step)}wait until ${condition(step.condition)}${atMost(step.atMost)}`
      case 'note': return `${off(step)}note ${expr(step.text)}`
      case 'unread': return step.text
      case 'if':
      case 'repeat':
      case 'choose': return ''
      default: return unreachable(step)
    }
  }

  private action(step: Action): string {
    const form = this.forms.get(step.form)
    const words = form === undefined ? [step.form] : this.parts(form.parts, step)
    const lasting = step.lasting === null ? '' : ` for ${expr(step.lasting)}`
    const until = step.until === null ? '' : ` until ${condition(step.until)}`
    return `${words.join(' ')}${lasting}${until}${atMost(step.atMost)}`
  }

  private parts(parts: readonly Part[], step: Action): string[] {
    const words: string[] = []
    for (const part of parts) {
      if (part.part === 'word') words.push(part.word)
      else if (part.part === 'clause') {
        const slots = part.parts.flatMap(p => 'slot' in p ? [p.slot] : [])
        if (slots.some(name => step.slots.some(s => s.name === name))) words.push(...this.parts(part.parts, step))
      } else {
        const slot = step.slots.find(s => s.name === part.slot)
        if (slot !== undefined) words.push(slot.value === null ? slot.word ?? '' : expr(slot.value))
      }
    }
    return words
  }
}

const inBrackets = (parameters: readonly Name[]): string => parameters.length === 0 ? '' : `(${parameters.map(p => p.text).join(', ')})`
const memory = (m: Remembered): string => `memory ${m.name.text}${m.perColor ? ' of color' : ''} = ${m.count === null ? '' : `${expr(m.count)} of `}${expr(m.value)}`
const indent = (depth: number): string => '  '.repeat(depth)
const off = (part: { readonly off: boolean }): string => part.off ? 'off ' : ''
const atMost = (time: Expression | null): string => time === null ? '' : ` at most ${expr(time)}`

export function condition(c: Condition): string {
  return expr(c.expression) + (c.held === null ? '' : ` for ${expr(c.held)}`)
}

function inset({ of, unit, step }: Inset): string {
  return expr(of) + (unit === null ? '' : ` in ${unit.text}`) + (step === null ? '' : ` to ${expr(step)}`)
}

/** An expression as text, in its canonical form. */
export function expr(e: Expression): string {
  switch (e.tag) {
    case 'number': return e.unit === null ? e.figure : `${e.figure} ${e.unit}`
    case 'text': return `"${e.parts.map(p => typeof p === 'string' ? p : `{${inset(p)}}`).join('')}"`
    case 'truth': return e.value ? 'true' : 'false'
    case 'name': return e.name
    case 'reading': return `${e.device.text}.${e.reading.text}${e.given === null ? '' : `(${e.given.map(expr).join(', ')})`}`
    case 'call': return `${e.name.text}(${e.given.map(expr).join(', ')})`
    case 'minus': return `-${expr(e.of)}`
    case 'arithmetic': return `${expr(e.left)} ${e.operator} ${expr(e.right)}`
    case 'compare': return `${expr(e.left)} ${e.operator} ${expr(e.right)}`
    case 'between': return `${expr(e.value)} between ${expr(e.low)} and ${expr(e.high)}`
    case 'is': return `${expr(e.value)} is ${e.negated ? 'not ' : ''}${e.options.map(expr).join(', ')}`
    case 'logic': return e.operands.map(expr).join(` ${e.operator} `)
    case 'not': return `not ${expr(e.of)}`
    case 'random': return `random ${expr(e.low)} to ${expr(e.high)}`
    case 'heard': return `heard ${e.signal.text}`
    case 'every': return `every ${expr(e.time)}`
    case 'bracket': return `(${expr(e.inner)})`
    case 'missing': return ''
    default: return unreachable(e)
  }
}

function unreachable(value: never): never {
  throw new Error(`unexpected node ${JSON.stringify(value)}`)
}
