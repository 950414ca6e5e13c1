/** One pixel, by bytes and as a word. */
const BYTES = Uint8ClampedArray.of(0, 0, 0, 255)
const WORD = new Uint32Array(BYTES.buffer)

/** A picture: rows from the top, four bytes a pixel (red, green, blue, 255). */
export class Picture {
  readonly pixels: Uint8ClampedArray
  /** The same, a word a pixel. */
  readonly words: Uint32Array
  /** One over the distance along the optical axis, per pixel; 0 for the sky. */
  readonly depth: Float32Array

  constructor(readonly width: number, readonly height: number) {
    this.pixels = new Uint8ClampedArray(width * height * 4).fill(255)
    this.words = new Uint32Array(this.pixels.buffer)
    this.depth = new Float32Array(width * height)
  }

  /** A colour, each part from 0 to 255, as a word of `words`. */
  wordOf(red: number, green: number, blue: number): number {
    BYTES[0] = red
    BYTES[1] = green
    BYTES[2] = blue
    return WORD[0]!
  }
}

/** A share of light as a byte: square root, near enough to what screens expect. */
export const toByte = (share: number): number => 255 * Math.sqrt(share < 0 ? 0 : share > 1 ? 1 : share)
/** The share of light that a byte stands for. */
export const fromByte = (byte: number): number => byte / 255 * (byte / 255)

/** A pinhole lens: where it is, which way it looks (orthonormal, in the world), and pixels per unit of slope. */
export interface Lens {
  readonly ox: number, readonly oy: number, readonly oz: number
  readonly fx: number, readonly fy: number, readonly fz: number
  readonly lx: number, readonly ly: number, readonly lz: number
  readonly ux: number, readonly uy: number, readonly uz: number
  readonly focal: number
}
