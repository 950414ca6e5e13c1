import { object } from 'yup'
import { plainNumber, quantity, text } from '../document'
import { yawQuaternion, type Pose } from '../geometry'
import { defineDevice, type DeviceModel, type DevicePart } from './device'

/** Parts without a motor: they meet things and say nothing. */

const nothing: DeviceModel = { beam: null, look: () => undefined, snapshot: () => null, restore: () => undefined }

const at = (x: number, y: number, z: number): Pose => ({ position: { x, y, z }, rotation: yawQuaternion(0) })

function board(hx: number, hy: number, hz: number, pose: Pose, friction: number): DevicePart {
  return { shape: { shape: 'box', hx, hy, hz }, pose, friction, pad: false, onLink: false }
}

const size = (usual: number) => quantity('length', { min: 0.001, max: 1 }).default(usual)
const friction = () => plainNumber().min(0).max(2)

const plateSchema = object({ length: size(0.004), width: size(0.15), height: size(0.05), friction: friction().default(0.3) })

/** A plate about its mount: a plough, a rail, a pusher; slanted by the mount's facing and tilt. */
export const plate = defineDevice({
  kind: 'plate',
  title: 'plate',
  port: null,
  schema: plateSchema,
  takesTurns: false,
  readings: () => [],
  timing: () => ({ period: 0, latency: 0 }),
  parts: p => [board(p.length / 2, p.width / 2, p.height / 2, at(0, 0, 0), p.friction)],
  create: () => nothing,
})

const binSchema = object({
  length: size(0.1), width: size(0.1), height: size(0.05), wall: quantity('length', { min: 0.001, max: 0.05 }).default(0.003),
  open: text().oneOf(['top', 'front'], 'allowed is top (a tray) or front (a pen without floor that things are driven into)').default('top'),
  friction: friction().default(0.5),
})

/** Boards about its mount that hold what is in them: open above, or in front and below. */
export const bin = defineDevice({
  kind: 'bin',
  title: 'bin',
  port: null,
  schema: binSchema,
  takesTurns: false,
  readings: () => [],
  timing: () => ({ period: 0, latency: 0 }),
  problem: p => 2 * p.wall < Math.min(p.length, p.width) ? null : { path: 'wall', value: `${p.wall} m`, message: `the boards would fill it; allowed is less than half of its length and width, ${Math.min(p.length, p.width) / 2} m` },
  parts: p => {
    const t = p.wall / 2
    const side = (y: number) => board(p.length / 2, t, p.height / 2, at(0, y, 0), p.friction)
    const across = (x: number) => board(t, p.width / 2 - p.wall, p.height / 2, at(x, 0, 0), p.friction)
    const boards = [side(p.width / 2 - t), side(t - p.width / 2), across(t - p.length / 2)]
    if (p.open === 'front') return boards
    return [...boards, across(p.length / 2 - t), board(p.length / 2 - p.wall, p.width / 2 - p.wall, t, at(0, 0, t - p.height / 2), p.friction)]
  },
  create: () => nothing,
})
