import type { Tree } from '../language'
import { offLength } from './pieces'
import { itemAt, stepAt, stepListAt, type RuleList, type StepList } from './places'
import { applyChanges, blockOf, codeEnd, commentAt, commentsIn, indentAt, indented, insertLines, lineEnd, lineStart, sheetOf, type Block, type Change, type Sheet } from './sheet'

/**
 * Edits of a program by its parts. Each takes the sheet and says which changes of the text make it; null where
 * it may not be, so that a button can ask the same question. No edit loses a comment.
 */
export type Edit = readonly Change[] | null

const STEP = 2

/** Lines taken out, their comments left where they stood, as lines of their own. */
function cut(text: string, block: Block): Change {
  const kept = commentsIn(text, block.from, block.to).map(c => `${' '.repeat(indentAt(text, block.own))}#${c === '' ? '' : ` ${c}`}\n`).join('')
  return { from: block.from, to: block.to, insert: kept }
}

/** Two neighbouring blocks change places; what stands between them stays. */
function swapped(text: string, first: Block, second: Block): Edit {
  const a = whole(text, first)
  const b = whole(text, second)
  return [{ from: first.from, to: first.to, insert: b }, { from: second.from, to: second.to, insert: text.endsWith('\n') || second.to < text.length ? a : a.slice(0, -1) }]
}
const whole = (text: string, block: Block): string => { const t = text.slice(block.from, block.to); return t.endsWith('\n') ? t : `${t}\n` }

const isRule = (item: Tree.Item | undefined): item is Tree.Rule => item?.tag === 'rule'
const isOtherwise = (item: Tree.Item | undefined): boolean => isRule(item) && item.when === null

/** Moves a rule, mode, lane or routine one place up (-1) or down (1) among those like it. */
export function moveItem(sheet: Sheet, at: number, by: -1 | 1): Edit {
  const found = itemAt(sheet, at)
  if (found === null || found.item.tag === 'unread' || found.item.tag === 'start') return null
  const { items } = found.list
  let other = found.index + by
  // A rule passes over dials and the like that stand among rules; a mode over nothing but modes.
  while (items[other] !== undefined && items[other]!.tag !== found.item.tag && ['dial', 'memory', 'let', 'title'].includes(items[other]!.tag) && isRule(found.item)) other += by
  const target = items[other]
  if (target === undefined || target.tag !== found.item.tag) return null
  const [upper, lower] = by === -1 ? [target, found.item] : [found.item, target]
  // `otherwise` stands last.
  if (isOtherwise(upper) || isOtherwise(lower)) return null
  return swapped(sheet.text, blockOf(sheet.text, upper.range), blockOf(sheet.text, lower.range))
}

/** Moves a rule in front of the item at an offset of any card, or to the end of the card whose heading is there. */
export function moveRuleTo(sheet: Sheet, at: number, card: number, before: number | null): Edit {
  const found = itemAt(sheet, at)
  if (found === null || !isRule(found.item)) return null
  const list = listOf(sheet, card)
  if (list === null || before === at) return null
  const rest = list.items.filter(i => i !== found.item)
  const target = before === null ? undefined : rest.find(i => i.range.from === before)
  if (before !== null && target === undefined) return null
  if (isOtherwise(found.item) && (target !== undefined || rest.some(isOtherwise))) return null
  if (target === undefined && rest.some(isOtherwise)) return null
  const block = blockOf(sheet.text, found.item.range)
  const put = target === undefined ? endOf(sheet, list, found.item) : blockOf(sheet.text, target.range).from
  if (put >= block.from && put <= block.to && list.items.includes(found.item)) return null
  const lines = indented(whole(sheet.text, block), depthOf(sheet.text, list) - indentAt(sheet.text, block.own))
  return [{ from: block.from, to: block.to, insert: '' }, insertLines(sheet.text, put, lines)]
}

/** The list of items of a card: its heading's offset, or -1 for the program's own. */
function listOf(sheet: Sheet, card: number): RuleList | null {
  if (card === -1) return { owner: sheet.tree, items: sheet.tree.items }
  const owner = itemAt(sheet, card)?.item
  return owner?.tag === 'mode' || owner?.tag === 'lane' ? { owner, items: owner.items } : null
}

