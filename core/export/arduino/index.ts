export { runtimeFor, toArduino, type CppProgram } from './program'
