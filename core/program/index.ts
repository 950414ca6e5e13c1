export {
  PROGRAM_VERSION, rulesIn,
  type Comparison, type DialData, type Draw, type Guard, type LaneData, type ModeData, type MotionData, type Op, type ProgramData, type Range, type RuleData, type ShownAs, type SlotData, type StepData, type Threshold, type Value,
} from './format'
export { SaidReader, type RuleSaid, type Said } from './said'
export { valueText } from './shown'
