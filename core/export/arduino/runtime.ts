import { Library, type Grammar } from '../library'
import board from './drivers/board.h?raw'
import motors from './drivers/motors.h?raw'
import senses from './drivers/senses.h?raw'
import signs from './drivers/signs.h?raw'
import lanes from './meaning/lanes.h?raw'
import motions from './meaning/motions.h?raw'
import screens from './meaning/screens.h?raw'
import steps from './meaning/steps.h?raw'
import texts from './meaning/texts.h?raw'
import values from './meaning/values.h?raw'

/** What a line at the margin of C++ defines. */
function namesIn(line: string): readonly string[] {
  const first = (pattern: RegExp): readonly string[] | null => { const m = pattern.exec(line); return m === null ? null : [m[1]!] }
  // How something is written into a text goes with it.
  const written = first(/ operator<<\(Text& into, (?:const )?(\w+)/)
  if (written !== null) return written
  // What is told of a class farther down belongs to it.
  const member = first(/^(?:[\w*&]+ )+[*&]?(\w+)::\w+/)
  if (member !== null) return member
  if (line.startsWith('enum ')) return line.match(/\w+/g)!.slice(1)
  if (/^const \w+ .*=/.test(line)) return [...line.matchAll(/(\w+)(?:\[\])?(?: PROGMEM)? =/g)].map(m => m[1]!)
  return first(/^#define (\w+)/) ?? first(/^(?:struct|class) (\w+)/) ?? first(/^typedef .*?(\w+)\)?(?:\(.*\))?;$/)
    ?? first(/^(?!template|[}#\s/])[\w:<>*&\s]*?[\s*&:](\w+)\s*(?:\(|=|;|\[)/) ?? []
}

const CPP: Grammar = {
  names: code => code.split('\n').flatMap(namesIn),
  remark: '//',
  between: '\n\n',
}

let meaning: Library | null = null
let hardware: Library | null = null

/** What a program means. */
export const meaningLibrary = (): Library => meaning ??= new Library([lanes, texts, values, steps, motions, screens], CPP)
/** How its parts are reached. */
export const driverLibrary = (): Library => hardware ??= new Library([board, senses, motors, signs], CPP)
