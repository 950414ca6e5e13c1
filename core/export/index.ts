export { CARRIED, exportTo, type Carried, type Exported, type ExportInputs } from './export'
export type { Difference } from './differs'
export { lineText } from './lines'
export { CALLS, type Need } from './needs'
