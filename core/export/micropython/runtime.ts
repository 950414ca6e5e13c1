import { Library, type Grammar } from '../library'
import board from './drivers/board.py?raw'
import motors from './drivers/motors.py?raw'
import senses from './drivers/senses.py?raw'
import signs from './drivers/signs.py?raw'
import lanes from './meaning/lanes.py?raw'
import motions from './meaning/motions.py?raw'
import steps from './meaning/steps.py?raw'
import texts from './meaning/texts.py?raw'
import values from './meaning/values.py?raw'

const PYTHON: Grammar = {
  names: code => [...code.matchAll(/^(?:(?:def|class) (\w+)|(\w+(?:, \w+)*) = )/gm)].flatMap(m => (m[1] ?? m[2]!).split(', ')),
  remark: '#',
  between: '\n\n\n',
}

let meaning: Library | null = null
let hardware: Library | null = null

/** What a program means. */
export const meaningLibrary = (): Library => meaning ??= new Library([lanes, steps, values, motions, texts], PYTHON)
/** How its parts are reached. */
export const driverLibrary = (): Library => hardware ??= new Library([board, senses, motors, signs], PYTHON)
