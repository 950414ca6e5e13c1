import type { Robot } from '~~/core/robot'
import type { RobotLooks } from './picture'

/** A robot as the stage draws it. */
export function robotLooks(robot: Robot): RobotLooks {
  const { chassis, drive } = robot
  return {
    length: chassis.length, width: chassis.width, height: chassis.height, clearance: chassis.clearance,
    wheel: { radius: drive.radius, width: drive.wheelWidth, track: drive.track, forward: drive.forward },
    devices: robot.devices.map(d => ({
      name: d.name, kind: d.kind.kind, forward: d.mount.forward, left: d.mount.left, up: d.mount.up + drive.height, yaw: d.mount.yaw,
      cone: 'cone' in d.parameters ? d.parameters.cone as number : null,
      pad: d.kind.pad?.(d.parameters) ?? null,
    })),
  }
}
