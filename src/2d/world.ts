/** A world of 2D: its specifications, forces, and queries. */

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
import { finite } from '../core/util/checks.ts'
import { KeenError, show } from '../core/util/errors.ts'
import { ACCELERATION, ANGLE, SPEED, SPIN } from '../core/util/limits.ts'
import type { DecideOptions } from '../core/watch/decideHooks.ts'
import type { WatchOptions } from '../core/watch/watch.ts'
import type { CoreFeatures, WorldOptions } from '../core/world.ts'
import { Body2, checkDynamic } from './body.ts'
import { Collider2, checkOneWay } from './collider.ts'
import type { Joint2, JointEnd2, JointSpec2 } from './joints/joints.ts'
import { Kernel2, type MakeForces2 } from './kernel.ts'
import { GAP_SIZE } from './narrow/records.ts'
import { Shapecast } from './query/cast.ts'
import { Nearest, Overlap } from './query/overlap.ts'
import { Raycast } from './query/ray.ts'
import { type Pool2, Scratch } from './query/scratch.ts'
import { writePose } from './shapes/place.ts'
import { refuseNoShape, type Shape2, type Tiles } from './shapes/shape.ts'
import type { Locks } from './solve/dynamics.ts'
import type { Forces2 } from './solve/forces.ts'
import { Caster2, riderSpace } from './travel.ts'
import { checkVec, type MutableVec2, VECTORS, type Vec2 } from './vector.ts'
import type { DecidedPair2, Hook2, Watch2, WatchEvent2, WatchHandlers2, WatchSide2 } from './watching.ts'

/** A shape and how it is filtered, to be put on a body. */
export interface ColliderSpec2<K extends Kinds = AnyKinds> extends ColliderSpec<K, Shape2, Vec2>, SurfaceSpec {
  /** What it is like; tiles become a collider for each behaviour of their kinds. */
  shape: Exclude<Shape2, Tiles> | Tiles<K['layer']>
  /** Turn within the body, radians. Default 0. */
  angle?: number | undefined
  /** Lengths a second at which it carries what lies on it: along the surface, to the right when the normal points up: a conveyor. Default 0. */
  surfaceSpeed?: number | undefined
  /** Lets through what comes along this direction (about the body), and holds what comes against it. Default: nothing. */
  oneWay?: Vec2 | null | undefined
}

/** What a body is made from. */
export interface BodySpec2<K extends Kinds = AnyKinds> extends BodySpec<K, ColliderSpec2<K>, Vec2>, ForcedSpec {
  /** Radians, counter-clockwise. Default 0. */
  angle?: number | undefined
  /** Radians a second; not for static bodies. */
  spin?: number | undefined
  /** Kilograms times length squared about the centre of mass, instead of what the shapes give. For dynamic bodies. */
  inertia?: number | undefined
  /** What it cannot do: move along x, along y, turn. For dynamic bodies. */
  locks?: Locks | undefined
}

/** What a world of 2D is made from. */
export interface WorldOptions2<L extends string, T extends string, D> extends WorldOptions<L, T, D> {
  /** Lengths a second squared. Default 9.8 metres downwards. It pulls dynamic bodies only. */
  gravity?: Vec2 | undefined
  /** Lengths a second at which overlapping bodies are pushed apart at most. Default 3 metres. */
  pushOut?: number | undefined
  /** Whether what was pushed apart keeps that speed: a burst. Default false. */
  burst?: boolean | undefined
}

export const BODY_FIELDS = bodyFields('angle', DYNAMIC_FIELDS)
export const COLLIDER_FIELDS = colliderFields('angle', ['density', 'friction', 'restitution', 'surfaceSpeed', 'oneWay'])
const FIELDS: SpecFields = { world: FORCED_OPTIONS, body: BODY_FIELDS, collider: COLLIDER_FIELDS }
const ORIGIN: Vec2 = Object.freeze({ x: 0, y: 0 })

/** Where a collider is within its body. */
interface Place {
  readonly at: Vec2
  readonly angle: number
  readonly pose: Float64Array
}

interface Surface {
  readonly numbers: readonly number[]
  readonly oneWay: Vec2
}

