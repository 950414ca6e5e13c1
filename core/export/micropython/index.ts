export { runtimeFor, toMicroPython, type PythonProgram } from './program'
export { partsIn, type Missing, type PythonParts } from './parts'
