/** The colours that have a name in programs and documents; a colour reading is a place in this list. */
export const COLORS = ['none', 'black', 'grey', 'white', 'red', 'orange', 'yellow', 'green', 'blue', 'violet'] as const
export type ColorName = (typeof COLORS)[number]

/** Shares of red, green and blue light. */
export type Rgb = readonly [number, number, number]

/** What paint of each colour throws back: our own choice of harbour paints. */
export const REFLECTS: Readonly<Record<ColorName, Rgb>> = {
  none: [0.1, 0.16, 0.19],
  black: [0.05, 0.05, 0.055],
  grey: [0.44, 0.43, 0.41],
  white: [0.9, 0.9, 0.87],
  red: [0.66, 0.1, 0.08],
  orange: [0.86, 0.4, 0.07],
  yellow: [0.87, 0.74, 0.06],
  green: [0.13, 0.48, 0.19],
  blue: [0.09, 0.26, 0.63],
  violet: [0.4, 0.17, 0.58],
}

/** A colour as a person names its parts: hue in radians from red, saturation and brightness as shares. */
export interface Hue { hue: number, saturation: number, brightness: number }

/** The parts of a colour, written into `into`. */
export function hueOf(rgb: Rgb, into: Hue = { hue: 0, saturation: 0, brightness: 0 }): Readonly<Hue> {
  const r = rgb[0]
  const g = rgb[1]
  const b = rgb[2]
  const high = Math.max(r, g, b)
  const low = Math.min(r, g, b)
  const spread = high - low
  const sixth = Math.PI / 3
  let hue = 0
  if (spread > 0) {
    if (high === r) hue = ((g - b) / spread + 6) % 6
    else if (high === g) hue = (b - r) / spread + 2
    else hue = (r - g) / spread + 4
  }
  into.hue = hue * sixth
  into.saturation = high > 0 ? spread / high : 0
  into.brightness = high
  return into
}
