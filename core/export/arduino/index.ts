export { runtimeFor, toArduino, type CppProgram } from './program'
export { partsIn } from './parts'
