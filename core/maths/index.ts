/**
 * Functions whose last bit differs between JavaScript engines, computed here from
 * additions, multiplications, divisions and square roots only. IEEE 754 fixes the
 * result of each of those to the bit, so these agree everywhere.
 *
 * Accuracy: within 2 units in the last place of the true value for arguments up to
 * 1e6 in size (tests/unit/maths.test.ts compares them with the engine's own).
 */

/** π/2 in two parts (Cody and Waite): the first has 33 significant bits, so `n * HALF_PI_HIGH` is exact for |n| < 2^20. */
const HALF_PI_HIGH = 1.57079632673412561417
const HALF_PI_LOW = 6.07710050650619224932e-11
/** ln 2 in two parts, for the same reason. */
const LN2_HIGH = 6.93147180369123816490e-1
const LN2_LOW = 1.90821492927058770002e-10

/** Sum of the Taylor series of sine for |x| <= π/4; the first term left out is below 1e-19. */
function sineSeries(x: number): number {
  const z = x * x
  let sum = 0
  for (let n = 19; n >= 3; n -= 2) sum = (1 + sum) * (-z / (n * (n - 1)))
  return x + x * sum
}

/** Sum of the Taylor series of cosine for |x| <= π/4; the first term left out is below 1e-19. */
function cosineSeries(x: number): number {
  const z = x * x
  let sum = 0
  for (let n = 18; n >= 4; n -= 2) sum = (1 + sum) * (-z / (n * (n - 1)))
  return 1 - z / 2 - (z / 2) * sum
}

/** The whole number of right angles nearest to an angle, and what is left of it beside those. */
const rightAngles = (x: number): number => Math.round(x / (HALF_PI_HIGH + HALF_PI_LOW))
const rest = (x: number, n: number): number => (x - n * HALF_PI_HIGH) - n * HALF_PI_LOW

/** Sine of an angle in radians. NaN where the argument is not finite. */
export function sin(x: number): number {
  if (!Number.isFinite(x)) return NaN
  const n = rightAngles(x)
  const left = rest(x, n)
  switch (((n % 4) + 4) % 4) {
    case 0: return sineSeries(left)
    case 1: return cosineSeries(left)
    case 2: return -sineSeries(left)
    default: return -cosineSeries(left)
  }
}

/** Cosine of an angle in radians. NaN where the argument is not finite. */
export function cos(x: number): number {
  if (!Number.isFinite(x)) return NaN
  const n = rightAngles(x)
  const left = rest(x, n)
  switch (((n % 4) + 4) % 4) {
    case 0: return cosineSeries(left)
    case 1: return -sineSeries(left)
    case 2: return -cosineSeries(left)
    default: return sineSeries(left)
  }
}

/** Tangent of an angle in radians. */
export function tan(x: number): number {
  return sin(x) / cos(x)
}

/** atan of k/8 for k = 0..8, correctly rounded: the anchors of the arctangent. */
const ATAN_EIGHTHS = [
  0, 0.12435499454676143503, 0.24497866312686415417, 0.35877067027057222040,
  0.46364760900080611621, 0.55859931534356243597, 0.64350110879328438680,
  0.71882999962162450542, 0.78539816339744830962,
]

/** Arctangent for 0 <= t <= 1: the nearest anchor, then the series of what is left (|u| <= 1/16). */
function atanUnit(t: number): number {
  const k = Math.round(t * 8)
  const anchor = k / 8
  const u = (t - anchor) / (1 + t * anchor)
  const z = u * u
  let sum = 0
  for (let n = 15; n >= 3; n -= 2) sum = z * (1 / n - sum)
  return ATAN_EIGHTHS[k]! + (u - u * sum)
}

/** Angle of the point (x, y) from the x axis, radians in (-π, π]; 0 for the origin. */
export function atan2(y: number, x: number): number {
  const ax = Math.abs(x)
  const ay = Math.abs(y)
  if (!(ax > 0 || ay > 0)) return Number.isNaN(x) || Number.isNaN(y) ? NaN : 0
  let angle: number
  if (ax === Infinity && ay === Infinity) angle = Math.PI / 4
  else angle = ay <= ax ? atanUnit(ay / ax) : Math.PI / 2 - atanUnit(ax / ay)
  if (x < 0) angle = Math.PI - angle
  return y < 0 ? -angle : angle
}

/** Arcsine in radians of a value clamped to [-1, 1]. */
export function asin(x: number): number {
  const s = x < -1 ? -1 : x > 1 ? 1 : x
  return atan2(s, Math.sqrt((1 - s) * (1 + s)))
}

/** Arccosine in radians of a value clamped to [-1, 1]. */
export function acos(x: number): number {
  const s = x < -1 ? -1 : x > 1 ? 1 : x
  return atan2(Math.sqrt((1 - s) * (1 + s)), s)
}

/** 2 to the power of a whole number, by squaring: exact. */
function powerOfTwo(n: number): number {
  let result = 1
  let base = n < 0 ? 0.5 : 2
  for (let k = Math.abs(n); k > 0; k = Math.floor(k / 2)) {
    if (k % 2 === 1) result *= base
    base *= base
  }
  return result
}

/** e to the power x; Infinity above 709.78, 0 below -745. */
export function exp(x: number): number {
  if (Number.isNaN(x)) return NaN
  if (x > 709.782712893384) return Infinity
  if (x < -745.2) return 0
  const n = Math.round(x / (LN2_HIGH + LN2_LOW))
  const r = (x - n * LN2_HIGH) - n * LN2_LOW
  let sum = 1
  for (let k = 14; k >= 1; k--) sum = 1 + (r / k) * sum
  const half = Math.trunc(n / 2)
  return sum * powerOfTwo(half) * powerOfTwo(n - half)
}

/** Natural logarithm; -Infinity at 0, NaN below. */
export function log(x: number): number {
  if (Number.isNaN(x) || x < 0) return NaN
  if (x === 0) return -Infinity
  if (x === Infinity) return Infinity
  let mantissa = x
  let exponent = 0
  while (mantissa > Math.SQRT2) { mantissa /= 2; exponent++ }
  while (mantissa < Math.SQRT1_2) { mantissa *= 2; exponent-- }
  // ln m = 2 artanh((m - 1) / (m + 1)); |s| <= 0.172, so the first term left out is below 1e-19.
  const s = (mantissa - 1) / (mantissa + 1)
  const z = s * s
  let sum = 0
  for (let n = 23; n >= 3; n -= 2) sum = z * (1 / n + sum)
  return exponent * LN2_HIGH + (2 * (s + s * sum) + exponent * LN2_LOW)
}

/** Limits a value to [low, high]. */
export function clamp(value: number, low: number, high: number): number {
  return value < low ? low : value > high ? high : value
}

/** The same angle in (-π, π]. */
export function wrapAngle(angle: number): number {
  const turns = Math.round(angle / (2 * Math.PI))
  const wrapped = angle - turns * 2 * Math.PI
  return wrapped <= -Math.PI ? wrapped + 2 * Math.PI : wrapped
}

/** With what all falls, m/s². */
export const GRAVITY = 9.81