// The core spells these types with all their parameters; here they are short, for messages and hints of editors.
export interface World2<K extends Kinds = AnyKinds> {
  /**
   * Adds a body with its colliders. Queries see it at once; what it meets begins with the next step, cause `added`.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, `unknown-layer`, `unknown-tag`, `duplicate-name`
   */
  add(spec: BodySpec2<K> & NeedsData<K['data']>): Body2<K>
  /**
   * Reports when what matches the first side meets what matches the second, from the next step on. By default bodies are counted:
   * one begin when the first of their matching colliders meet, one end when the last part.
   * @throws KeenError `unknown-layer`, `unknown-tag`, `dead-handle`, `foreign-handle`, `bad-argument`
   * @example world.watch('craft', 'zone', { begin: (event) => console.log(`${event.a} enters ${event.b}`) })
   */
  watch(first: WatchSide2<K>, second: WatchSide2<K>, handlers?: WatchHandlers2<K>, options?: WatchOptions): Watch2<K>
  /**
   * Asks `answer` about pairs when they come into touch; it can keep or weaken what the filter says. Inside it the world cannot be
   * changed or queried. What it throws, `step` throws as `callback-failed`.
   * @throws KeenError as {@link watch}
   * @example world.decide('craft', 'ledge', (pair) => (pair.approach.y > 0 ? 'pass' : 'solid'))
   */
  decide(
    first: WatchSide2<K>,
    second: WatchSide2<K>,
    answer: (pair: DecidedPair2<K>) => Response,
    options?: DecideOptions,
  ): Hook2<K>
  /** What the last step reported or recorded, in order, each fact once, `a` the older body; ends of joints come first and have a `joint`. Allocates. */
  events(options?: { per?: 'body' | 'collider' }): (WatchEvent2<K> | JointEnd2<K>)[]
  /**
   * Why two bodies or colliders meet or do not: every check in order, with its verdict. `String()` of it is a text.
   * @throws KeenError `bad-argument`, `foreign-handle`, `locked` inside a decide hook
   * @example console.log(String(world.explain(craft, beacon)))
   */
  explain(a: Body2<K> | Collider2<K>, b: Body2<K> | Collider2<K>): Explanation
}

/** What a world can have or do without: forces, the texts of explanations, saving as bytes. */
export interface Features2 extends CoreFeatures {
  readonly makeForces: MakeForces2 | null
}

/** For a world that only shows another. */
const ONLY_QUERIES: Features2 = { makeForces: null, reasons: null, makeSaver: null }

/** A world of 2D: bodies and colliders, watches, the tick, and queries. Made by `createWorld`. */
// biome-ignore lint/suspicious/noUnsafeDeclarationMerging: see above
export class World2<K extends Kinds = AnyKinds> extends ForcedWorld<
  K,
  Body2<K>,
  Collider2<K>,
  MutableVec2,
  Shape2,
  ColliderSpec2<K>,
  BodySpec2<K>,
  Place,
  Surface,
  Vec2,
  Forces2,
  JointEnd2<K>
