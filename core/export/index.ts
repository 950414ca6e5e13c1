export { exportMicroPython, type Absent, type Exported, type ExportInputs } from './export'
export { lineText } from './lines'
