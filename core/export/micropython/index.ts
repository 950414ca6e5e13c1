export { toMicroPython, type PythonProgram } from './program'
