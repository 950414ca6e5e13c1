import { history, undo, undoDepth } from '@codemirror/commands'
import { EditorState, type Transaction } from '@codemirror/state'
import {
  addElse, addHeading, addPart, conditionChoices, duplicate, givenBy, insertRule, insertStep, makeDial, merged, moveItem, moveRuleTo, moveStep, nudge, outlineOf, removeItem, removePart,
  removeStep, rename, replacePiece, replaceStep, setCondition, setHeld, setUntil, sheetOf, stepChoices, toggleNot, toggleOff, toggleOnce, valueChoices, wrapStep, commentsIn,
  type Edit, type KnownRows, type Outline, type Piece, type Sheet,
} from '../core/editing'
import { STEP_FORMS } from '../core/devices'
import { formatProgram } from '../core/language'
import { RandomStream } from '../core/random'
import { factsOf, readRobot, type RobotFacts } from '../core/robot'
import { readFileSync } from 'node:fs'

/** All that one can do to a program by its parts, at places drawn at random. */

/** Edits on one program until it is undone to its start and another is taken. */
const SITTING = 250

const PROGRAMS: readonly (readonly [string, string])[] = [
  ['night-rounds', 'limpet'], ['kiss-the-fender', 'limpet'], ['fetch-the-floats', 'cuttle'], ['find-the-buoy', 'cuttle'], ['lids-home', 'winkle'], ['sort-the-floats', 'heron'],
]

interface Drawn { readonly sheet: Sheet, readonly outline: Outline, pick<T>(from: readonly T[]): T | undefined, readonly facts: RobotFacts }

const rows = (d: Drawn) => d.outline.cards.flatMap(c => c.rows)
const steps = (d: Drawn) => rows(d).flatMap(r => r.steps)
const anyRow = (d: Drawn): number => d.pick(rows(d))?.at ?? -2
const anyStep = (d: Drawn): number => d.pick(steps(d).filter(s => s.isStep))?.at ?? -2
const anyPiece = (d: Drawn, ...roles: Piece['role'][]): Piece | undefined =>
  d.pick([...rows(d).flatMap(r => [...r.when, ...r.until]), ...steps(d).flatMap(s => s.pieces), ...d.outline.named.flatMap(n => n.pieces)].filter(p => roles.includes(p.role)))
const anyCondition = (d: Drawn): string => d.pick(conditionChoices(d.facts, d.sheet.tree))!.text
const anyNewStep = (d: Drawn): string => d.pick(stepChoices(d.facts, d.sheet.tree))!.text
const cardOf = (d: Drawn) => d.pick(d.outline.cards.filter(c => c.kind !== 'routine'))
const sign = (d: Drawn): -1 | 1 => d.pick([-1, 1] as const)!

const OPERATIONS: Readonly<Record<string, (d: Drawn) => Edit>> = {
  moveItem: d => moveItem(d.sheet, anyRow(d), sign(d)),
  moveCard: d => moveItem(d.sheet, d.pick(d.outline.cards)?.at ?? -2, sign(d)),
  moveRuleTo: (d) => { const card = cardOf(d); return card === undefined ? null : moveRuleTo(d.sheet, anyRow(d), card.at, d.pick([null, ...card.rows.map(r => r.at)]) ?? null) },
  insertRule: (d) => { const card = cardOf(d); return insertRule(d.sheet, card?.at ?? -1, d.pick([null, ...(card?.rows.map(r => r.at) ?? [])]) ?? null, `when ${anyCondition(d)}\n  ${anyNewStep(d).replaceAll('\n', '\n  ')}`) },
  duplicate: d => duplicate(d.sheet, d.pick([anyRow(d), anyStep(d)])!),
  removeItem: d => removeItem(d.sheet, anyRow(d)),
  removeStep: d => removeStep(d.sheet, anyStep(d)),
  moveStep: d => moveStep(d.sheet, anyStep(d), sign(d)),
  toggleOff: d => toggleOff(d.sheet, d.pick([anyRow(d), anyStep(d)])!),
  insertStep: d => insertStep(d.sheet, d.pick([anyRow(d), ...steps(d).filter(s => s.what !== 'step').map(s => s.at)])!, d.pick([0, 1, 2])!, anyNewStep(d)),
  replaceStep: d => replaceStep(d.sheet, anyStep(d), anyNewStep(d)),
  addElse: d => addElse(d.sheet, anyStep(d), anyNewStep(d)),
  wrapStep: d => wrapStep(d.sheet, anyStep(d), d.pick(['repeat 2 times', `if ${anyCondition(d)}`])!),
  addMode: d => addHeading(d.sheet, `mode m${d.sheet.text.length}\n  otherwise -> wait 1 s`),
  setCondition: d => setCondition(d.sheet, anyRow(d), anyCondition(d)),
  addPart: d => addPart(d.sheet, d.pick([anyRow(d), anyStep(d)])!, d.pick(['and', 'or'] as const)!, anyCondition(d)),
  removePart: (d) => { const row = d.pick(rows(d)); const piece = row === undefined ? undefined : d.pick(row.when); return row === undefined || piece === undefined ? null : removePart(d.sheet, row.at, piece.from) },
  toggleNot: (d) => { const row = d.pick(rows(d)); const piece = row === undefined ? undefined : d.pick(row.when); return row === undefined || piece === undefined ? null : toggleNot(d.sheet, row.at, piece.from) },
  setHeld: d => setHeld(d.sheet, anyRow(d), d.pick(['0.2 s', null])!),
  setUntil: d => setUntil(d.sheet, anyRow(d), d.pick([anyCondition(d), null])!),
  toggleOnce: d => toggleOnce(d.sheet, anyRow(d)),
  nudge: (d) => { const p = anyPiece(d, 'number'); const text = p === undefined ? null : nudge(p.text, d.pick([-3, 1, 7])!); return p === undefined || text === null ? null : replacePiece(d.sheet, p.from, p.to, text) },
  value: (d) => { const p = anyPiece(d, 'number', 'name'); const c = p === undefined ? undefined : d.pick(valueChoices(d.facts, d.sheet.tree, p.text)); return p === undefined || c === undefined ? null : replacePiece(d.sheet, p.from, p.to, c.text) },
  word: (d) => { const p = anyPiece(d, 'comparison', 'is', 'logic', 'choice'); const o = p === undefined ? undefined : d.pick(p.options); return p === undefined || o === undefined ? null : replacePiece(d.sheet, p.from, p.to, o) },
  makeDial: (d) => { const p = anyPiece(d, 'number'); return p === undefined ? null : makeDial(d.sheet, p.from, p.to, 'knob')?.changes ?? null },
  rename: (d) => { const mode = d.pick(givenBy(d.sheet.tree).modes); return mode === undefined ? null : rename(d.sheet, 'mode', mode, `n${d.sheet.text.length}`) },
  format: d => merged(d.sheet.text, formatProgram(d.sheet.tree, STEP_FORMS)),
}

