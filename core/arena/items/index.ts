import { areas } from './areas'
import { belts } from './belts'
import { crates } from './crates'
import { decks } from './decks'
import type { ArenaItem } from './item'
import { lamps } from './lamps'
import { lanes } from './lanes'
import { lines } from './lines'
import { noises } from './noises'
import { patches } from './patches'
import { pieces } from './pieces'
import { scatter } from './scatter'
import { visitors } from './visitors'
import { walls } from './walls'

/** Everything that can stand in an arena, in the order of its document. A new one is a file and a line here. */
export const ITEMS: readonly ArenaItem[] = [decks, walls, lanes, patches, lines, areas, pieces, scatter, crates, belts, lamps, noises, visitors]

export type { ArenaItem } from './item'
