import type { DeviceStep, StepPlan } from './device'
import { clause, device, kept, value, word } from './form'
import { aim, jointPlaces } from './joint'

/** A gesture slower than this share of its own speed would never end. */
const SLOWEST = 0.05

/** Steps that are of no one device: waiting for a fresh look, and gestures. */

const look: DeviceStep = {
  form: { id: 'look', parts: [word('look'), device('device')], mayLast: false, summary: 'wait until a device has looked anew', example: 'look sonar' },
  needs: [],
  moves: () => [],
  plan(slots, robot): StepPlan {
    const first = robot.firstReading(slots.get('device')!.word!)
    return {
      timing: 'timed', cells: 1,
      begin(m, at) { m.cells[at] = m.tick; return true },
      apply: () => undefined,
      done: (m, at) => m.began[first]! > m.cells[at]!,
    }
  },
}

const perform: DeviceStep = {
  form: { id: 'perform', parts: [word('perform'), kept('gesture', 'gesture'), clause(word('at'), value('speed', 'share'))], mayLast: false, summary: 'play a kept series of joint poses', example: 'perform wave at 150 %' },
  needs: ['joint', 'slide'],
  moves(slots, robot) {
    const gesture = robot.gesture(slots.get('gesture')!.word!)
    return [...new Set(gesture?.poses.flatMap(p => Object.keys(p.joints)) ?? [])]
  },
  plan(slots, robot): StepPlan {
    const { poses } = robot.gesture(slots.get('gesture')!.word!)!
    const series = poses.map(p => ({ after: p.after, joints: Object.entries(p.joints).map(([name, to]) => ({ j: jointPlaces(name, robot), to })) }))
    const joints = [...new Map(series.flatMap(p => p.joints).map(({ j }) => [j.name, j])).values()]
    const speed = slots.get('speed')?.value ?? (() => 1)
    // Cells: tick of the beginning, number of the next pose, how many times its own speed.
    return {
      timing: 'timed', cells: 3,
      begin(m, at) {
        m.cells[at] = m.tick
        m.cells[at + 1] = 0
        m.cells[at + 2] = Math.max(SLOWEST, speed(m))
        return series.length > 0
      },
      apply(m, at) {
        for (let next = m.cells[at + 1]!; next < series.length; next = m.cells[at + 1]!) {
          const pose = series[next]!
          if ((m.tick - m.cells[at]!) * m.dt * m.cells[at + 2]! < pose.after - 1e-9) return
          for (const { j, to } of pose.joints) {
            // As fast as it must go to be there when the next pose is due.
            const time = ((series[next + 1]?.after ?? pose.after) - pose.after) / m.cells[at + 2]!
            const way = Math.abs(to - m.raw[j.at]!)
            aim(m, j, to, time > 0 ? Math.min(j.parameters.speed, Math.max(way / time, 0.02 * j.parameters.speed)) : j.parameters.speed)
          }
          m.cells[at + 1] = next + 1
        }
      },
      done: (m, at) => m.cells[at + 1] === series.length && m.tick > m.cells[at]! + 1 && joints.every(j => m.raw[j.moving] === 0),
    }
  },
}

export const otherSteps: readonly DeviceStep[] = [look, perform]
