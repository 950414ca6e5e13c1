export {
  PROGRAM_VERSION, rulesIn,
  type Comparison, type DialData, type Draw, type EveryTick, type Guard, type LaneData, type ModeData, type MemoryData, type MotionData, type Op, type Place, type ProgramData, type Range, type RuleData, type ShownAs, type SlotData, type StepData, type Threshold, type Value,
} from './format'
export { NUMBER_FUNCTIONS, functionOf, type FunctionName, type KindsOf, type NumberFunction } from './functions'
export { cellsOf, namedCells, namedValue, type NamedCell } from './named'
export { SaidReader, type RuleSaid, type Said } from './said'
export { valueText } from './shown'