> {
  /** What rays meet. */
  readonly raycast: Raycast<K>
  /** What moving shapes meet. */
  readonly shapecast: Shapecast<K>
  /** What standing shapes overlap. */
  readonly overlap: Overlap<K>
  /** What is nearest to a point or a shape. */
  readonly nearest: Nearest<K>
  /** @internal */ readonly kernel: Kernel2
  private readonly pool: Pool2<K>

  /** @internal */
  constructor(options: WorldOptions2<K['layer'], K['tag'], K['data']>, features: Features2) {
    let kernel!: Kernel2
    super(options, FIELDS, GAP_SIZE, features, (setup) => {
      kernel = new Kernel2(setup, features.makeForces)
      return kernel
    })
    this.kernel = kernel
    this.setOptions(options)
    const pool: Pool2<K> = new ScratchPool<K, Body2<K>, Collider2<K>, Scratch<K>, MutableVec2>(
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
  past(ago: number): Past<World2<K>> {
    const { tick, show } = this.pastOf(ago)
    return new Past(tick, show as unknown as () => World2<K>)
  }

  protected override newBeside(): World2<K> {
    const { layers, unit, rate } = this
    return new World2<K>({ layers, unit, rate, advise: false } as never, ONLY_QUERIES)
  }

  /**
   * Joins two bodies, or a body and the world. Two that are joined do not touch unless `touching` says so.
   * @throws KeenError `bad-argument`, `bad-number`, `duplicate-name`, `dead-handle`, `foreign-handle`, `locked`
   * @example world.join({ type: 'hinge', a: post, b: door, at: { x: 3, y: 1 }, limits: { min: 0, max: 1.5 } })
   */
  join(spec: JointSpec2<K>): Joint2<K> {
    return this.forces('join').joints.join(spec, (body, what) => {
      if (!(body instanceof Body2)) throw new KeenError('bad-argument', `${what} is a body, got ${show(body)}`)
      this.owned(body as Body2<K>, what)
      return body
    })
  }

  /** The joints of the world in the order of their age. Allocates. */
  joints(): Joint2<K>[] {
    return this.kernel.forces?.joints.all() ?? []
  }

  /** Hears of the end of every joint, until it is stopped. */
  watchJoints(handlers: JointHandlers<JointEnd2<K>>): JointWatch {
    return this.forces('watchJoints').joints.watch(handlers)
  }

  protected override travelParts(): TravelParts<K, Body2<K>, Collider2<K>, MutableVec2> {
    const { kernel, pool } = this
    const { velocity } = kernel.poses
    return {
      vectors: VECTORS,
      pool,
      newCaster: () => new Caster2(kernel),
      space: riderSpace(kernel),
      velocity,
      velocitySize: 3,
    }
  }

  protected override checkGravity(value: unknown, what: string): void {
    checkVec(value, what, ACCELERATION * this.unit)
  }

  protected override readGravity([x, y]: Float64Array): Vec2 {
    return Object.freeze({ x, y })
  }

  protected override writeGravity({ x, y }: Vec2, out: Float64Array): void {
    out[0] = x
    out[1] = y
  }

  protected override checkPose(spec: BodySpec2<K>): Float64Array {
    const at = checkVec(spec.at ?? ORIGIN, "'at' of a body")
    newPose[0] = at.x
    newPose[1] = at.y
    newPose[2] = finite(spec.angle ?? 0, "'angle' of a body", ANGLE)
    return newPose
  }

  protected override checkMotion(spec: BodySpec2<K>, type: BodyType): void {
    if (spec.velocity !== undefined) checkVec(spec.velocity, "'velocity' of a body", SPEED * this.unit)
    if (spec.spin !== undefined) finite(spec.spin, "'spin' of a body", SPIN)
    this.checkForcedFields(spec, type)
    checkDynamic(spec)
  }

  protected override checkIsShape(shape: unknown, what: string): void {
    refuseNoShape(shape, what)
  }

  protected override checkPlace(spec: ColliderSpec2<K>, what: string): Place {
    if (spec.at === undefined && spec.angle === undefined) return AT_ORIGIN
    const at = checkVec(spec.at ?? ORIGIN, `'at' of ${what}`)
    const angle = finite(spec.angle ?? 0, `'angle' of ${what}`, ANGLE)
    return { at, angle, pose: poseNumbers(at, angle) }
  }

  protected override checkSurface(spec: ColliderSpec2<K>, what: string): Surface {
    if (isUsual(spec) && spec.surfaceSpeed === undefined) return USUAL
    return {
      numbers: [
        ...checkSurface(spec, what),
        finite(spec.surfaceSpeed ?? 0, `'surfaceSpeed' of ${what}`, SPEED * this.unit),
      ],
      oneWay: checkOneWay(spec.oneWay, `'oneWay' of ${what}`),
    }
  }

  /** @internal */
  override makeBody(slot: number, name: string | null, data: K['data']): Body2<K> {
    return new Body2<K>(this, slot, name, data)
  }

  /** @internal */
  override makeCollider(slot: number, body: Body2<K>, shape: Shape2, { at, angle }: Place): Collider2<K> {
    return new Collider2<K>(this, slot, body, shape, at, angle)
  }

  protected override get atOrigin(): Place {
    return AT_ORIGIN
  }

  protected override canWait(shape: Shape2, place: Place): boolean {
    // Tiles have to know their colliders.
    return shape.kind !== 'tiles' && super.canWait(shape, place)
  }

  protected override partsOf(spec: ColliderSpec2<K>): readonly ColliderSpec2<K>[] | null {
    const { shape } = spec
    if (shape.kind !== 'tiles') return null
    return shape.grow().map((part, group) => ({ ...spec, ...behaviourOf<K>(part, group), shape: part }))
  }

  protected override checkReshape(collider: Collider2<K>, shape: Shape2): void {
    if (shape.kind !== 'tiles' || shape.grid.groups.length === 1) return
    throw new KeenError(
      'bad-shape',
      `${collider} cannot take tiles whose kinds differ in layer, response or material, for they are several colliders: attach() them, and remove() this one`,
    )
  }

  protected override bringIn(collider: number, shape: Shape2, pose: Float64Array): void {
    if (shape.kind === 'tiles') shape.ground?.bringIn(shape.group, collider, pose, this.kernel)
    else super.bringIn(collider, shape, pose)
  }

  protected override showThen(collider: number, shape: Shape2, pose: Float64Array): void {
    super.showThen(collider, shape, pose)
    this.population.handles.of(collider).shownIn(this.kernel, shape)
  }

  protected override poseOf({ at, angle }: Collider2<K>): Float64Array {
    return poseNumbers(at, angle)
  }

  protected override setUp(body: Body2<K>, spec: BodySpec2<K>): void {
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
    this.kernel.poses.velocity.data.fill(0, 3 * body, 3 * body + 3)
  }
}

/** What tiles of a behaviour set instead of their collider. */
function behaviourOf<K extends Kinds>({ grid }: Tiles, group: number): Partial<ColliderSpec2<K>> {
  return grid.groups[group].fields as Partial<ColliderSpec2<K>>
}

/** Where a body will be. */
const newPose = new Float64Array(3)

/** The surface of most colliders. It is only read. */
const USUAL: Surface = { numbers: [...checkSurface({}, ''), 0], oneWay: ORIGIN }

/** Where most colliders are within their body. It is only read. */
const AT_ORIGIN: Place = { at: ORIGIN, angle: 0, pose: poseNumbers(ORIGIN, 0) }

/** A pose within a body, as numbers. */
function poseNumbers(at: Vec2, angle: number): Float64Array {
  const pose = new Float64Array(5)
  writePose(at, angle, pose)
  return pose
}
