import * as THREE from 'three'
import type { SolidShape } from '~~/core/geometry'

/** A solid about its own middle; cylinders stand. */
export const geometryOf = (shape: SolidShape): THREE.BufferGeometry => shape.shape === 'box'
  ? new THREE.BoxGeometry(2 * shape.hx, 2 * shape.hy, 2 * shape.hz)
  : shape.shape === 'ball' ? new THREE.SphereGeometry(shape.radius, 28, 18) : new THREE.CylinderGeometry(shape.radius, shape.radius, 2 * shape.hz, 28).rotateX(Math.PI / 2)

/** Makes what a picture consists of, and frees all of it at once. `color` gives the theme's by its name. */
export class Meshes {
  private readonly made: { dispose(): void }[] = []

  constructor(readonly color: (name: string) => string) {}

  mesh(geometry: THREE.BufferGeometry, material: THREE.Material): THREE.Mesh {
    this.keep(geometry, material)
    return new THREE.Mesh(geometry, material)
  }

  lambert(color: string): THREE.MeshLambertMaterial {
    return new THREE.MeshLambertMaterial({ color: this.color(color) })
  }

  /** The edges of a solid, as lines over it. */
  edges(of: THREE.BufferGeometry, color: string, opacity = 1, angle?: number): THREE.LineSegments {
    return this.lines(new THREE.EdgesGeometry(of, angle), new THREE.LineBasicMaterial({ color: this.color(color), transparent: opacity < 1, opacity }))
  }

  lines(geometry: THREE.BufferGeometry, material: THREE.LineBasicMaterial): THREE.LineSegments {
    this.keep(geometry, material)
    return new THREE.LineSegments(geometry, material)
  }

  /** Frees it with the others. */
  keep(...made: readonly { dispose(): void }[]): void { this.made.push(...made) }

  free(): void { for (const d of this.made.splice(0)) d.dispose() }
}
