import type { SolidShape } from '../geometry'
import type { Arena, PieceShape } from './arena'
import type { Figures, SolidFigure } from './figure'
import { ITEMS } from './items'
import type { PlacedPiece } from './layout'

const NONE: Figures = { floor: [], ground: [], paint: [], fixed: [], walking: [], marks: [], lights: [] }

/** The figures of all that stands in an arena, as a seed lays it out; loose and fixed pieces are `pieceFigure`'s. */
export function figuresOf(arena: Arena): Figures {
  const lists = arena as unknown as Readonly<Record<string, readonly unknown[] | undefined>>
  return ITEMS.reduce<Figures>((all, { list, figures }) => {
    const more: Partial<Figures> = figures?.(lists[list] ?? [], arena) ?? {}
    return Object.fromEntries(Object.entries(all).map(([part, those]) => [part, [...those as readonly unknown[], ...more[part as keyof Figures] ?? []]])) as unknown as Figures
  }, NONE)
}

/** A piece where it stands when a run begins, put out by a feeder or not. */
export function pieceFigure(piece: PlacedPiece): SolidFigure {
  const shape = solidShape(piece.body)
  return { id: piece.name, shape, at: piece.at, middle: piece.up + shape.hz, yaw: -piece.turn, color: piece.color, tint: `paint-${piece.color}`, friction: piece.friction, echo: piece.echo }
}

export function solidShape(body: PieceShape): SolidShape & { readonly hz: number } {
  return body.shape === 'box'
    ? { shape: 'box', hx: body.length / 2, hy: body.width / 2, hz: body.height / 2 }
    : { shape: body.shape, radius: body.diameter / 2, hz: body.height / 2 }
}
