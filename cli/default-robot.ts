import limpet from '../demo/robots/limpet.json'

/** The robot that programs are checked for when none is named. */
export const DEFAULT_ROBOT: unknown = limpet
