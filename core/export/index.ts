export { CARRIED, exportTo, type Absent, type Carried, type Exported, type ExportInputs } from './export'
export { lineText } from './lines'
export type { Need } from './needs'
