import { InvalidArgumentError } from 'commander'
import { connectionOf } from '../jobs/queue'
import { UsageError } from './usage'

/** A queue that does not answer for so long is not there, milliseconds. */
const PATIENCE = 5000

/** The address of a queue, checked. */
export function queueAddress(text: string): string {
  try {
    connectionOf(text)
    return text
  } catch (error) {
    throw new InvalidArgumentError((error as Error).message)
  }
}

/** Waits until a queue was reached; a usage error when it does not answer. */
export async function reached(who: { ready(): Promise<void> }, address: string): Promise<void> {
  let timer: ReturnType<typeof setTimeout> | undefined
  const late = new Promise<never>((_, reject) => { timer = setTimeout(() => reject(new UsageError(`no Redis answers at ${address}; it is Debian's package redis-server`)), PATIENCE) })
  try {
    await Promise.race([who.ready(), late])
  } finally {
    clearTimeout(timer)
  }
}