function depthOf(text: string, list: RuleList): number {
  if (list.owner.tag === 'program') return 0
  const first = list.items[0]
  return first === undefined ? indentAt(text, list.owner.range.from) + STEP : indentAt(text, first.range.from)
}

/** Where a rule goes that is to be the last of a list: before its modes, lanes and routines. */
function endOf(sheet: Sheet, list: RuleList, except: Tree.Item | null): number {
  const { text } = sheet
  const others = list.items.filter(i => i !== except)
  const last = others.findLast(i => i.tag === 'rule' || i.tag === 'start' || i.tag === 'unread')
  if (last !== undefined) return blockOf(text, last.range).to
  if (list.owner.tag !== 'program') return Math.min(text.length, lineEnd(text, list.owner.name.range.to) + 1)
  const named = others.findLast(i => ['title', 'dial', 'memory', 'let'].includes(i.tag))
  const next = others[0]
  return named !== undefined ? blockOf(text, named.range).to : next !== undefined ? blockOf(text, next.range).from : text.length
}

/** Puts a rule, written as at the margin, in front of the one at an offset, or last (above `otherwise`). */
export function insertRule(sheet: Sheet, card: number, before: number | null, lines: string): Edit {
  const list = listOf(sheet, card)
  if (list === null) return null
  const { text } = sheet
  const last = list.items.findLast(isRule)
  const target = before === null ? (isOtherwise(last) ? last : undefined) : list.items.find(i => i.range.from === before)
  if (before !== null && target === undefined) return null
  const other = lines.startsWith('otherwise')
  if (other && list.items.some(isOtherwise)) return null
  const put = target === undefined || other ? endOf(sheet, list, null) : blockOf(text, target.range).from
  // Rules at the margin stand apart from what names things.
  const apart = list.owner.tag === 'program' && !list.items.some(isRule) && put > 0 ? '\n' : ''
  return [insertLines(text, put, apart + indented(lines, depthOf(text, list)))]
}

/** A copy of a rule or step right below it. */
export function duplicate(sheet: Sheet, at: number): Edit {
  const found = itemAt(sheet, at)?.item ?? stepAt(sheet, at)?.step
  if (found === undefined || isOtherwise(found as Tree.Item)) return null
  if (isInline(sheet.text, found.range)) return null
  if (!['rule', 'action', 'if', 'repeat', 'choose', 'set', 'reset', 'send', 'wait', 'waitUntil', 'note', 'do'].includes(found.tag)) return null
  const block = blockOf(sheet.text, found.range)
  return [insertLines(sheet.text, block.to, whole(sheet.text, { ...block, from: block.own }))]
}

/** Whether a step stands behind an arrow, not on a line of its own. */
const isInline = (text: string, range: Tree.Range): boolean => text.slice(lineStart(text, range.from), range.from).trim() !== ''

/** Takes a rule, start, dial, memory, mode, lane or routine out; its comments stay. */
export function removeItem(sheet: Sheet, at: number): Edit {
  const found = itemAt(sheet, at)
  if (found === null) return null
  const { owner, items } = found.list
  // A heading needs a line under it, or it means nothing.
  if (owner.tag !== 'program' && items.length === 1) return null
  return [cut(sheet.text, blockOf(sheet.text, found.item.range))]
}

/** Takes a step out; its comments stay. The last of its block cannot go: there would be nothing to do; of an `if`, the whole `if` goes. */
export function removeStep(sheet: Sheet, at: number): Edit {
  const found = stepAt(sheet, at)
  if (found === null || found.list.body.steps.length === 1) return null
  return [cut(sheet.text, blockOf(sheet.text, found.step.range))]
}

/** Moves a step one place up or down in its block. */
export function moveStep(sheet: Sheet, at: number, by: -1 | 1): Edit {
  const found = stepAt(sheet, at)
  const other = found?.list.body.steps[found.index + by]
  if (found === null || other === undefined) return null
  const [upper, lower] = by === -1 ? [other, found.step] : [found.step, other]
  return swapped(sheet.text, blockOf(sheet.text, upper.range), blockOf(sheet.text, lower.range))
}

