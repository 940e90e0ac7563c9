/** A world of 3D: its specifications, forces, and queries. */

import { type BodySpec, bodyFields, type ColliderSpec, colliderFields, type SpecFields } from '../core/bodies.ts'
import type { Explanation } from '../core/filter/explain.ts'
import type { Response } from '../core/filter/layers.ts'
import type { JointHandlers } from '../core/joints/joint.ts'
import type { JointWatch } from '../core/joints/joints.ts'
import { ScratchPool } from '../core/query/scratchPool.ts'
import { Past } from '../core/save/past.ts'
import { DYNAMIC_FIELDS } from '../core/solve/dynamics.ts'
import { type ForcedSpec, setForced } from '../core/solve/forcedBody.ts'
import { FORCED_OPTIONS, ForcedWorld, type TravelParts } from '../core/solve/forcedWorld.ts'
import { checkSurface, isUsual, type SurfaceSpec } from '../core/solve/surfaceCollider.ts'
import type { AnyKinds, Kinds, NeedsData } from '../core/state/handle.ts'
import type { BodyType } from '../core/state/population.ts'
import { KeenError, show } from '../core/util/errors.ts'
import { ACCELERATION, SPEED, SPIN } from '../core/util/limits.ts'
import type { DecideOptions } from '../core/watch/decideHooks.ts'
import type { WatchOptions } from '../core/watch/watch.ts'
import type { CoreFeatures, WorldOptions } from '../core/world.ts'
import { Body3, checkDynamic } from './body.ts'
import { Collider3, checkOneWay } from './collider.ts'
import type { Joint3, JointEnd3, JointSpec3 } from './joints/joints.ts'
import { Kernel3, type MakeForces3 } from './kernel.ts'
import { GAP_SIZE } from './narrow/records.ts'
import { KEPT } from './poses.ts'
import { Shapecast } from './query/cast.ts'
import { Nearest, Overlap } from './query/overlap.ts'
import { Raycast } from './query/ray.ts'
import { type Pool3, Scratch } from './query/scratch.ts'
import { type Inertia, refuseNoShape, type Shape3 } from './shapes/shape.ts'
import type { Locks } from './solve/dynamics.ts'
import type { Forces3 } from './solve/forces.ts'
import { Caster3, riderSpace } from './travel.ts'
import {
  checkRotation,
  checkVec,
  type MutableVec3,
  ORIGIN,
  POSE_SIZE,
  type Rotation,
  UPRIGHT,
  VECTORS,
  type Vec3,
  writePose,
} from './vector.ts'
import type { DecidedPair3, Hook3, Watch3, WatchEvent3, WatchHandlers3, WatchSide3 } from './watching.ts'

/** A shape and how it is filtered, to be put on a body. */
export interface ColliderSpec3<K extends Kinds = AnyKinds> extends ColliderSpec<K, Shape3, Vec3>, SurfaceSpec {
  /** Rotation within the body. Default none. */
  rotation?: Rotation | undefined
  /** Lengths a second (about the body) at which its surface carries what lies on it: a conveyor. What leads off the surface has no effect. Default none. */
  surfaceVelocity?: Vec3 | undefined
  /** Lets through what comes along this direction (about the body), and holds what comes against it. Default: nothing. */
  oneWay?: Vec3 | null | undefined
}

/** What a body is made from. */
export interface BodySpec3<K extends Kinds = AnyKinds> extends BodySpec<K, ColliderSpec3<K>, Vec3>, ForcedSpec {
  /** Default: none. */
  rotation?: Rotation | undefined
  /** The axis, as long as the radians a second; not for static bodies. */
  spin?: Vec3 | undefined
  /**
   * Kilograms times length squared about the centre of mass, instead of what the shapes give: about the body's axes, or a whole tensor.
   * For dynamic bodies.
   */
  inertia?: Vec3 | Inertia | undefined
  /** What it cannot do: move along x, y, z, turn about them. For dynamic bodies. */
  locks?: Locks | undefined
}

