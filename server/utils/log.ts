import { consola } from 'consola'

/** What the server tells whoever started it. */
export const log = consola.withTag('mindpath')
