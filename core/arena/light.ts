import { Ray, type Scene, type Vector } from '../geometry'
import type { Arena } from './arena'

/** How bright it is somewhere. Shares of a well-lit room: 1 is bright daylight indoors. */
export interface LightField {
  /** Light from everywhere, at a time (s). */
  ambient(time: number): number
  /** Light that falls on a small flat thing at a place with a direction, lamps and their shadows included. */
  at(place: Vector, facing: Vector, time: number, scene: Scene): number
}

/** What a lamp gives at this distance is its brightness, metres. */
const LAMP_AT = 0.5

/** The light of an arena: its ambient level with its changes, and its lamps while they are on. */
export function lightOf(arena: Arena): LightField {
  const ray = new Ray()
  const ambient = (time: number): number => {
    let level = arena.light.level
    for (const change of arena.light.changes) if (time >= change.at - 1e-9) level = change.level
    return level
  }
  return {
    ambient,
    at(place, facing, time, scene) {
      let level = ambient(time)
      for (const lamp of arena.lamps) {
        if (!isOn(lamp.on, time)) continue
        const dx = lamp.at[0] - place.x
        const dy = lamp.at[1] - place.y
        const dz = lamp.up - place.z
        const far = Math.sqrt(dx * dx + dy * dy + dz * dz)
        if (far < 1e-6) { level += lamp.brightness; continue }
        const towards = (dx * facing.x + dy * facing.y + dz * facing.z) / far
        if (towards <= 0) continue
        ray.from(place.x, place.y, place.z).along(dx / far, dy / far, dz / far).reach = far - 1e-4
        if (scene.cast(ray)) continue
        // Inverse square, capped near the lamp; Lambert's cosine.
        const near = Math.max(far, 0.05)
        level += lamp.brightness * towards * (LAMP_AT * LAMP_AT) / (near * near)
      }
      return level
    },
  }
}

/** Whether a timetable has it on; one without entries is always on. */
export function isOn(times: readonly { readonly from: number, readonly to: number }[], time: number): boolean {
  return times.length === 0 || times.some(t => time >= t.from - 1e-9 && time < t.to - 1e-9)
}
