import { existsSync, readFileSync } from 'node:fs'

/** Where Linux counts its processors' time; the eighth figure is what the host gave to others meanwhile (proc(5), `steal`). */
const STAT = '/proc/stat'
const STOLEN = 7

function counted(): { readonly all: number, readonly stolen: number } {
  const figures = (readFileSync(STAT, 'utf8').split('\n')[0] ?? '').split(/\s+/).slice(1, 9).map(Number)
  return { all: figures.reduce((sum, x) => sum + x, 0), stolen: figures[STOLEN] ?? 0 }
}

/** Does a piece of work, and says on the standard error which share of its time a virtual machine's host gave to others: times are that much too long. Nothing where nobody counts it. */
export async function watched(work: () => Promise<void>): Promise<void> {
  if (!existsSync(STAT)) return work()
  const before = counted()
  await work()
  const after = counted()
  const share = (after.stolen - before.stolen) / Math.max(1, after.all - before.all)
  if (share >= 0.01) process.stderr.write(`  meanwhile this machine's host gave ${(share * 100).toFixed(0)} % of its time to others\n`)
}
