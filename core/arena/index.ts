export { readArena, ARENA_VERSION, type Arena, type ArenaPiece, type PieceShape } from './arena'
export { layOut, turned, outerRadius, type Layout, type PlacedPiece } from './layout'
