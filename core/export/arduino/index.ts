export { runtimeFor, toArduino, type CppProgram } from './program'
export { partsIn } from './parts'
export { needsOf, type Needs } from './needs'
