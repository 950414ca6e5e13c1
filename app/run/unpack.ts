import { readKept } from '~~/core/runs/kept'
import { LONGEST, packedIn } from '~~/core/tape'

/**
 * Reads a kept run that the server has read before. The browser itself inflates, several times as quick as our own means; what it
 * cannot make out is left to those, which say what is wrong.
 */
export async function keptOf(file: Uint8Array): Promise<ReturnType<typeof readKept>> {
  const unpacked = await inflated(file)
  return readKept(file, unpacked === null ? { rows: true } : { rows: true, unpacked })
}

/** What is deflated in a tape's bytes; null where they are none, or it is longer than a tape may be. */
async function inflated(file: Uint8Array): Promise<Uint8Array | null> {
  const parts: Uint8Array[] = []
  let length = 0
  try {
    const packed = new Blob([packedIn(file) as Uint8Array<ArrayBuffer>])
    const reader = packed.stream().pipeThrough(new DecompressionStream('deflate-raw')).getReader()
    for (;;) {
      const { done, value } = await reader.read()
      if (done) break
      length += value.length
      if (length > LONGEST) { await reader.cancel(); return null }
      parts.push(value)
    }
  } catch {
    return null
  }
  const all = new Uint8Array(length)
  let at = 0
  for (const part of parts) {
    all.set(part, at)
    at += part.length
  }
  return all
}
