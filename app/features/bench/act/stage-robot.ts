import * as THREE from 'three'
import type { RobotFacts } from '~~/core/robot'
import type { TapeLayout } from '~~/core/tape'
import { deviceColor } from '~/shown/readings'
import { Glass } from '~/shown/screen'
import type { Beside, RobotLooks } from './picture'
import type { Meshes } from './stage-meshes'

/** The robot's body as it stands: hull, wheels, what is mounted on it, and what its displays show. */
export class StageRobot {
  readonly group = new THREE.Group()
  private readonly wheels: THREE.Object3D[] = []
  private readonly glasses: { readonly name: string, readonly glass: Glass, readonly texture: THREE.Texture }[] = []
  private readonly pads = new Map<string, THREE.MeshLambertMaterial>()

  constructor(private readonly meshes: Meshes) {}

  private clear(): void {
    this.group.clear()
    this.wheels.length = 0
    this.pads.clear()
    this.glasses.length = 0
  }

  build(looks: RobotLooks, facts: RobotFacts): void {
    this.clear()
    const middle = looks.clearance + looks.height / 2
    const hullGeometry = new THREE.BoxGeometry(looks.length, looks.width, looks.height)
    const { meshes } = this
    const hull = meshes.mesh(hullGeometry, meshes.lambert('hull'))
    hull.add(meshes.edges(hullGeometry, 'tyre'))
    this.group.add(hull)
    // Which way is forward, on its back.
    const arrow = new THREE.Shape()
    arrow.moveTo(0.03, 0)
    arrow.lineTo(-0.02, 0.024)
    arrow.lineTo(-0.02, -0.024)
    const nose = meshes.mesh(new THREE.ShapeGeometry(arrow), new THREE.MeshBasicMaterial({ color: meshes.color('tyre') }))
    nose.position.set(-0.01, 0, looks.height / 2 + 0.001)
    this.group.add(nose)
    const { wheel } = looks
    if (wheel !== null) {
      for (const side of [1, -1]) {
        const rim = new THREE.Group()
        rim.add(meshes.mesh(new THREE.CylinderGeometry(wheel.radius, wheel.radius, wheel.width, 22), meshes.lambert('tyre')))
        const spoke = meshes.mesh(new THREE.BoxGeometry(wheel.radius * 1.5, wheel.width * 1.05, wheel.radius * 0.25), meshes.lambert('hull'))
        rim.add(spoke)
        rim.position.set(wheel.forward, side * wheel.track / 2, wheel.radius - middle)
        this.wheels.push(rim)
        this.group.add(rim)
      }
    }
    for (const device of looks.devices.filter(d => d.onChassis)) {
      if (device.glass !== null) this.buildGlass(device, device.glass, middle, facts)
      const material = meshes.lambert(deviceColor(facts, device.name))
      const size = device.pad === null ? [0.018, 0.026, 0.018] as const : [0.012, device.pad.width, device.pad.height] as const
      const part = meshes.mesh(new THREE.BoxGeometry(...size), material)
      part.position.set(device.forward, device.left, device.up - middle)
      part.rotation.z = device.yaw
      if (device.pad !== null) this.pads.set(device.name, material)
      this.group.add(part)
    }
  }

  /** A display lies above its place and reads well for who stands behind the robot. */
  private buildGlass(device: RobotLooks['devices'][number], width: number, middle: number, facts: RobotFacts): void {
    const { meshes } = this
    const glass = new Glass(facts.devices.find(d => d.name === device.name)!, facts.pictures)
    const texture = new THREE.CanvasTexture(glass.canvas)
    texture.colorSpace = THREE.SRGBColorSpace
    meshes.keep(texture)
    const plane = meshes.mesh(new THREE.PlaneGeometry(width, width * glass.canvas.height / glass.canvas.width), new THREE.MeshBasicMaterial({ map: texture, side: THREE.DoubleSide }))
    plane.position.set(device.forward, device.left, device.up - middle + 0.011)
    plane.rotation.z = device.yaw - Math.PI / 2
    this.group.add(plane)
    this.glasses.push({ name: device.name, glass, texture })
  }

  /** As it is in a row of the tape. */
  show(row: Float64Array, layout: TapeLayout, facts: RobotFacts, screenOf: Beside['screenOf']): void {
    const { color } = this.meshes
    for (const { name, glass, texture } of this.glasses) if (glass.show(screenOf(name), color('bar'), color('on-bar'))) texture.needsUpdate = true
    const b = layout.body
    this.group.position.set(row[b]!, row[b + 1]!, row[b + 2]!)
    this.group.quaternion.set(row[b + 3]!, row[b + 4]!, row[b + 5]!, row[b + 6]!)
    this.wheels.forEach((wheel, i) => { wheel.rotation.y = row[layout.wheels + i]! })
    for (const [name, material] of this.pads) {
      const device = facts.devices.find(d => d.name === name)
      const pressed = device !== undefined && row[layout.readings + device.first] === 1
      material.emissive.set(pressed ? color('signal') : '#000000')
    }
  }
}
