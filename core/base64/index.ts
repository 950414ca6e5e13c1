/** Bytes as text and back (RFC 4648, section 4). */

const DIGITS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'

/** null where a sign is none of the alphabet; padding may be left out. */
export function fromBase64(text: string): Uint8Array | null {
  const plain = text.replace(/=+$/, '')
  const bytes = new Uint8Array(Math.floor(plain.length * 3 / 4))
  let word = 0
  let bits = 0
  let at = 0
  for (const sign of plain) {
    const digit = DIGITS.indexOf(sign)
    if (digit === -1) return null
    word = (word << 6 | digit) & 0xffffff
    bits += 6
    if (bits >= 8) {
      bits -= 8
      bytes[at++] = word >> bits & 255
    }
  }
  return bytes
}

export function toBase64(bytes: Uint8Array): string {
  const parts: string[] = []
  for (let at = 0; at < bytes.length; at += 3) {
    const word = bytes[at]! << 16 | (bytes[at + 1] ?? 0) << 8 | (bytes[at + 2] ?? 0)
    const count = Math.min(3, bytes.length - at)
    parts.push(DIGITS[word >> 18]! + DIGITS[word >> 12 & 63]! + (count > 1 ? DIGITS[word >> 6 & 63]! : '=') + (count > 2 ? DIGITS[word & 63]! : '='))
  }
  return parts.join('')
}
