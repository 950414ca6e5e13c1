import { cos, log } from '../maths'

/** The greatest seed: seeds are whole numbers from 0 on, 32 bits. */
export const LAST_SEED = 0xffff_ffff

/** A stream's whole state: four unsigned 32-bit numbers, plain data. */
export type StreamState = [number, number, number, number]

/**
 * A stream of random numbers that belongs to one user (`noise/sonar`, `scatter/wood`,
 * `program/main`): what one draws never moves another's. The generator is xoshiro128**
 * (Blackman and Vigna, "Scrambled linear pseudorandom number generators", 2021).
 */
export class RandomStream {
  private readonly state: StreamState

  /** `deviation` is that of what `normal` draws. */
  constructor(state: StreamState, private readonly deviation = 1) {
    this.state = [...state]
  }

  /** The stream of that name under that seed. */
  static named(seed: number, name: string, deviation = 1): RandomStream {
    return new RandomStream(seededState(seed, name), deviation)
  }

  /** From now on it draws what the stream of that name under that seed draws. */
  beginAnew(seed: number, name: string): void { this.restore(seededState(seed, name)) }

  snapshot(): StreamState {
    return [...this.state]
  }

  restore(state: StreamState): void {
    for (let i = 0; i < 4; i++) this.state[i] = state[i]!
  }

  /** The next 32 random bits, as an unsigned number. */
  bits(): number {
    const s = this.state
    const x = Math.imul(s[1], 5)
    const result = Math.imul((x << 7) | (x >>> 25), 9) >>> 0
    const shifted = s[1] << 9
    s[2] ^= s[0]
    s[3] ^= s[1]
    s[1] ^= s[2]
    s[0] ^= s[3]
    s[2] ^= shifted
    s[3] = (s[3] << 11) | (s[3] >>> 21)
    return result
  }

  /** Uniform in [0, 1), 53 bits. */
  unit(): number {
    return ((this.bits() >>> 5) * 67108864 + (this.bits() >>> 6)) / 9007199254740992
  }

  /** Uniform between the two bounds, whichever is larger. */
  between(a: number, b: number): number {
    return a + (b - a) * this.unit()
  }

  /** Normal with mean 0 and the stream's deviation (Box and Muller, 1958); always two draws. */
  normal(): number {
    const u = 1 - this.unit()
    const v = this.unit()
    return this.deviation * Math.sqrt(-2 * log(u)) * cos(2 * Math.PI * v)
  }

  /** True with that probability (0 to 1). */
  chance(probability: number): boolean {
    return this.unit() < probability
  }
}

/** Spreads a seed and a name over a state; never all zero. FNV-1a over the name, then a multiplicative finaliser. */
function seededState(seed: number, name: string): StreamState {
  let hash = 0x811c9dc5 ^ (seed | 0)
  for (let i = 0; i < name.length; i++) hash = Math.imul(hash ^ name.charCodeAt(i), 0x01000193)
  hash ^= Math.floor(seed / 4294967296)
  const state: StreamState = [0, 0, 0, 0]
  for (let i = 0; i < 4; i++) {
    hash = (hash + 0x9e3779b9) | 0
    let mixed = hash
    mixed = Math.imul(mixed ^ (mixed >>> 16), 0x85ebca6b)
    mixed = Math.imul(mixed ^ (mixed >>> 13), 0xc2b2ae35)
    state[i] = (mixed ^ (mixed >>> 16)) | 0
  }
  if (state.every(part => part === 0)) state[0] = 1
  return state
}
