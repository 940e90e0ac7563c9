/** The pointer as a hand in 3D: it grabs a dynamic body where a ray meets it, and draws that point after the pointer. */
import { type Body3, type Kinds, rotated, type Vec3, type World3 } from 'keen-sentry/3d'
import { type Camera, Plane, Raycaster, Vector2, Vector3 } from 'three'

/** How stiffly a held body follows the pointer, as cycles a second. */
const CYCLES = 3
/** How far a pointer reaches, metres, and how near the wheel draws. */
const REACH = 200
const NEAREST = 3

export class Hand<K extends Kinds> {
  /** The body that is held, and where on it, about its own axes. */
  private held: { body: Body3<K>; local: Vec3 } | null = null
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
    return this.held?.body ?? null
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
    const { body, point } = hit
    const { x, y, z, w } = body.rotation
    const arm = { x: point.x - body.at.x, y: point.y - body.at.y, z: point.z - body.at.z }
    this.held = { body, local: rotated({ x: -x, y: -y, z: -z, w }, arm) }
    this.away = new Vector3(point.x, point.y, point.z).sub(origin).dot(this.facing())
    return true
  }

  release(): void {
    this.held = null
  }

  /** Draws what is held nearer to the camera, or pushes it away. */
  pull(by: number): void {
    this.away = Math.min(REACH, Math.max(NEAREST, this.away * by))
  }

  /** Where the held point is, and where it is wanted; null where nothing is held. */
  line(): { readonly from: Vec3; readonly to: Vec3 } | null {
    if (this.held === null) return null
    const { body, local } = this.held
    const arm = rotated(body.rotation, local)
    this.caster.setFromCamera(this.pointer, this.camera)
    const facing = this.facing()
    const centre = this.camera.position.clone().addScaledVector(facing, this.away)
    const to = this.caster.ray.intersectPlane(new Plane().setFromNormalAndCoplanarPoint(facing, centre), new Vector3())
    if (to === null) return null
    return { from: { x: body.at.x + arm.x, y: body.at.y + arm.y, z: body.at.z + arm.z }, to: vec(to) }
  }

  /** Before a step: an impulse at the held point, as a damped spring gives it. */
  draw(dt: number): void {
    if (this.held !== null && (!this.held.body.alive || this.held.body.type !== 'dynamic')) this.held = null
    const line = this.line()
    if (this.held === null || line === null) return
    const { body } = this.held
    const { from, to } = line
    const velocity = body.velocityAt(from)
    const omega = 2 * Math.PI * CYCLES
    const gain = 0.3 * body.mass * omega * dt
    const towards = (axis: 'x' | 'y' | 'z'): number => gain * (omega * (to[axis] - from[axis]) - 2 * velocity[axis])
    body.applyImpulse({ x: towards('x'), y: towards('y'), z: towards('z') }, from)
  }

  private facing(): Vector3 {
    return this.camera.getWorldDirection(new Vector3())
  }
}

const vec = ({ x, y, z }: Vec3): Vec3 => ({ x, y, z })
