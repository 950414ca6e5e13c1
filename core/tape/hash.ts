/**
 * A running 64-bit fingerprint of numbers to the last bit and of texts: two lanes of
 * FNV-1a (Fowler, Noll, Vo) over 32-bit words, the second with another start.
 */
export class TapeHash {
  private a = 0x811c9dc5
  private b = 0x6b43a9f3

  numbers(row: Uint32Array): void {
    // In variables of its own while it lasts: a row of the tape is hundreds of words.
    let { a, b } = this
    for (let i = 0; i < row.length; i++) {
      const w = row[i]!
      a = Math.imul(a ^ w, 0x01000193)
      b = Math.imul(b ^ (w >>> 15 | w << 17), 0x01000193) ^ a >>> 13
    }
    this.a = a
    this.b = b
  }

  text(text: string): void {
    const words = new Uint32Array(text.length + 1)
    for (let i = 0; i < text.length; i++) words[i] = text.charCodeAt(i)
    words[text.length] = 0x1f
    this.numbers(words)
  }

  /** Sixteen hexadecimal digits. */
  digest(): string {
    const hex = (n: number) => (n >>> 0).toString(16).padStart(8, '0')
    return hex(this.a) + hex(this.b)
  }

  snapshot(): readonly [number, number] { return [this.a, this.b] }

  restore(state: readonly [number, number]): void { [this.a, this.b] = state }
}
