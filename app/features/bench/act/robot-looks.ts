import type { Robot } from '~~/core/robot'
import type { RobotLooks } from './picture'

/** A robot as the stage draws it. What sits on a joint is drawn with the moving parts. */
export function robotLooks(robot: Robot): RobotLooks {
  const { chassis, drive } = robot
  return {
    length: chassis.length, width: chassis.width, height: chassis.height, clearance: chassis.clearance,
    wheel: drive === null ? null : { radius: drive.radius, width: drive.width, track: drive.track, forward: drive.forward },
    devices: robot.devices.map((d) => {
      const pad = d.kind.parts?.(d.parameters).find(p => p.pad)?.shape
      return {
        name: d.name, kind: d.kind.kind, onChassis: d.on === null, forward: d.mount.forward, left: d.mount.left, up: d.mount.up + robot.height, yaw: d.mount.yaw, pitch: d.mount.pitch,
        cone: 'cone' in d.parameters ? d.parameters.cone as number : null,
        glass: d.kind.kind === 'display' ? (d.parameters as { width: number }).width : null,
        pad: pad?.shape === 'box' ? { width: pad.hy * 2, height: pad.hz * 2 } : null,
      }
    }),
  }
}
