/** Least squares by Gauss and Newton, with differences for derivatives: few parameters, and a start that is near. */

/** What was found, and how far each may be off (standard error). null where the data say nothing of one of them. */
export interface Solved { readonly values: readonly number[], readonly errors: readonly number[] }

const ROUNDS = 25
/** Parameters are shares and metres: this far apart their differences are taken. */
const STEP = 1e-6

export function leastSquares(start: readonly number[], residuals: (values: readonly number[]) => readonly number[]): Solved | null {
  let values = [...start]
  let inverse: readonly (readonly number[])[] | null = null
  for (let round = 0; round < ROUNDS; round++) {
    const at = residuals(values)
    const slopes = values.map((_, k) => {
      const moved = residuals(values.map((v, i) => i === k ? v + STEP : v))
      return moved.map((r, i) => (r - at[i]!) / STEP)
    })
    const normal = slopes.map(a => slopes.map(b => dot(a, b)))
    inverse = inverted(normal)
    if (inverse === null) return null
    const down = slopes.map(a => dot(a, at))
    const step = inverse.map(row => dot(row, down))
    values = values.map((v, k) => v - step[k]!)
    if (step.every(s => Math.abs(s) < 1e-12)) break
  }
  const left = residuals(values)
  const spare = left.length - values.length
  const variance = spare > 0 ? dot(left, left) / spare : 0
  return values.every(Number.isFinite) ? { values, errors: inverse!.map((row, k) => Math.sqrt(Math.max(0, row[k]! * variance))) } : null
}

export const square = (x: number): number => x * x
const dot = (a: readonly number[], b: readonly number[]): number => a.reduce((sum, x, i) => sum + x * b[i]!, 0)

/** By Gauss and Jordan with pivots; null where there is none. */
function inverted(matrix: readonly (readonly number[])[]): readonly (readonly number[])[] | null {
  const n = matrix.length
  const rows = matrix.map((row, i) => [...row, ...row.map((_, k) => i === k ? 1 : 0)])
  for (let c = 0; c < n; c++) {
    let pivot = c
    for (let r = c + 1; r < n; r++) if (Math.abs(rows[r]![c]!) > Math.abs(rows[pivot]![c]!)) pivot = r
    const found = rows[pivot]!
    if (Math.abs(found[c]!) < 1e-15) return null
    ;[rows[pivot], rows[c]] = [rows[c]!, found]
    const scale = found[c]!
    for (let k = 0; k < 2 * n; k++) found[k] = found[k]! / scale
    for (let r = 0; r < n; r++) {
      const factor = rows[r]![c]!
      if (r === c || factor === 0) continue
      for (let k = 0; k < 2 * n; k++) rows[r]![k] = rows[r]![k]! - factor * found[k]!
    }
  }
  return rows.map(row => row.slice(n))
}
