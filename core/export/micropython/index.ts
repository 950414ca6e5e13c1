export { runtimeFor, toMicroPython } from './program'
export { partsIn } from './parts'
