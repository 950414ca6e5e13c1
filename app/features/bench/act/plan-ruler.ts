import { anchorAt, apart, type Anchor, type Point } from './plan-view'

/** What a ruler measures, metres: the names of the things, '' for a bare place. */
export interface Measured { readonly from: string, readonly to: string, readonly middles: number, readonly edges: number }

/** A ruler from one thing to another: it follows them while they move. */
export class PlanRuler {
  /** The ends as they were laid: things by their names, places as they are. */
  private ends: readonly [Anchor, Anchor] | null = null

  /** Lays it between two places of the world; `slack`: how near to a thing is on it, metres. null puts it away. */
  lay(places: readonly [Point, Point] | null, anchors: readonly Anchor[], slack: number): void {
    this.ends = places === null ? null : [anchorAt(anchors, places[0], slack), anchorAt(anchors, places[1], slack)]
  }

  /** Its ends as they are now; null while none is laid. */
  private now(anchors: readonly Anchor[]): readonly [Anchor, Anchor] | null {
    if (this.ends === null) return null
    const [from, to] = this.ends
    const at = (end: Anchor): Anchor => (end.name === '' ? undefined : anchors.find(a => a.name === end.name)) ?? end
    return [at(from), at(to)]
  }

  measured(anchors: readonly Anchor[]): Measured | null {
    const ends = this.now(anchors)
    return ends === null ? null : { from: ends[0].name, to: ends[1].name, ...apart(...ends) }
  }

  /** Draws it on a canvas that is in metres; `pixel`: metres of one pixel of the page. */
  draw(ctx: CanvasRenderingContext2D, anchors: readonly Anchor[], color: string, pixel: number): void {
    const ends = this.now(anchors)
    if (ends === null) return
    ctx.strokeStyle = ctx.fillStyle = color
    ctx.lineWidth = 2 * pixel
    ctx.setLineDash([6 * pixel, 4 * pixel])
    ctx.beginPath()
    ctx.moveTo(ends[0].x, ends[0].y)
    ctx.lineTo(ends[1].x, ends[1].y)
    ctx.stroke()
    ctx.setLineDash([])
    for (const { x, y } of ends) {
      ctx.beginPath()
      ctx.arc(x, y, 4 * pixel, 0, 2 * Math.PI)
      ctx.fill()
    }
  }
}
