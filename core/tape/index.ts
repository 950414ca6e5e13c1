export { Tape, type TapeEvent, type TapeState } from './tape'
export { layoutOf, type TapeLayout } from './layout'
export { TapeHash } from './hash'
