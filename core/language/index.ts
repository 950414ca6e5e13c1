export { checkProgram, type Checked } from './checker'
export type { Analysis, Asked } from './analysis'
export { compileProgram } from './compiler'
export { parseProgram } from './parser'
export { formatProgram, expr, condition } from './formatter'
export { LineIndex, placeOf, type Diagnostic, type Fix, type Severity } from './diagnostics'
export { ExpressionCompiler, valueText, type Names } from './code'
export { Findings } from './diagnostics'
export { typeOf } from './types'
export { FUNCTIONS, RESERVED } from './words'
export { stepWords } from './steps'
export {
  DONE, FINISHED, GONE, WAIT, type Compiled, type CompiledDial, type CompiledLane, type CompiledMode, type CompiledRule, type Machine,
  type Threshold,
} from './compiled'
export type * as Tree from './tree'
