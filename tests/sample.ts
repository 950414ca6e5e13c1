/**
 * A sample of what a long test goes through: `count` of `all`, evenly spread, beginning with the one at `from`.
 * All of them with `./mindpath test --whole`.
 */
export function sampled<T>(all: readonly T[], count: number, from = 0): readonly T[] {
  if (process.env['MINDPATH_WHOLE'] === '1' || count >= all.length) return all
  return Array.from({ length: count }, (_, i) => all[Math.floor((i * all.length) / count + from) % all.length]!)
}

/** How often something random is tried: so many times, and `whole` times with `./mindpath test --whole`. */
export const times = (some: number, whole: number): number => process.env['MINDPATH_WHOLE'] === '1' ? whole : some
