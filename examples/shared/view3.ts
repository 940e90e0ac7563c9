/** A world of 3D in three: its solids as meshes, its draw list as lines. */

import type { Kinds } from 'keen-sentry'
import type { Body3, World3 } from 'keen-sentry/3d'
import { layerColour, solidsOf } from 'keen-sentry/draw'
import {
  AmbientLight,
  BufferAttribute,
  BufferGeometry,
  Color,
  DirectionalLight,
  DoubleSide,
  Fog,
  Group,
  Mesh,
  MeshLambertMaterial,
  PerspectiveCamera,
  Scene,
  WebGLRenderer,
} from 'three'

const WATER = 0x0b1724

export class View<K extends Kinds> {
  readonly scene = new Scene()
  readonly camera = new PerspectiveCamera(50, 1, 0.1, 400)
  private readonly renderer: WebGLRenderer
  private readonly shown = new Map<Body3<K>, Group>()
  private readonly pose = { at: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }

  constructor(canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true })
    this.scene.background = new Color(WATER)
    this.scene.fog = new Fog(WATER, 50, 130)
    this.scene.add(new AmbientLight(0x9fb8d0, 1.3))
    const sun = new DirectionalLight(0xffffff, 2.2)
    sun.position.set(-20, 40, 25)
    this.scene.add(sun)
  }

  /** Makes the meshes of a world anew. */
  fill(world: World3<K>): void {
    for (const group of this.shown.values()) this.drop(group)
    this.shown.clear()
    for (const body of world.bodies()) {
      const group = new Group()
      for (const collider of body.colliders) {
        const [layer] = world.layers.names(collider.layerBits)
        const sensor = collider.sensor || collider.solidBits === 0
        const material = new MeshLambertMaterial({
          color: layerColour(world.layers.index(layer)),
          side: DoubleSide,
          flatShading: true,
          transparent: sensor,
          opacity: sensor ? 0.12 : 1,
          depthWrite: !sensor,
        })
        for (const solid of solidsOf(collider.shape)) {
          const geometry = new BufferGeometry()
          geometry.setAttribute('position', new BufferAttribute(Float32Array.from(solid.corners), 3))
          geometry.computeVertexNormals()
          const mesh = new Mesh(geometry, material)
          mesh.position.copy(collider.at)
          mesh.quaternion.copy(collider.rotation)
          group.add(mesh)
        }
      }
      this.scene.add(group)
      this.shown.set(body, group)
    }
  }

  /**
   * Puts every mesh where its body is between two ticks; zones with somebody in them light up.
   * @param isShown which bodies are shown; default all
   */
  move(alpha: number, lit: ReadonlySet<Body3<K>>, isShown: (body: Body3<K>) => boolean = () => true): void {
    for (const [body, group] of this.shown) {
      group.visible = body.alive && body.enabled && isShown(body)
      if (!group.visible) continue
      const { at, rotation } = body.poseAt(alpha, this.pose)
      group.position.copy(at)
      group.quaternion.copy(rotation)
      for (const child of group.children) {
        const { material } = child as Mesh
        if (material instanceof MeshLambertMaterial && material.transparent)
          material.opacity = lit.has(body) ? 0.4 : 0.12
      }
    }
  }

  draw(): void {
    const { renderer, camera } = this
    const { clientWidth, clientHeight } = renderer.domElement
    const ratio = Math.min(window.devicePixelRatio || 1, 2)
    if (renderer.domElement.width !== Math.floor(clientWidth * ratio) || camera.aspect !== clientWidth / clientHeight) {
      renderer.setPixelRatio(ratio)
      renderer.setSize(clientWidth, clientHeight, false)
      camera.aspect = clientWidth / clientHeight
      camera.updateProjectionMatrix()
    }
    renderer.render(this.scene, camera)
  }

  close(): void {
    for (const group of this.shown.values()) this.drop(group)
    this.renderer.dispose()
  }

  private drop(group: Group): void {
    this.scene.remove(group)
    for (const child of group.children) {
      ;(child as Mesh).geometry.dispose()
      ;((child as Mesh).material as MeshLambertMaterial).dispose()
    }
  }
}
