import * as THREE from 'three'

/** Whether a graphics card draws, by what WebGL says of itself: what is worked out by the processor gets neither shadows nor softness. */
export function hasGraphicsCard(gl: WebGLRenderingContext | WebGL2RenderingContext): boolean {
  const info = gl.getExtension('WEBGL_debug_renderer_info')
  const name = String(gl.getParameter(info === null ? gl.RENDERER : info.UNMASKED_RENDERER_WEBGL))
  return !/swiftshader|llvmpipe|softpipe|software|basic render/i.test(name)
}

/** Dots of the shadows' own picture, either way. */
const SHADOW = 2048

/** The light of a harbour: sky and sun; with `rich`, the sun casts soft shadows. */
export class HarbourLight {
  private readonly sun: THREE.DirectionalLight

  constructor(private readonly scene: THREE.Scene, renderer: THREE.WebGLRenderer, private readonly rich: boolean) {
    scene.add(new THREE.HemisphereLight(0xffffff, 0xb9b2a2, rich ? 1.5 : 2.1))
    this.sun = new THREE.DirectionalLight(rich ? 0xfff4e0 : 0xffffff, rich ? 1.9 : 1.1)
    this.sun.position.set(-2, -3, 6)
    scene.add(this.sun)
    if (!rich) return
    renderer.shadowMap.enabled = true
    renderer.shadowMap.type = THREE.VSMShadowMap
    this.sun.castShadow = true
    this.sun.shadow.mapSize.set(SHADOW, SHADOW)
    this.sun.shadow.radius = 3
    this.sun.shadow.bias = -0.0004
  }

  /** The sun stands over an arena of this size (metres), all of which it lights. Things throw shadows; what is lettered, lined or lit by itself does not. */
  over(size: readonly [number, number]): void {
    const [x, y] = [size[0] / 2, size[1] / 2]
    const reach = Math.hypot(size[0], size[1]) / 2 + 0.5
    this.sun.target.position.set(x, y, 0)
    this.sun.target.updateMatrixWorld()
    this.sun.position.set(x - reach * 1.1, y - reach * 0.25, reach * 1.5)
    if (!this.rich) return
    const { camera } = this.sun.shadow
    Object.assign(camera, { left: -reach, right: reach, top: reach, bottom: -reach, near: 0.1, far: reach * 5 })
    camera.updateProjectionMatrix()
    this.scene.traverse((part) => {
      if (!(part instanceof THREE.Mesh) || !(part.material instanceof THREE.MeshLambertMaterial)) return
      part.castShadow = true
      part.receiveShadow = true
    })
  }
}