const comments = (text: string): string[] => [...commentsIn(text, 0, text.length)].sort()
function holds(before: readonly string[], after: readonly string[]): boolean {
  let at = 0
  for (const c of before) {
    while (at < after.length && after[at]! < c) at++
    if (after[at] !== c) return false
    at++
  }
  return true
}

const demo = (path: string): string => readFileSync(new URL(`../demo/${path}`, import.meta.url), 'utf8')
function factsFor(robot: string): RobotFacts {
  const read = readRobot(JSON.parse(demo(`robots/${robot}.json`)))
  if (!read.ok) throw new Error(`demo/robots/${robot}.json cannot be read`)
  return factsOf(read.value)
}

/**
 * So many edits: how often each kind of edit was done. Throws where one loses a comment, leaves what cannot be read, or
 * undoing all of a sitting does not lead back to its start.
 */
export function fuzzEdits(count: number, tell: (line: string) => void = () => {}): ReadonlyMap<string, number> {
  const random = RandomStream.named(20, 'fuzz')
  const names = Object.keys(OPERATIONS)
  const done = new Map(names.map(name => [name, 0]))
  let edits = 0
  for (let sitting = 0; edits < count; sitting++) {
    const [program, robot] = PROGRAMS[sitting % PROGRAMS.length]!
    const facts = factsFor(robot)
    const first = demo(`projects/${program}/program.mindpath`)
    let state = EditorState.create({ doc: first, extensions: [history({ minDepth: SITTING })] })
    const dispatch = (tr: Transaction): void => { state = tr.state }
    let sheet = sheetOf(first)
    let said = comments(first)
    const known: KnownRows = new Map()
    for (let i = 0; i < SITTING && edits < count; i++) {
      const pick = <T>(from: readonly T[]): T | undefined => from[random.bits() % from.length]
      const name = pick(names)!
      const changes = OPERATIONS[name]!({ sheet, outline: outlineOf(sheet, known), pick, facts })
      edits++
      if (changes === null) continue
      dispatch(state.update({ changes: changes as { from: number, to: number, insert: string }[] }))
      const text = state.doc.toString()
      const next = sheetOf(text)
      const now = comments(text)
      if (next.problems > 0 || !holds(said, now)) throw new Error(`${name}, sitting ${sitting}, edit ${i}: ${next.problems > 0 ? 'cannot be read' : `comments lost: ${said.filter(c => !now.includes(c)).join(' | ')}`}\n--- before\n${sheet.text}\n--- after\n${text}`)
      sheet = next
      said = now
      done.set(name, done.get(name)! + 1)
      // A program that has grown beyond what people write slows down, and shows nothing new.
      if (text.length > 1600) break
    }
    while (undoDepth(state) > 0) undo({ state, dispatch })
    if (state.doc.toString() !== first) throw new Error(`sitting ${sitting}, on ${program}: undoing all of it does not lead back`)
    if (sitting % 50 === 0) tell(`${edits} edits`)
  }
  return done
}
