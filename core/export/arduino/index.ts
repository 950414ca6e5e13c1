export { runtimeFor, toArduino } from './program'
export { partsIn } from './parts'
export { CALLS, needsOf, type Needs } from './needs'
export { cyclesOf, type Cycles } from './time'