/** What a world of 3D is made from. */
export interface WorldOptions3<L extends string, T extends string, D> extends WorldOptions<L, T, D> {
  /** Lengths a second squared. Default 9.8 metres downwards. It pulls dynamic bodies only. */
  gravity?: Vec3 | undefined
  /** Lengths a second at which overlapping bodies are pushed apart at most. Default 3 metres. */
  pushOut?: number | undefined
  /** Whether what was pushed apart keeps that speed: a burst. Default false. */
  burst?: boolean | undefined
}

export const BODY_FIELDS = bodyFields('rotation', DYNAMIC_FIELDS)
export const COLLIDER_FIELDS = colliderFields('rotation', [
  'density',
  'friction',
  'restitution',
  'surfaceVelocity',
  'oneWay',
])

const FIELDS: SpecFields = { world: FORCED_OPTIONS, body: BODY_FIELDS, collider: COLLIDER_FIELDS }

interface Surface {
  readonly numbers: readonly number[]
  readonly oneWay: Vec3
}

/** Where a collider is within its body. */
interface Place {
  readonly at: Vec3
  readonly rotation: Rotation
  readonly pose: Float64Array
}

// The core spells these types with all their parameters; here they are short, for messages and hints of editors.
export interface World3<K extends Kinds = AnyKinds> {
  /**
   * Adds a body with its colliders. Queries see it at once; what it meets begins with the next step, cause `added`.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, `unknown-layer`, `unknown-tag`, `duplicate-name`
   */
  add(spec: BodySpec3<K> & NeedsData<K['data']>): Body3<K>
  /**
   * Reports when what matches the first side meets what matches the second, from the next step on. By default bodies are counted:
   * one begin when the first of their matching colliders meet, one end when the last part.
   * @throws KeenError `unknown-layer`, `unknown-tag`, `dead-handle`, `foreign-handle`, `bad-argument`
   * @example world.watch('craft', 'zone', { begin: (event) => console.log(`${event.a} enters ${event.b}`) })
   */
  watch(first: WatchSide3<K>, second: WatchSide3<K>, handlers?: WatchHandlers3<K>, options?: WatchOptions): Watch3<K>
  /**
   * Asks `answer` about pairs when they come into touch; it can keep or weaken what the filter says. Inside it the world cannot be
   * changed or queried. What it throws, `step` throws as `callback-failed`.
   * @throws KeenError as {@link watch}
   * @example world.decide('craft', 'ledge', (pair) => (pair.approach.y > 0 ? 'pass' : 'solid'))
   */
  decide(
    first: WatchSide3<K>,
    second: WatchSide3<K>,
    answer: (pair: DecidedPair3<K>) => Response,
    options?: DecideOptions,
  ): Hook3<K>
  /** What the last step reported or recorded, in order, each fact once, `a` the older body; ends of joints come first and have a `joint`. Allocates. */
  events(options?: { per?: 'body' | 'collider' }): (WatchEvent3<K> | JointEnd3<K>)[]
  /**
   * Why two bodies or colliders meet or do not: every check in order, with its verdict. `String()` of it is a text.
   * @throws KeenError `bad-argument`, `foreign-handle`, `locked` inside a decide hook
   * @example console.log(String(world.explain(craft, beacon)))
   */
  explain(a: Body3<K> | Collider3<K>, b: Body3<K> | Collider3<K>): Explanation
}

/** What a world can have or do without: forces, the texts of explanations, saving as bytes. */
export interface Features3 extends CoreFeatures {
  readonly makeForces: MakeForces3 | null
}

/** For a world that only shows another. */
const ONLY_QUERIES: Features3 = { makeForces: null, reasons: null, makeSaver: null }

/** A world of 3D: bodies and colliders, watches, the tick, and queries. Made by `createWorld`. */
// biome-ignore lint/suspicious/noUnsafeDeclarationMerging: see above
export class World3<K extends Kinds = AnyKinds> extends ForcedWorld<
  K,
  Body3<K>,
  Collider3<K>,
  MutableVec3,
  Shape3,
  ColliderSpec3<K>,
  BodySpec3<K>,
  Place,
  Surface,
  Vec3,
  Forces3,
  JointEnd3<K>
