/** A body that stands somewhere: how it is moved and asked, as far as that knows no dimension. */
import type { Overlap, Touch } from '../bodies.ts'
import { KeenError } from '../util/errors.ts'
import { INSPECT, showPlace } from '../util/inspect.ts'
import type { Host } from '../world.ts'
import { BodyHandle, type BodyJson, type Kinds } from './handle.ts'

/** What a body needs of its world. */
export interface BodyHost<B, C, V, Spec> extends Host {
  attach(body: B, spec: Spec): C
  overlapsOf(body: B): Overlap<B, C>[]
  touchesOf(body: B): Touch<B, C, V>[]
  /** Puts a body at a pose of numbers. */
  teleport(body: number, pose: Float64Array): void
  /** Sends a body to a pose of numbers. */
  aim(body: number, pose: Float64Array): void
}

export abstract class PlacedBody<
  K extends Kinds,
  B,
  C extends { readonly layerBits: number },
  V extends object,
  Pose,
  MutablePose,
  Spec,
> extends BodyHandle<K, C> {
  /** @internal */ protected abstract override readonly host: BodyHost<B, C, V, Spec>
  /** Where its origin is, in the world. */
  abstract get at(): V
  /** Place and turn. */
  abstract get pose(): Pose

  /**
   * The pose to draw between two ticks.
   * @param alpha 0 is the tick before the last, 1 the last
   * @throws KeenError `bad-argument`, `bad-number`
   */
  abstract poseAt(alpha: number, out: MutablePose): MutablePose

  /**
   * Writes the pose into an object of the caller's.
   * @throws KeenError `bad-argument`
   */
  read(out: MutablePose): MutablePose {
    return this.poseAt(1, out)
  }

  /**
   * Puts the body elsewhere at once, without a way between. Works on every type, enabled or not. What begins or ends
   * by it has cause `teleported`. Takes effect for queries at once, for events with the next step.
   * @param to a point (the turn stays) or a pose
   * @throws KeenError `bad-argument`, `bad-number`, `dead-handle`, `locked`
   */
  teleport(to: V | Pose): void {
    this.change('teleport')
    this.host.teleport(this.slot, this.readTarget(to, 'teleport'))
  }

  /**
   * Sends a kinematic body to a pose: it is there, to the bit, after the next step, whatever its velocity.
   * @param to a point (the turn stays) or a pose
   * @throws KeenError `bad-argument` also for a body that is not kinematic, `bad-number`, `dead-handle`, `locked`
   */
  arriveAt(to: V | Pose): void {
    this.change('arriveAt')
    if (this.type !== 'kinematic') {
      const how =
        this.type === 'static' ? 'teleport it, or make it kinematic' : 'set its velocity, or make it kinematic'
      throw new KeenError(
        'bad-argument',
        `arriveAt: ${this} is ${this.type}, and only a kinematic body can be sent: ${how}`,
      )
    }
    this.host.aim(this.slot, this.readTarget(to, 'arriveAt'))
  }

  /**
   * Adds a collider. Queries see it at once; what it meets begins with the next step, cause `added`.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, `unknown-layer`, `unknown-tag`, `dead-handle`, `locked`
   */
  attach(spec: Spec): C {
    this.change('attach')
    return this.host.attach(this as unknown as B, spec)
  }

  /**
   * Whom it overlaps now, by the shapes and the filter as they stand; by the age of `mine`, then of `other`. Allocates.
   * @throws KeenError `dead-handle`, `locked` inside a decide hook
   */
  overlapping(): Overlap<B, C>[] {
    this.use('overlapping')
    return this.host.overlapsOf(this as unknown as B)
  }

  /**
   * Whom it touched in the last step: its solid pairs. Of two that are not dynamic and that no watch or hook matches, whether
   * they touch now. By the age of `mine`, then of `other`. Allocates.
   * @throws KeenError `dead-handle`, `locked` inside a decide hook
   */
  touching(): Touch<B, C, V>[] {
    this.use('touching')
    return this.host.touchesOf(this as unknown as B)
  }

  /** What `JSON.stringify` writes: name, age, type, pose and layers. Not enough to make the body again. */
  toJSON(): BodyJson<Pose> {
    const { name, serial, type, alive, pose } = this
    let word = 0
    for (const each of this.colliders) word |= each.layerBits
    return { name, serial, type, alive, pose, layers: this.host.layers.names(word >>> 0) }
  }

  /** @internal */
  [INSPECT](): string {
    const { type, alive, layers } = this.toJSON()
    const on = layers.length === 0 ? 'without colliders' : `on ${layers.join(', ')}`
    const state = alive ? (this.enabled ? '' : ', disabled') : ', removed'
    return `${this}: ${type} ${on} at ${showPlace(this.at)}${state}`
  }

  /** Checks a point or a pose and gives it as numbers, valid until the next call. */
  protected abstract readTarget(to: V | Pose, what: string): Float64Array
}
