import type { Vector } from '../geometry'
import type { Arena } from './arena'

/** One sound in the air: loudness as a share of the loudest that a small sensor tells apart, at half a metre. */
export interface Sound { readonly x: number, readonly y: number, readonly loudness: number, readonly until: number }

/** How loud it is somewhere. */
export interface SoundField {
  /** Loudness at a place and time (s); `own` is what the robot's body carries of its own knocks. */
  at(place: Vector, time: number): number
  /** Lets a sound begin now and last until a time (s). */
  add(sound: Sound): void
  /** A knock that the robot's body itself feels, as a share; it dies away within a tenth of a second. */
  knock(strength: number, time: number): void
  snapshot(): unknown
  restore(state: unknown): void
}

const NEAR = 0.5
/** How fast a knock dies away in the body, seconds. */
const KNOCK = 0.1

/** The sounds of an arena: its noises by their timetable, and what happens during the run. */
export function soundOf(arena: Arena): SoundField {
  let sounds: Sound[] = []
  let knock = { strength: 0, time: -Infinity }
  const loudnessAt = (place: Vector, x: number, y: number, loudness: number): number => {
    const dx = place.x - x
    const dy = place.y - y
    // Inverse square of the distance, as in the open; what is nearer than half a metre is not louder still.
    return loudness * Math.min(1, NEAR * NEAR / Math.max(1e-6, dx * dx + dy * dy))
  }
  return {
    at(place, time) {
      let level = arena.hush
      for (const n of arena.noises) {
        const since = time - n.first
        if (since < -1e-9) continue
        const within = n.every === null ? since : since % n.every
        if (within < n.lasts - 1e-9) level += loudnessAt(place, n.at[0], n.at[1], n.loudness)
      }
      for (const s of sounds) if (time < s.until) level += loudnessAt(place, s.x, s.y, s.loudness)
      const age = time - knock.time
      if (age >= 0 && age < KNOCK) level += knock.strength * (1 - age / KNOCK)
      return level
    },
    add(sound) {
      sounds = sounds.filter(s => s.until > sound.until - 10)
      sounds.push(sound)
    },
    knock(strength, time) {
      const left = knock.strength * Math.max(0, 1 - (time - knock.time) / KNOCK)
      if (strength > left) knock = { strength, time }
    },
    snapshot: () => ({ sounds: [...sounds], knock: { ...knock } }),
    restore(state) {
      const saved = state as { sounds: Sound[], knock: typeof knock }
      sounds = [...saved.sounds]
      knock = { ...saved.knock }
    },
  }
}
