import {
  addHeading, applyChanges, conditionChoices, converted, dialName, freeName, givenBy, makeDial, nameProblem, replacePiece, sheetOf, valueChoices, merged,
  type Choice, type Edit, type Piece, type Sheet,
} from '~~/core/editing'
import type { KeptKind } from '~~/core/devices'
import { namesKept, type RobotFacts } from '~~/core/robot'
import { findUnit, unitsOfKind } from '~~/core/units'
import type { Offer } from './rules'

/** What may stand in the place of a piece, and how what was typed or chosen is put there. */
export interface PieceOffers {
  readonly title: string
  readonly offers: readonly Offer[]
  /** The edit that puts a text there; null, where it cannot be read. */
  put(sheet: Sheet, text: string): Edit
}

const TITLES: Readonly<Partial<Record<Piece['role'], string>>> = {
  number: 'a value', name: 'a value', reading: 'a reading', comparison: 'a comparison', is: 'is, or is not', logic: 'and, or', choice: 'a word', truth: 'true or false',
  text: 'a text; {sonar.distance} puts a reading in', mode: 'a mode', routine: 'a routine', signal: 'a signal', device: 'a device', kept: 'a name',
}

/** The piece that this one is compared with, to name a dial by. */
function comparedWith(piece: Piece, sentence: readonly Piece[]): string | null {
  const at = sentence.indexOf(piece)
  const before = sentence.slice(0, at).findLast(p => p.role !== 'word' && p.role !== 'comparison')
  return sentence[at - 1]?.role === 'comparison' && before?.role === 'reading' ? before.text : null
}

/** Makes the number of a piece a dial. */
export function dialOf(sheet: Sheet, facts: RobotFacts, piece: Piece, sentence: readonly Piece[]): Edit {
  if (piece.role !== 'number') return null
  return makeDial(sheet, piece.from, piece.to, dialName(facts, sheet.tree, piece.text, comparedWith(piece, sentence)))?.changes ?? null
}

export function offersFor(sheet: Sheet, facts: RobotFacts, piece: Piece): PieceOffers {
  const plain = (texts: readonly string[], says = ''): Offer[] => texts.map(text => ({ text, says, group: '' }))
  const replace = (s: Sheet, text: string): Edit => replacePiece(s, piece.from, piece.to, text)
  const title = TITLES[piece.role] ?? ''
  switch (piece.role) {
    case 'number': return { title, offers: [...unitsOf(piece.text), ...valueChoices(facts, sheet.tree, piece.text)], put: (s, t) => replace(s, withUnit(t, piece.text)) }
    case 'name': return { title, offers: valueChoices(facts, sheet.tree, piece.text), put: replace }
    case 'reading': return readingOffers(facts, sheet, piece)
    case 'text': return { title, offers: [], put: (s, t) => replace(s, t.startsWith('"') ? t : `"${t.replaceAll('"', '')}"`) }
    case 'mode': {
      const { modes } = givenBy(sheet.tree)
      return {
        title, offers: [...plain(modes), { text: freeName(sheet.tree, 'next'), says: 'a new mode', group: '' }],
        // A mode that is not there yet is made at once, so that there is somewhere to go.
        put: (s, t) => modes.includes(t) ? replace(s, t) : nameProblem(s.tree, t) === null ? withMode(s, piece, t) : null,
      }
    }
    case 'routine': return { title, offers: plain(givenBy(sheet.tree).routines.map(r => r.name.text)), put: replace }
    case 'signal': return { title, offers: plain(givenBy(sheet.tree).signals), put: replace }
    case 'device': return { title, offers: facts.devices.filter(d => piece.options.length === 0 || piece.options.includes(d.kind)).map(d => ({ text: d.name, says: d.title, group: d.name })), put: replace }
    case 'kept': return { title, offers: plain(namesKept(facts, piece.options[0] as KeptKind)), put: replace }
    default: return { title, offers: plain(piece.options), put: (s, t) => piece.options.includes(t) ? replace(s, t) : null }
  }
}

/** A bare number keeps the unit that stood there. */
function withUnit(typed: string, before: string): string {
  const unit = /^-?\d+(?:\.\d+)?\s*(\S.*)$/.exec(before)?.[1]
  return /^-?\d+(?:\.\d+)?$/.test(typed.trim()) && unit !== undefined ? `${typed.trim()} ${unit}` : typed
}

function unitsOf(text: string): Offer[] {
  const unit = findUnit(/^-?\d+(?:\.\d+)?\s*(\S.*)$/.exec(text)?.[1] ?? '')
  if (unit === undefined) return []
  return unitsOfKind(unit.kind).filter(u => u.inPrograms && u.name !== unit.name).flatMap((u) => {
    const same = converted(text, u.name)
    return same === null ? [] : [{ text: same, says: 'the same', group: 'unit' }]
  })
}

function readingOffers(facts: RobotFacts, sheet: Sheet, piece: Piece): PieceOffers {
  const kinds = new Map<string, string>()
  for (const d of facts.devices) for (const r of d.readings) kinds.set(`${d.name}.${r.name}`, r.type.type === 'quantity' ? JSON.stringify(r.type) : r.type.type)
  const bare = (text: string): string => /^(?:not )?([\w.]+)/.exec(text)?.[1] ?? text
  const own = kinds.get(bare(piece.text))
  const { whole } = piece
  const offers = conditionChoices(facts, sheet.tree).filter(c => kinds.has(bare(c.text))).map((c): Choice => {
    // A reading of the same kind keeps what it is compared with; another brings its own comparison.
    const reading = /^[\w.]+(?:\([^)]*\))?/.exec(c.text)![0]
    return kinds.get(bare(c.text)) === own ? { ...c, text: reading } : c
  }).filter(c => whole !== null || kinds.get(bare(c.text)) === own)
  return {
    title: 'a reading', offers,
    put: (s, t) => {
      const only = kinds.get(bare(t)) === own && /^[\w.]+(?:\([^)]*\))?$/.test(t)
      const at = only || whole === null ? piece : whole
      return replacePiece(s, at.from, at.to, t)
    },
  }
}

function withMode(sheet: Sheet, piece: Piece, name: string): Edit {
  const change = { from: piece.from, to: piece.to, insert: name }
  const text = applyChanges(sheet.text, [change])
  const added = addHeading(sheetOf(text), `mode ${name}\n  otherwise -> wait 1 s`)
  return added === null ? null : merged(sheet.text, applyChanges(text, added))
}
