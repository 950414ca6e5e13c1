export { runtimeFor, toMicroPython, type PythonProgram } from './program'
export { partsIn } from './parts'
