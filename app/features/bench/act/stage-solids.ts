import * as THREE from 'three'
import type { SolidFigure } from '~~/core/arena'
import { geometryOf, type Meshes } from './stage-meshes'

/** Draws lines as often as a mesh, at its places: what makes the library draw meshes many times makes it draw lines so too. */
function asOften(lines: THREE.LineSegments, { instanceMatrix, count }: THREE.InstancedMesh): THREE.LineSegments {
  return Object.assign(lines, { isInstancedMesh: true, instanceMatrix, instanceColor: null, morphTexture: null, count, frustumCulled: false })
}

/** Those alike: drawn in one go. */
interface Kin {
  readonly like: SolidFigure
  readonly edged: boolean
  readonly places: THREE.Matrix4[]
  /** What draws them; null until they are made. */
  drawn: THREE.InstancedMesh | null
}

const UNIT = new THREE.Vector3(1, 1, 1)
const position = new THREE.Vector3()
const turned = new THREE.Quaternion()

/** One solid among those alike. */
export class Placed {
  constructor(private readonly kin: Kin, private readonly at: number) {}

  /** Puts its middle there, metres, turned so. */
  put(x: number, y: number, z: number, qx: number, qy: number, qz: number, qw: number): void {
    const { places, drawn } = this.kin
    const place = places[this.at]!.compose(position.set(x, y, z), turned.set(qx, qy, qz, qw), UNIT)
    if (drawn === null) return
    drawn.setMatrixAt(this.at, place)
    drawn.instanceMatrix.needsUpdate = true
  }

  /** The same, standing upright, turned to the left by radians. */
  stand(x: number, y: number, z: number, yaw: number): void { this.put(x, y, z, 0, 0, Math.sin(yaw / 2), Math.cos(yaw / 2)) }
}

/** Solids of an arena. Those alike in shape and colour are drawn in one go: sixty pieces cost the page's thread little more than one. */
export class Solids {
  readonly group = new THREE.Group()
  private readonly kin = new Map<string, Kin>()

  constructor(private readonly meshes: Meshes) {}

  clear(): void {
    this.group.clear()
    this.kin.clear()
  }

  /** One more, where its figure stands, with its edges drawn or not; to be seen when all are `made`. */
  add(like: SolidFigure, edged: boolean): Placed {
    const key = JSON.stringify([like.shape, like.tint, edged])
    const kin = this.kin.get(key) ?? { like, edged, places: [], drawn: null }
    this.kin.set(key, kin)
    const placed = new Placed(kin, kin.places.push(new THREE.Matrix4()) - 1)
    placed.stand(like.at[0], like.at[1], like.middle, like.yaw)
    return placed
  }

  /** Makes what was added. */
  made(): void {
    const { meshes } = this
    for (const kin of this.kin.values()) {
      const { places } = kin
      const mesh = new THREE.InstancedMesh(geometryOf(kin.like.shape), meshes.lambert(kin.like.tint), places.length)
      places.forEach((place, i) => mesh.setMatrixAt(i, place))
      // They go anywhere: whether all are out of sight is not worth asking.
      mesh.frustumCulled = false
      meshes.keep(mesh.geometry, mesh.material, mesh)
      mesh.instanceMatrix.setUsage(THREE.DynamicDrawUsage)
      kin.drawn = mesh
      this.group.add(mesh)
      if (kin.edged) this.group.add(asOften(meshes.edges(mesh.geometry, 'ink', 0.55, 30), mesh))
    }
  }
}
