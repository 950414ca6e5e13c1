import { fromByte, type Picture } from './picture'
import { TAG_SIZE, tagOf } from './tags'

/** A tag in a picture: its number, the middle of its square, its height and the frame around it, pixels. */
export interface FoundTag { readonly tag: number, readonly x: number, readonly y: number, readonly side: number, readonly left: number, readonly top: number, readonly width: number, readonly height: number }

/** A dark patch smaller than this cannot hold 6 by 6 cells, pixels. */
const LEAST_SIDE = 9
/** Darker than this share of what is around counts as dark. */
const DARK = 0.6
/** Half the side of the square over which "around" is taken, as a share of the picture's width. */
const AROUND = 0.08
/** How many of the 20 cells of the border must be dark. */
const LEAST_BORDER = 18

/**
 * Finds printed square tags: dark patches with four corners, the border of which is dark and whose
 * inside spells a tag's word when seen through the square's own perspective.
 */
export class TagFinder {
  private bright = new Float64Array(0)
  private sums = new Float64Array(0)
  private mark = new Int32Array(0)
  private stack: number[] = []

  find(picture: Picture): FoundTag[] {
    const { width, height } = picture
    this.prepare(picture)
    const found: FoundTag[] = []
    const { mark } = this
    for (let i = 0; i < mark.length; i++) {
      if (mark[i] !== 1) continue
      const tag = this.read(this.corners(i, width, height), width, height)
      if (tag !== null) found.push(tag)
    }
    return found
  }

  /** Marks dark pixels by comparing with the mean around them (an integral image gives it at once). */
  private prepare({ width, height, pixels }: Picture): void {
    const size = width * height
    if (this.mark.length !== size) {
      this.bright = new Float64Array(size)
      this.sums = new Float64Array((width + 1) * (height + 1))
      this.mark = new Int32Array(size)
    }
    const { bright, sums, mark } = this
    const row = width + 1
    for (let y = 0; y < height; y++) {
      let line = 0
      for (let x = 0; x < width; x++) {
        const k = 4 * (y * width + x)
        const b = (fromByte(pixels[k]!) + fromByte(pixels[k + 1]!) + fromByte(pixels[k + 2]!)) / 3
        bright[y * width + x] = b
        line += b
        sums[(y + 1) * row + x + 1] = sums[y * row + x + 1]! + line
      }
    }
    const reach = Math.max(5, Math.round(width * AROUND))
    for (let y = 0; y < height; y++) {
      const top = Math.max(0, y - reach)
      const bottom = Math.min(height, y + reach + 1)
      for (let x = 0; x < width; x++) {
        const left = Math.max(0, x - reach)
        const right = Math.min(width, x + reach + 1)
        const sum = sums[bottom * row + right]! - sums[top * row + right]! - sums[bottom * row + left]! + sums[top * row + left]!
        mark[y * width + x] = bright[y * width + x]! < DARK * sum / ((bottom - top) * (right - left)) ? 1 : 0
      }
    }
  }

  /** The patch's outermost points towards the four corners of the picture: x and y, from top left clockwise. */
  private corners(start: number, width: number, height: number): Float64Array {
    const { mark, stack } = this
    const c = Float64Array.of(Infinity, 0, 0, -Infinity, 0, 0, -Infinity, 0, 0, Infinity, 0, 0)
    stack.length = 0
    stack.push(start)
    mark[start] = 2
    while (stack.length > 0) {
      const i = stack.pop()!
      const x = i % width
      const y = (i - x) / width
      if (x + y < c[0]!) { c[0] = x + y; c[1] = x; c[2] = y }
      if (x - y > c[3]!) { c[3] = x - y; c[4] = x + 1; c[5] = y }
      if (x + y > c[6]!) { c[6] = x + y; c[7] = x + 1; c[8] = y + 1 }
      if (x - y < c[9]!) { c[9] = x - y; c[10] = x; c[11] = y + 1 }
      if (x > 0 && mark[i - 1] === 1) { mark[i - 1] = 2; stack.push(i - 1) }
      if (x < width - 1 && mark[i + 1] === 1) { mark[i + 1] = 2; stack.push(i + 1) }
      if (y > 0 && mark[i - width] === 1) { mark[i - width] = 2; stack.push(i - width) }
      if (y < height - 1 && mark[i + width] === 1) { mark[i + width] = 2; stack.push(i + width) }
    }
    return Float64Array.of(c[1]!, c[2]!, c[4]!, c[5]!, c[7]!, c[8]!, c[10]!, c[11]!)
  }

  private read(c: Float64Array, width: number, height: number): FoundTag | null {
    const [x0, y0, x1, y1, x2, y2, x3, y3] = c as unknown as [number, number, number, number, number, number, number, number]
    const leftSide = length(x0 - x3, y0 - y3)
    const rightSide = length(x1 - x2, y1 - y2)
    const topSide = length(x0 - x1, y0 - y1)
    const bottomSide = length(x2 - x3, y2 - y3)
    const side = (leftSide + rightSide) / 2
    if (Math.min(leftSide, rightSide) < LEAST_SIDE || Math.min(topSide, bottomSide) < LEAST_SIDE * 0.5) return null
    if (Math.max(topSide, bottomSide) > 1.6 * side) return null
    // The square's perspective (Heckbert, "Fundamentals of texture mapping", 1989).
    const sx = x0 - x1 + x2 - x3
    const sy = y0 - y1 + y2 - y3
    const dx1 = x1 - x2
    const dx2 = x3 - x2
    const dy1 = y1 - y2
    const dy2 = y3 - y2
    const under = dx1 * dy2 - dx2 * dy1
    if (under > -1e-9 && under < 1e-9) return null
    const g = (sx * dy2 - dx2 * sy) / under
    const h = (dx1 * sy - sx * dy1) / under
    const a = x1 - x0 + g * x1
    const b = x3 - x0 + h * x3
    const d = y1 - y0 + g * y1
    const e = y3 - y0 + h * y3
    const cells = new Float64Array(36)
    let low = Infinity
    let high = -Infinity
    for (let row = 0; row < 6; row++) {
      for (let col = 0; col < 6; col++) {
        const u = (col + 0.5) / 6
        const v = (row + 0.5) / 6
        const w = g * u + h * v + 1
        const px = Math.floor((a * u + b * v + x0) / w)
        const py = Math.floor((d * u + e * v + y0) / w)
        if (px < 0 || py < 0 || px >= width || py >= height) return null
        const value = this.bright[py * width + px]!
        cells[row * 6 + col] = value
        low = Math.min(low, value)
        high = Math.max(high, value)
      }
    }
    const middle = (low + high) / 2
    let border = 0
    let word = 0
    for (let row = 0; row < 6; row++) {
      for (let col = 0; col < 6; col++) {
        const white = cells[row * 6 + col]! > middle
        if (row === 0 || row === 5 || col === 0 || col === 5) border += white ? 0 : 1
        else if (white) word |= 1 << ((row - 1) * 4 + col - 1)
      }
    }
    if (border < LEAST_BORDER) return null
    const tag = tagOf(word)
    if (tag === null) return null
    const left = Math.min(x0, x3)
    const top = Math.min(y0, y1)
    return { tag, x: (x0 + x1 + x2 + x3) / 4, y: (y0 + y1 + y2 + y3) / 4, side, left, top, width: Math.max(x1, x2) - left, height: Math.max(y2, y3) - top }
  }
}

/** How far a tag of this height in the picture is, metres along the optical axis. */
export function tagDistance(side: number, focal: number): number {
  return TAG_SIZE * focal / side
}

function length(x: number, y: number): number { return Math.sqrt(x * x + y * y) }
