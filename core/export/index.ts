export { exportMicroPython, lineText, type Exported, type ExportInputs } from './export'
