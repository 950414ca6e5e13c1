export { runtimeFor, toArduino } from './program'
export { partsIn } from './parts'
export { needsOf, type Needs } from './needs'
