export { runtimeFor, toMicroPython } from './program'
export { takesOf } from './needs'
export { partsIn } from './parts'