> {
  /** What rays meet. */
  readonly raycast: Raycast<K>
  /** What moving shapes meet. */
  readonly shapecast: Shapecast<K>
  /** What standing shapes overlap. */
  readonly overlap: Overlap<K>
  /** What is nearest to a point or a shape. */
  readonly nearest: Nearest<K>
  /** @internal */ readonly kernel: Kernel3
  private readonly pool: Pool3<K>

  /** @internal */
  constructor(options: WorldOptions3<K['layer'], K['tag'], K['data']>, features: Features3) {
    let kernel!: Kernel3
    super(options, FIELDS, GAP_SIZE, features, (setup) => {
      kernel = new Kernel3(setup, features.makeForces)
      return kernel
    })
    this.kernel = kernel
    this.setOptions(options)
    const pool: Pool3<K> = new ScratchPool<K, Body3<K>, Collider3<K>, Scratch<K>, MutableVec3>(
      this,
      kernel,
      VECTORS,
      () => new Scratch<K>(this),
    )
    this.pool = pool
    this.raycast = new Raycast<K>(pool)
    this.shapecast = new Shapecast<K>(pool)
    this.overlap = new Overlap<K>(pool)
    this.nearest = new Nearest<K>(pool)
    this.remember(options.history, this.asHost())
    Object.seal(this)
  }

  /**
   * The world as it stood so many ticks ago, to be asked the four questions: with the poses and the filters of that time, of those who were there, under
   * the handles that they have. It changes nothing. Needs `history` in the options of the world. Cost: the first question about another tick than the last
   * moves all that can move in a world beside; after that questions cost what they always do.
   * @param ago ticks; 0 is the end of the last step
   * @throws KeenError `bad-argument` without a history, or for a tick that is not known; `bad-number`
   * @example const hit = world.past(6).raycast.first({ from, to }, { except: shooter })
   */
  past(ago: number): Past<World3<K>> {
    const { tick, show } = this.pastOf(ago)
    return new Past(tick, show as unknown as () => World3<K>)
  }

  protected override newBeside(): World3<K> {
    const { layers, unit, rate } = this
    return new World3<K>({ layers, unit, rate, advise: false } as never, ONLY_QUERIES)
  }

  /**
   * Joins two bodies, or a body and the world. Two that are joined do not touch unless `touching` says so.
   * @throws KeenError `bad-argument`, `bad-number`, `duplicate-name`, `dead-handle`, `foreign-handle`, `locked`
   * @example world.join({ type: 'hinge', a: post, b: door, at: { x: 3, y: 1, z: 0 }, axis: { x: 0, y: 1, z: 0 }, limits: { min: 0, max: 1.5 } })
   */
  join(spec: JointSpec3<K>): Joint3<K> {
    return this.forces('join').joints.join(spec, (body, what) => {
      if (!(body instanceof Body3)) throw new KeenError('bad-argument', `${what} is a body, got ${show(body)}`)
      this.owned(body as Body3<K>, what)
      return body
    })
  }

  /** The joints of the world in the order of their age. Allocates. */
  joints(): Joint3<K>[] {
    return this.kernel.forces?.joints.all() ?? []
  }

  /** Hears of the end of every joint, until it is stopped. */
  watchJoints(handlers: JointHandlers<JointEnd3<K>>): JointWatch {
    return this.forces('watchJoints').joints.watch(handlers)
  }

  protected override travelParts(): TravelParts<K, Body3<K>, Collider3<K>, MutableVec3> {
    const { kernel, pool } = this
    const { velocity } = kernel.poses
    return {
      vectors: VECTORS,
      pool,
      newCaster: () => new Caster3(kernel),
      space: riderSpace(kernel),
      velocity,
      velocitySize: 6,
    }
  }

  protected override checkGravity(value: unknown, what: string): void {
    checkVec(value, what, ACCELERATION * this.unit)
  }

  protected override readGravity([x, y, z]: Float64Array): Vec3 {
    return Object.freeze({ x, y, z })
  }

  protected override writeGravity({ x, y, z }: Vec3, out: Float64Array): void {
    out[0] = x
    out[1] = y
    out[2] = z
  }

  protected override checkPose(spec: BodySpec3<K>): Float64Array {
    const at = checkVec(spec.at ?? ORIGIN, "'at' of a body")
    newPose[0] = at.x
    newPose[1] = at.y
    newPose[2] = at.z
    checkRotation(spec.rotation ?? UPRIGHT, "'rotation' of a body", newPose, 3)
    return newPose
  }

  protected override checkMotion(spec: BodySpec3<K>, type: BodyType): void {
    if (spec.velocity !== undefined) checkVec(spec.velocity, "'velocity' of a body", SPEED * this.unit)
    if (spec.spin !== undefined) checkVec(spec.spin, "'spin' of a body", SPIN)
    this.checkForcedFields(spec, type)
    checkDynamic(spec)
  }

  protected override checkIsShape(shape: unknown, what: string, type: BodyType): void {
    refuseNoShape(shape, what)
    if (type === 'dynamic' && (shape as Shape3).pieces.some(({ surface }) => surface !== null)) {
      throw new KeenError(
        'bad-shape',
        `${what} is made of triangles, which belong on static and kinematic bodies: a dynamic body takes the hull() of their points, or a compound() of hulls`,
      )
    }
  }

  protected override checkPlace(spec: ColliderSpec3<K>, what: string): Place {
    if (spec.at === undefined && spec.rotation === undefined) return AT_ORIGIN
    const at = checkVec(spec.at ?? ORIGIN, `'at' of ${what}`)
    const q = new Float64Array(4)
    checkRotation(spec.rotation ?? UPRIGHT, `'rotation' of ${what}`, q, 0)
    const rotation = { x: q[0], y: q[1], z: q[2], w: q[3] }
    return { at, rotation, pose: poseNumbers(at, rotation) }
  }

  protected override checkSurface(spec: ColliderSpec3<K>, what: string): Surface {
    if (isUsual(spec) && spec.surfaceVelocity === undefined) return USUAL
    const { x, y, z } = checkVec(spec.surfaceVelocity ?? ORIGIN, `'surfaceVelocity' of ${what}`, SPEED * this.unit)
    return {
      numbers: [...checkSurface(spec, what), x, y, z],
      oneWay: checkOneWay(spec.oneWay, `'oneWay' of ${what}`),
    }
  }

  /** @internal */
  override makeBody(slot: number, name: string | null, data: K['data']): Body3<K> {
    return new Body3<K>(this, slot, name, data)
  }

  /** @internal */
  override makeCollider(slot: number, body: Body3<K>, shape: Shape3, { at, rotation }: Place): Collider3<K> {
    return new Collider3<K>(this, slot, body, shape, at, rotation)
  }

  protected override get atOrigin(): Place {
    return AT_ORIGIN
  }

  protected override poseOf({ at, rotation }: Collider3<K>): Float64Array {
    return poseNumbers(at, rotation)
  }

  protected override setUp(body: Body3<K>, spec: BodySpec3<K>): void {
    setForced(body, spec)
    if (spec.inertia !== undefined) body.inertia = spec.inertia
    if (spec.locks !== undefined) body.locks = spec.locks
    if (spec.velocity !== undefined) body.velocity = spec.velocity
    if (spec.spin !== undefined) body.spin = spec.spin
  }

  protected override setSurface(collider: number, { numbers, oneWay }: Surface): void {
    this.writeNumbers(collider, numbers)
    this.kernel.setOneWay(collider, oneWay)
  }

  protected override stopMotion(body: number): void {
    const { poses } = this.kernel
    poses.velocity.data.fill(0, 6 * body, 6 * body + 6)
    poses.resetMotion(body)
  }
}

/** Where a body will be. */
const newPose = new Float64Array(KEPT)

/** The surface of most colliders. It is only read. */
const USUAL: Surface = { numbers: [...checkSurface({}, ''), 0, 0, 0], oneWay: ORIGIN }

/** Where most colliders are within their body. It is only read. */
const AT_ORIGIN: Place = { at: ORIGIN, rotation: UPRIGHT, pose: poseNumbers(ORIGIN, UPRIGHT) }

/** A pose within a body, as numbers. */
function poseNumbers(at: Vec3, rotation: Rotation): Float64Array {
  const pose = new Float64Array(POSE_SIZE)
  writePose(at, rotation, 'a collider', pose)
  return pose
}
