import colors from 'color-string'
import { COLORS, REFLECTS, hueOf, type ColorName, type Rgb } from '../../colors'

/** A share of light as screens write it, 0 to 1: brightness goes with about the square of the number (sRGB: nearer to its 2.2th power). */
const onScreen = (paint: ColorName): Rgb => REFLECTS[paint].map(Math.sqrt) as unknown as Rgb
/** Less saturated than this has no tint; darker and brighter than these it is black and white. */
const TINTED = 0.22
const DARK = 0.32
const BRIGHT = 0.82
const TINTS = COLORS.filter(c => !['none', 'black', 'grey', 'white'].includes(c))

/** A paint as SVG writes it: "#dba553". */
export function hexOf(paint: ColorName): string {
  return colors.to.hex(...onScreen(paint).map(c => Math.round(255 * c)) as [number, number, number]) ?? '#000000'
}

/** The paint most like a colour of CSS; null for none, for what is no colour, and for what one sees through. */
export function paintOf(color: string): ColorName | null {
  const value = colors.get.rgb(color)
  if (value === null || (value[3] ?? 1) < 0.05) return null
  const [r, g, b] = value as [number, number, number]
  const { hue, saturation, brightness } = hueOf([r / 255, g / 255, b / 255])
  if (saturation < TINTED || brightness < DARK / 2) return brightness < DARK ? 'black' : brightness < BRIGHT ? 'grey' : 'white'
  const off = (paint: ColorName): number => {
    const by = Math.abs(hueOf(onScreen(paint)).hue - hue)
    return Math.min(by, 2 * Math.PI - by)
  }
  return TINTS.reduce((best, c) => off(c) < off(best) ? c : best)
}