/** Switches a rule or step off, or on again. */
export function toggleOff(sheet: Sheet, at: number): Edit {
  const found = itemAt(sheet, at)?.item ?? stepAt(sheet, at)?.step
  if (found === undefined || !('off' in found)) return null
  const length = offLength(sheet.text, at)
  return [length > 0 ? { from: at, to: at + length, insert: '' } : { from: at, to: at, insert: 'off ' }]
}

/** Turns a step behind an arrow into a line of its own, so that more can follow. */
function opened(sheet: Sheet, list: StepList): { readonly sheet: Sheet, readonly changes: readonly Change[] } {
  if (!list.body.inline) return { sheet, changes: [] }
  const { text } = sheet
  const step = list.body.steps[0]!
  const arrow = text.lastIndexOf('->', step.range.from)
  const from = arrow - (text.slice(0, arrow).length - text.slice(0, arrow).trimEnd().length)
  const changes = [{ from, to: step.range.from, insert: `\n${' '.repeat(indentAt(text, list.at) + STEP)}` }]
  return { sheet: sheetOf(applyChanges(text, changes)), changes }
}

/** Puts a step, written as at the margin, at a place of the block whose heading begins at an offset. */
export function insertStep(sheet: Sheet, heading: number, index: number, lines: string): Edit {
  const list = stepListAt(sheet, heading)
  if (list === null || index < 0 || index > list.body.steps.length) return null
  const open = opened(sheet, list)
  const body = stepListAt(open.sheet, heading)?.body
  if (body === undefined) return null
  const { text } = open.sheet
  const depth = body.steps[0] === undefined ? indentAt(text, heading) + STEP : indentAt(text, body.steps[0].range.from)
  const target = body.steps[index]
  const last = body.steps.at(-1)
  const put = target !== undefined ? blockOf(text, target.range).from : last !== undefined ? blockOf(text, last.range).to : Math.min(text.length, lineEnd(text, heading) + 1)
  return merged(sheet.text, applyChanges(text, [insertLines(text, put, indented(lines, depth))]))
}

/** Puts a step in the place of another; comments stay. */
export function replaceStep(sheet: Sheet, at: number, lines: string): Edit {
  const found = stepAt(sheet, at)
  if (found === null) return null
  const { text } = sheet
  const { step } = found
  if (isInline(text, step.range)) {
    if (!lines.trimEnd().includes('\n')) return [{ from: at, to: codeEnd(text, step.range.to), insert: lines.trimEnd() }]
    const open = opened(sheet, found.list)
    const moved = stepListAt(open.sheet, found.list.at)?.body.steps[0]
    const inner = moved === undefined ? null : replaceStep(open.sheet, moved.range.from, lines)
    return inner === null ? null : merged(text, applyChanges(open.sheet.text, inner))
  }
  const block = blockOf(text, step.range)
  const own = { ...block, from: block.own }
  const put = indented(lines, indentAt(text, at))
  // A comment behind a step of one line stays behind it.
  const behind = commentAt(text.slice(own.from, lineEnd(text, own.from)))
  if (lineEnd(text, at) >= step.range.to && behind !== -1 && !put.trimEnd().includes('\n')) return [{ from: own.from, to: codeEnd(text, step.range.to), insert: put.trimEnd() }]
  const kept = commentsIn(text, own.from, own.to).map(c => `${' '.repeat(indentAt(text, at))}#${c === '' ? '' : ` ${c}`}\n`).join('')
  return [{ ...own, insert: kept + put }]
}

/** Adds `else` to the `if` or `choose` at an offset, or to a step with `at most`, with a step. */
export function addElse(sheet: Sheet, at: number, step: string): Edit {
  const place = stepAt(sheet, at)
  const found = place?.step
  const late = found !== undefined && 'late' in found && found.late === null && found.atMost !== null
  const way = (found?.tag === 'if' || found?.tag === 'choose') && found.otherwise === null
  if (!late && !way) return null
  const { text } = sheet
  const lines = `else\n${indented(step, STEP)}`
  if (isInline(text, found.range)) {
    const open = opened(sheet, place!.list)
    const moved = stepListAt(open.sheet, place!.list.at)?.body.steps[0]
    const inner = moved === undefined ? null : addElse(open.sheet, moved.range.from, step)
    return inner === null ? null : merged(text, applyChanges(open.sheet.text, inner))
  }
  const depth = indentAt(text, at) + (found.tag === 'choose' ? STEP : 0)
  return [insertLines(text, blockOf(text, found.range).to, indented(lines, depth))]
}

