import * as THREE from 'three'
import { PALM } from '~~/core/simulation'
import type { HandPlace } from './hands-shown'

/** Hands before sensors, in three dimensions. */
export class StageHands {
  private readonly geometry = new THREE.BoxGeometry(2 * PALM.hx, 2 * PALM.hy, 2 * PALM.hz)
  private readonly material = new THREE.MeshLambertMaterial()
  private readonly palms: THREE.Mesh[] = []
  readonly group = new THREE.Group()

  /** Shows hands where they are held, in a colour; as many as there are. */
  show(places: readonly HandPlace[], color: string): void {
    this.material.color.set(color)
    while (this.palms.length < places.length) {
      const palm = new THREE.Mesh(this.geometry, this.material)
      palm.castShadow = true
      this.palms.push(palm)
      this.group.add(palm)
    }
    this.palms.forEach((palm, i) => {
      const place = places[i]
      palm.visible = place !== undefined
      if (place === undefined) return
      palm.position.set(place.x, place.y, place.z)
      palm.quaternion.setFromUnitVectors(new THREE.Vector3(1, 0, 0), new THREE.Vector3(...place.along))
    })
  }

  dispose(): void {
    this.geometry.dispose()
    this.material.dispose()
  }
}
