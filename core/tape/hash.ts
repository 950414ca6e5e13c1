/**
 * A running 64-bit fingerprint of numbers to the last bit and of texts: two lanes of
 * FNV-1a (Fowler, Noll, Vo) over 32-bit words, the second with another start.
 */
export class TapeHash {
  private a = 0x811c9dc5
  private b = 0x6b43a9f3

  private word(w: number): void {
    this.a = Math.imul(this.a ^ w, 0x01000193)
    this.b = Math.imul(this.b ^ (w >>> 15 | w << 17), 0x01000193)
    this.b ^= this.a >>> 13
  }

  numbers(row: Uint32Array): void {
    for (let i = 0; i < row.length; i++) this.word(row[i]!)
  }

  text(text: string): void {
    for (let i = 0; i < text.length; i++) this.word(text.charCodeAt(i))
    this.word(0x1f)
  }

  /** Sixteen hexadecimal digits. */
  digest(): string {
    const hex = (n: number) => (n >>> 0).toString(16).padStart(8, '0')
    return hex(this.a) + hex(this.b)
  }

  snapshot(): readonly [number, number] { return [this.a, this.b] }

  restore(state: readonly [number, number]): void { [this.a, this.b] = state }
}
