/** A body of the plane: a pose, a motion, and the colliders that move with it. */
import { finite } from '../core/checks.ts'
import { KeenError, show } from '../core/errors.ts'
import { BodyHandle, type Kinds } from '../core/handle.ts'
import type { Collider2 } from './collider.ts'
import { checkVec, type MutablePose2, type Pose2, type Vec2 } from './vector.ts'
import type { ColliderSpec2, World2 } from './world.ts'

/** Whom a body overlaps now: asked afresh from shapes and filter. */
export interface Overlap2<K extends Kinds> {
  readonly mine: Collider2<K>
  readonly other: Collider2<K>
  readonly body: Body2<K>
  readonly response: 'solid' | 'sense'
}

/** Whom a body touched in the last step. */
export interface Touch2<K extends Kinds> {
  readonly mine: Collider2<K>
  readonly other: Collider2<K>
  readonly body: Body2<K>
  readonly response: 'solid'
  /** Between the nearest points of the two, where they stand now. */
  readonly point: Vec2
  /** Unit normal towards this body. */
  readonly normal: Vec2
}

const scratch = new Float64Array(3)

export class Body2<K extends Kinds = Kinds> extends BodyHandle<K, Collider2<K>> {
  /** @internal */ protected readonly host: World2<K>
  private lastPose: Pose2 = { at: { x: 0, y: 0 }, angle: 0 }

  /** @internal */
  constructor(host: World2<K>, slot: number, name: string | null, data: K['data']) {
    super(host, slot, name, data)
    this.host = host
  }

  /** Where its origin is, in the world. Assign with {@link teleport}. */
  get at(): Vec2 {
    if (!this.alive) return this.lastPose.at
    const { data } = this.host.space.place
    return { x: data[2 * this.slot], y: data[2 * this.slot + 1] }
  }

  /** Its turn, radians counter-clockwise; not wrapped. */
  get angle(): number {
    return this.alive ? this.host.space.turn.data[3 * this.slot] : this.lastPose.angle
  }

  get pose(): Pose2 {
    return { at: this.at, angle: this.angle }
  }

  /** Metres a second. A kinematic body keeps it; a static one has none. */
  get velocity(): Vec2 {
    if (!this.alive) return { x: 0, y: 0 }
    const { data } = this.host.space.velocity
    return { x: data[3 * this.slot], y: data[3 * this.slot + 1] }
  }

  set velocity(value: Vec2) {
    this.useMover('velocity')
    checkVec(value, "'velocity' of a body")
    const { data } = this.host.space.velocity
    data[3 * this.slot] = value.x
    data[3 * this.slot + 1] = value.y
  }

  /** Radians a second, counter-clockwise. */
  get spin(): number {
    return this.alive ? this.host.space.velocity.data[3 * this.slot + 2] : 0
  }

  set spin(value: number) {
    this.useMover('spin')
    this.host.space.velocity.data[3 * this.slot + 2] = finite(value, "'spin' of a body")
  }

  /** Writes the pose into an object of the caller's. */
  read(out: MutablePose2): MutablePose2 {
    return this.poseAt(1, out)
  }

  /**
   * The pose to draw between two ticks.
   * @param alpha 0 is the tick before the last, 1 the last
   */
  poseAt(alpha: number, out: MutablePose2): MutablePose2 {
    finite(alpha, 'alpha')
    if (this.alive) {
      this.host.space.poseBetween(this.slot, alpha, scratch)
      out.at.x = scratch[0]
      out.at.y = scratch[1]
      out.angle = scratch[2]
    } else {
      out.at.x = this.lastPose.at.x
      out.at.y = this.lastPose.at.y
      out.angle = this.lastPose.angle
    }
    return out
  }

  /**
   * Puts the body elsewhere at once, without a way between. Works on every type, enabled or not. What begins or ends
   * by it has cause `teleported`. Takes effect for queries at once, for events with the next step.
   * @param to a point (the turn stays) or a pose
   */
  teleport(to: Vec2 | Pose2): void {
    this.change('teleport')
    const { at, angle } = this.target(to, 'teleport')
    this.host.teleport(this.slot, at.x, at.y, angle)
  }

  /**
   * Sends a kinematic body to a pose: it is there, to the bit, after the next step, whatever its velocity.
   * @param to a point (the turn stays) or a pose
   * @throws KeenError `bad-argument` for a static body
   */
  arriveAt(to: Vec2 | Pose2): void {
    this.useMover('arriveAt')
    const { at, angle } = this.target(to, 'arriveAt')
    this.host.space.aim(this.slot, at.x, at.y, angle)
  }

  /** Adds a collider. Throws as `world.add` does. */
  attach(spec: ColliderSpec2<K>): Collider2<K> {
    this.change('attach')
    return this.host.attach(this, spec)
  }

  /** Whom it overlaps now, by the shapes and the filter as they stand; by the age of `mine`, then of `other`. */
  overlapping(): Overlap2<K>[] {
    this.use('overlapping')
    return this.host.overlapsOf(this)
  }

  /** Whom it touched in the last step: its solid pairs. By the age of `mine`, then of `other`. */
  touching(): Touch2<K>[] {
    this.use('touching')
    return this.host.touchesOf(this)
  }

  /** @internal */
  override bury(): void {
    this.lastPose = Object.freeze({ at: Object.freeze(this.at), angle: this.angle })
    super.bury()
  }

  private useMover(what: string): void {
    this.change(what)
    if (this.type !== 'static') return
    throw new KeenError(
      'bad-argument',
      `${what}: ${this} is static and does not move; teleport it, or make it kinematic`,
    )
  }

  private target(to: Vec2 | Pose2, what: string): Pose2 {
    if (typeof to !== 'object' || to === null) {
      throw new KeenError('bad-argument', `${what} takes a point { x, y } or a pose { at, angle }, got ${show(to)}`)
    }
    if (!('at' in to)) return { at: checkVec(to, `the point of ${what}`), angle: this.angle }
    return { at: checkVec(to.at, `'at' of ${what}`), angle: finite(to.angle, `'angle' of ${what}`) }
  }
}