/** Puts a step into the body of a new `if` or `repeat`. */
export function wrapStep(sheet: Sheet, at: number, heading: string): Edit {
  const found = stepAt(sheet, at)
  if (found === null) return null
  if (isInline(sheet.text, found.step.range)) {
    const open = opened(sheet, found.list)
    const moved = stepListAt(open.sheet, found.list.at)?.body.steps[0]
    const inner = moved === undefined ? null : wrapStep(open.sheet, moved.range.from, heading)
    return inner === null ? null : merged(sheet.text, applyChanges(open.sheet.text, inner))
  }
  const block = blockOf(sheet.text, found.step.range)
  const own = { ...block, from: block.own }
  const depth = indentAt(sheet.text, at)
  return [{ from: own.from, to: own.to, insert: `${' '.repeat(depth)}${heading}\n${indented(whole(sheet.text, own), STEP)}` }]
}

/** Adds a mode, lane or routine with its lines at the end of the program, or of the modes of a lane. */
export function addHeading(sheet: Sheet, lines: string, lane: number = -1): Edit {
  const { text } = sheet
  if (lane !== -1) {
    const owner = itemAt(sheet, lane)?.item
    if (owner?.tag !== 'lane') return null
    return [insertLines(text, blockOf(text, owner.range).to, indented(lines, STEP))]
  }
  // Modes stand together; the rest comes last.
  const items = sheet.tree.items
  const after = lines.startsWith('mode ') ? items.findLast(i => i.tag === 'mode') ?? items.findLast(i => i.tag !== 'lane' && i.tag !== 'routine') : items.at(-1)
  const put = after === undefined ? text.length : blockOf(text, after.range).to
  const gap = put === 0 || text.slice(0, put).endsWith('\n\n') ? '' : '\n'
  return [insertLines(text, put, gap + indented(lines, 0))]
}

/** Writes the comment above a line anew: some lines of it, or none to take it away. */
export function setCommentAbove(sheet: Sheet, at: number, comment: string): Edit {
  const { text } = sheet
  const found = itemAt(sheet, at)?.item ?? stepAt(sheet, at)?.step
  if (found === undefined || isInline(text, found.range)) return null
  const block = blockOf(text, found.range)
  const depth = ' '.repeat(indentAt(text, at))
  const insert = comment.trim() === '' ? '' : comment.trim().split('\n').map(line => `${depth}#${line.trim() === '' ? '' : ` ${line.trim()}`}\n`).join('')
  return [{ from: block.from, to: block.own, insert }]
}

/** Writes a line of plan at the end of the program: people begin with what they mean to do. */
export function addComment(sheet: Sheet, words: string): Edit {
  const line = words.replaceAll('\n', ' ').trim()
  return line === '' ? null : [insertLines(sheet.text, sheet.text.length, `# ${line}\n`)]
}

/** Writes a comment that stands from here to there anew; one without words goes, with its line where it has one of its own. */
export function editComment(sheet: Sheet, from: number, to: number, words: string): Edit {
  const { text } = sheet
  const line = words.replaceAll('\n', ' ').trim()
  if (text[from] !== '#') return null
  if (line !== '') return [{ from, to, insert: `# ${line}` }]
  const alone = text.slice(lineStart(text, from), from).trim() === ''
  return [alone ? { from: lineStart(text, from), to: Math.min(text.length, to + 1), insert: '' } : { from: codeEnd(text, from), to, insert: '' }]
}

/** The smallest single change between two texts. */
export function merged(before: string, after: string): readonly Change[] {
  let start = 0
  const most = Math.min(before.length, after.length)
  while (start < most && before[start] === after[start]) start++
  let end = 0
  while (end < most - start && before[before.length - 1 - end] === after[after.length - 1 - end]) end++
  return [{ from: start, to: before.length - end, insert: after.slice(start, after.length - end) }]
}
