import { fromBase64, toBase64 } from '../base64'
import { fromByte } from '../vision'

/** A picture for a display: dots that are lit or not. */
export interface RobotPicture {
  readonly name: string
  /** Dots across and down. */
  readonly size: readonly [number, number]
  /** Rows from the top, each filled up to whole bytes, the left dot first; as base64. */
  readonly dots: string
}

/** The largest picture, dots either way. */
export const LARGEST_PICTURE = 256

const rowBytes = (width: number): number => Math.ceil(width / 8)

/** Whether each dot is lit, row by row from the top. null where the text is no picture of that size. */
export function dotsOf({ size: [width, height], dots }: Pick<RobotPicture, 'size' | 'dots'>): Uint8Array | null {
  const bytes = fromBase64(dots)
  if (bytes?.length !== rowBytes(width) * height) return null
  return Uint8Array.from({ length: width * height }, (_, i) => {
    const x = i % width
    return bytes[Math.floor(i / width) * rowBytes(width) + (x >> 3)]! >> (7 - x % 8) & 1
  })
}

/**
 * Reduces a picture to a display's dots: as large as fits, its shape kept, greys as a pattern of dots (error diffusion after
 * Floyd and Steinberg 1976). `pixels`: red, green, blue and opacity, a byte each (sRGB); what is transparent stays dark.
 */
export function reduced(name: string, pixels: Uint8ClampedArray, width: number, height: number, room: readonly [number, number]): RobotPicture {
  const shrink = Math.max(width / room[0], height / room[1], 1)
  const across = Math.max(1, Math.floor(width / shrink + 1e-9))
  const down = Math.max(1, Math.floor(height / shrink + 1e-9))
  const light = shrunk(pixels, width, height, across, down)
  const bytes = new Uint8Array(rowBytes(across) * down)
  for (let y = 0; y < down; y++) {
    for (let x = 0; x < across; x++) {
      const wanted = light[y * across + x]!
      const lit = wanted >= 0.5
      if (lit) bytes[y * rowBytes(across) + (x >> 3)]! |= 128 >> x % 8
      const error = wanted - (lit ? 1 : 0)
      const give = (dx: number, dy: number, share: number): void => {
        if (x + dx >= 0 && x + dx < across && y + dy < down) light[(y + dy) * across + x + dx]! += error * share
      }
      give(1, 0, 7 / 16)
      give(-1, 1, 3 / 16)
      give(0, 1, 5 / 16)
      give(1, 1, 1 / 16)
    }
  }
  return { name, size: [across, down], dots: toBase64(bytes) }
}

/** How bright each of the fewer dots is, 0 to 1: the mean of what lies in it. Bytes stand for brightness as the eye has it; lit dots add up as light. */
function shrunk(pixels: Uint8ClampedArray, width: number, height: number, across: number, down: number): Float64Array {
  const light = new Float64Array(across * down)
  for (let y = 0; y < down; y++) {
    for (let x = 0; x < across; x++) {
      const [x0, x1] = [Math.floor(x * width / across), Math.max(Math.floor(x * width / across) + 1, Math.floor((x + 1) * width / across))]
      const [y0, y1] = [Math.floor(y * height / down), Math.max(Math.floor(y * height / down) + 1, Math.floor((y + 1) * height / down))]
      let sum = 0
      for (let v = y0; v < y1; v++) {
        for (let u = x0; u < x1; u++) {
          const at = 4 * (v * width + u)
          sum += (0.2126 * fromByte(pixels[at]!) + 0.7152 * fromByte(pixels[at + 1]!) + 0.0722 * fromByte(pixels[at + 2]!)) * pixels[at + 3]! / 255
        }
      }
      light[y * across + x] = sum / ((x1 - x0) * (y1 - y0))
    }
  }
  return light
}
