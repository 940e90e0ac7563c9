/** The pointer as a hand in 3D: a `carry` joint draws the body that it grabbed after it, where a ray of the camera met it. */
import type { Kinds } from 'keen-sentry'
import type { Body3, Joint3, Vec3, World3 } from 'keen-sentry/3d'
import { type Camera, Plane, Raycaster, Vector2, Vector3 } from 'three'

/** How many times its weight on earth the hand can give. */
const STRENGTH = 80
/** How far a pointer reaches, metres, and how near the wheel draws. */
const REACH = 200
const NEAREST = 3

export class Hand<K extends Kinds> {
  private joint: Joint3<K> | null = null
  /** How far before the camera it is held. */
  private away = 0
  private readonly pointer = new Vector2()
  private readonly caster = new Raycaster()
  private readonly canvas: HTMLElement
  private readonly camera: Camera

  constructor(canvas: HTMLElement, camera: Camera) {
    this.canvas = canvas
    this.camera = camera
  }

  get body(): Body3<K> | null {
    return this.joint?.alive ? this.joint.a : null
  }

  aim(event: { readonly clientX: number; readonly clientY: number }): void {
    const box = this.canvas.getBoundingClientRect()
    const x = ((event.clientX - box.left) / box.width) * 2 - 1
    this.pointer.set(x, 1 - ((event.clientY - box.top) / box.height) * 2)
  }

  /** Grabs what is under the pointer; false where nothing can be grabbed. */
  grab(world: World3<K>): boolean {
    this.caster.setFromCamera(this.pointer, this.camera)
    const { origin, direction } = this.caster.ray
    const hit = world.raycast.first({ from: vec(origin), direction: vec(direction), reach: REACH })
    if (hit === null || hit.body.type !== 'dynamic') return false
    this.hold(world, hit.body, hit.point)
    return true
  }

  /** Holds a dynamic body at a point of it. */
  hold(world: World3<K>, body: Body3<K>, at: Vec3): void {
    const force = STRENGTH * 9.8 * body.mass
    this.joint = world.join({ type: 'carry', a: body, at, target: at, force, frequency: 3 })
    this.away = new Vector3(at.x, at.y, at.z).sub(this.camera.position).dot(this.facing())
  }

  release(): void {
    if (this.joint?.alive) this.joint.remove()
    this.joint = null
  }

  /** Draws what is held nearer to the camera, or pushes it away. */
  pull(by: number): void {
    this.away = Math.min(REACH, Math.max(NEAREST, this.away * by))
  }

  /** Before a step: the hand goes to where the pointer is, in the plane across the view in which it holds. */
  follow(): void {
    this.goTo(this.target())
  }

  /** Where the hand would go now; null where it holds nothing. */
  target(): Vec3 | null {
    if (!this.joint?.alive) return null
    this.caster.setFromCamera(this.pointer, this.camera)
    const facing = this.facing()
    const centre = this.camera.position.clone().addScaledVector(facing, this.away)
    const to = this.caster.ray.intersectPlane(new Plane().setFromNormalAndCoplanarPoint(facing, centre), new Vector3())
    return to === null ? null : vec(to)
  }

  goTo(target: Vec3 | null): void {
    if (this.joint?.alive && target !== null) this.joint.target = target
  }

  private facing(): Vector3 {
    return this.camera.getWorldDirection(new Vector3())
  }
}

const vec = ({ x, y, z }: Vec3): Vec3 => ({ x, y, z })
