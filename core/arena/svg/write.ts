import { COLORS } from '../../colors'
import type { Arena } from '../arena'
import type { Layout } from '../layout'
import { hexOf } from './paint'

/** Millimetres, the units of the drawing, to a hundredth. */
const mm = (metres: number): string => String(Math.round(metres * 1e5) / 100)
const DEG = 180 / Math.PI

interface Placed { readonly at: readonly [number, number], readonly turn?: number }

/**
 * An arena from above as an SVG drawing, true to scale: a unit is a millimetre, and each list of the arena is a layer. `layout`: what
 * a seed makes of it. `arenaFromSvg` reads it back; heights, masses and the like are not in it.
 */
export function arenaToSvg(arena: Arena, layout: Layout): string {
  const [w, h] = arena.size
  const north = (y: number): number => h - y
  const turnOf = ({ at, turn = 0 }: Placed): string => turn === 0 ? '' : ` transform="rotate(${Math.round(turn * DEG * 1000) / 1000} ${mm(at[0])} ${mm(north(at[1]))})"`
  const rect = (p: Placed, [long, wide]: readonly [number, number], look: string): string => `<rect x="${mm(p.at[0] - long / 2)}" y="${mm(north(p.at[1]) - wide / 2)}" width="${mm(long)}" height="${mm(wide)}"${turnOf(p)} ${look}/>`
  const circle = ([x, y]: readonly [number, number], diameter: number, look: string): string => `<circle cx="${mm(x)}" cy="${mm(north(y))}" r="${mm(diameter / 2)}" ${look}/>`
  const fill = (color: (typeof COLORS)[number]): string => `fill="${hexOf(color)}"`
  const layers: Readonly<Record<string, readonly string[]>> = {
    // A deck that is all of the arena goes without saying.
    decks: arena.decks.filter(d => d.turn !== 0 || d.size[0] !== w || d.size[1] !== h).map(d => rect(d, d.size, fill(arena.floor.color))),
    patches: arena.patches.map(p => p.shape === 'box' ? rect(p, p.size, fill(p.color)) : circle(p.at, p.size[0], fill(p.color))),
    lines: arena.lines.map(l => `<polyline id="${l.name}" points="${l.points.map(([x, y]) => `${mm(x)},${mm(north(y))}`).join(' ')}" fill="none" stroke="${hexOf(l.color)}" stroke-width="${mm(l.width)}"/>`),
    areas: arena.areas.map(a => rect(a, a.size, `id="${a.name}" fill="none" stroke="${hexOf('green')}" stroke-dasharray="20" stroke-width="5"`)),
    walls: layout.arena.walls.map(l => `<line x1="${mm(l.from[0])}" y1="${mm(north(l.from[1]))}" x2="${mm(l.to[0])}" y2="${mm(north(l.to[1]))}" stroke="${hexOf(l.color)}" stroke-width="${mm(l.thickness)}"/>`),
    crates: layout.arena.crates.map(c => rect(c, c.size, `id="${c.name}" ${fill(c.color)}`)),
    belts: arena.belts.map(b => rect(b, b.size, `id="${b.name}" ${fill('black')}`)),
    pieces: layout.pieces.filter(p => p.fed === null && p.up === 0).map(p => p.body.shape === 'box'
      ? rect(p, [p.body.length, p.body.width], `id="${p.name}" ${fill(p.color)}`) : circle(p.at, p.body.diameter, `id="${p.name}" ${fill(p.color)}`)),
  }
  const groups = Object.entries(layers).filter(([, all]) => all.length > 0).map(([name, all]) => `  <g id="${name}">\n${all.map(line => `    ${line}\n`).join('')}  </g>\n`)
  return `<?xml version="1.0" encoding="UTF-8"?>\n<svg xmlns="http://www.w3.org/2000/svg" width="${mm(w)}mm" height="${mm(h)}mm" viewBox="0 0 ${mm(w)} ${mm(h)}">\n  <title>${arena.name}</title>\n${groups.join('')}</svg>\n`
}
