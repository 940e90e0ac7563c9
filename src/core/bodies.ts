/**
 * How bodies and colliders come into a world, from checked specifications, and how they change there. Knows no dimension: that brings
 * poses, shapes and what forces need.
 */
import { PASS, RESPONSE_NAMES, SOLID } from './filter/filter.ts'
import type { LayerSet, Layers } from './filter/layers.ts'
import type { AnyJointEnd } from './joints/joint.ts'
import type { HistoryHost } from './save/history.ts'
import type { Asked } from './save/past.ts'
import type { BodyHandle, ColliderHandle, Kinds, NeedsData } from './state/handle.ts'
import type { SourcePiece } from './state/pieces.ts'
import { BODY_TYPES, type BodyType, DYNAMIC, STATIC } from './state/population.ts'
import { DISTANCE } from './step/distances.ts'
import { ANY_DISTANCE, type JointStages, type Kernel, type KernelSetup } from './step/kernel.ts'
import type { Traveller } from './travel/traveller.ts'
import { flag, list, oneOf, onlyFields } from './util/checks.ts'
import { KeenError, show } from './util/errors.ts'
import { type CoreFeatures, WorldCore, type WorldOptions } from './world.ts'

/** A shape and how it is filtered, to be put on a body, as far as it knows no dimension. */
export interface ColliderSpec<K extends Kinds, Shape, V> {
  shape: Shape
  /** Where it is: a layer, several, or a mask. Fills in whom it treats how, from the pair table. */
  layer: LayerSet<K['layer']>
  /** Place of the shape's origin within the body. Default: the body's own origin. */
  at?: V | undefined
  tags?: readonly K['tag'][] | undefined
  /** Never presses, only senses. Default false. */
  sensor?: boolean | undefined
  /** Default true. */
  enabled?: boolean | undefined
  /** What it is solid to, by hand instead of from the pair table. */
  solidBits?: LayerSet<K['layer']> | undefined
  /** What it senses, by hand instead of from the pair table. */
  senseBits?: LayerSet<K['layer']> | undefined
}

/** What a body is made from, as far as it knows no dimension. */
export interface BodySpec<K extends Kinds, Spec, V> {
  /** `'static'` stands still, `'kinematic'` moves as it is told, `'dynamic'` as forces and contacts have it. */
  type: BodyType
  /** Default: the origin. */
  at?: V | undefined
  /** Unique among the living bodies of the world. */
  name?: string | undefined
  colliders?: readonly Spec[] | undefined
  /** Default true. */
  enabled?: boolean | undefined
  /** Lengths a second; not for static bodies. */
  velocity?: V | undefined
  /** Anything of the user's. */
  data?: K['data'] | undefined
}

/** Whom a body overlaps now: asked afresh from shapes and filter. */
export interface Overlap<B, C> {
  readonly mine: C
  readonly other: C
  readonly body: B
  readonly response: 'solid' | 'sense'
}

/** Whom a body touched in the last step. */
export interface Touch<B, C, V> {
  readonly mine: C
  readonly other: C
  readonly body: B
  readonly response: 'solid'
  /** Between the nearest points of the two, where they stand now. */
  readonly point: V
  /** Unit normal towards this body. */
  readonly normal: V
  /** Newton seconds by which the two pressed in the last step; 0 where neither is dynamic. */
  readonly impulse: number
}

const NO_DISTANCE = Float64Array.of(0)

/** The fields of bodies and colliders of a dimension, and what it adds to the options of a world. */
export interface SpecFields {
  readonly world: readonly string[]
  readonly body: readonly string[]
  readonly collider: readonly string[]
}

/** The fields of a body: with the name of its turn, and what forces need. */
export function bodyFields<const T extends string, const M extends string>(turn: T, more: readonly M[]) {
  return ['type', 'at', turn, 'name', 'colliders', 'enabled', 'velocity', 'spin', ...more, 'data'] as const
}

/** The fields of a collider: with the name of its turn, and what forces need. */
export function colliderFields<const T extends string, const M extends string>(turn: T, more: readonly M[]) {
  const filtering = ['tags', 'sensor', 'enabled', 'solidBits', 'senseBits'] as const
  return ['shape', 'layer', 'at', turn, ...filtering, ...more] as const
}

const NOTHING: readonly unknown[] = Object.freeze([])

/** What messages call the colliders of a body. */
function nameOf(index: number): string {
  return index === 0 ? 'colliders[0]' : `colliders[${index}]`
}

/** A shape of either dimension. */
export interface AnyShape {
  readonly kind: string
  /** @internal */ readonly pieces: readonly SourcePiece[]
}

/** Where a shape is within its body: as the dimension keeps it, and as numbers. */
interface AnyPlace {
  readonly pose: Float64Array
}

/** A body that has passed all checks. */
interface CheckedBody<K extends Kinds, Body, Spec, Place, Surface> {
  readonly spec: Body & NeedsData<K['data']>
  readonly type: BodyType
  readonly name: string | null
  readonly pose: Float64Array
  readonly enabled: boolean
  readonly colliders: readonly CheckedCollider<Spec, Place, Surface>[]
}

/** A specification that has passed all checks. */
interface CheckedCollider<Spec, Place, Surface> {
  readonly spec: Spec
  readonly layer: number
  readonly solid: number | null
  readonly sense: number | null
  readonly place: Place
  readonly tags: number
  readonly sensor: boolean
  readonly enabled: boolean
  readonly surface: Surface
}

export abstract class WorldOfBodies<
  K extends Kinds,
  B extends BodyHandle<K, C>,
  C extends ColliderHandle<K, B> & { readonly shape: Shape },
  V extends object,
  Shape extends AnyShape,
  Spec extends ColliderSpec<K, Shape, unknown>,
  Body extends BodySpec<K, Spec, unknown> & { readonly spin?: unknown },
  Place extends AnyPlace,
  Surface,
  E extends AnyJointEnd = AnyJointEnd,
> extends WorldCore<K, B, C, V, E> {
  /** @internal */ abstract readonly kernel: Kernel<V>
  private readonly fields: SpecFields
  private readonly pairRecord: Float64Array

  /** @internal */
  constructor(
    options: WorldOptions<K['layer'], K['tag'], K['data']>,
    fields: SpecFields,
    recordSize: number,
    features: CoreFeatures,
    makeKernel: (setup: KernelSetup) => Kernel<V>,
  ) {
    super(options, fields.world, features, makeKernel)
    this.fields = fields
    const { bodyHandles, filter, handles } = this.population
    handles.makeBy((slot, shape) => {
      const body = bodyHandles[filter.body.data[slot]]!
      return this.makeCollider(slot, body, shape as Shape, this.atOrigin)
    })
    this.pairRecord = new Float64Array(recordSize)
  }

  /**
   * Adds a body with its colliders. Queries see it at once; what it meets begins with the next step, cause `added`.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, `unknown-layer`, `unknown-tag`, `duplicate-name`
   */
  add(spec: Body & NeedsData<K['data']>): B {
    this.population.guard('add')
    return this.putBody(this.checkBody(spec))
  }

  /**
   * Adds many bodies at once, in their order, or none if there is anything wrong with one of them: then the message says which.
   * @example world.addAll(rocks.map((at) => ({ type: 'static', at, colliders: [{ shape, layer: 'rock' }] })))
   * @throws KeenError as `add`
   */
  addAll(specs: readonly (Body & NeedsData<K['data']>)[]): B[] {
    this.population.guard('addAll')
    const all = list(specs, 'the bodies of addAll') as readonly (Body & NeedsData<K['data']>)[]
    const names = new Set<string>()
    let colliders = 0
    // Checked twice: what a check makes is let go at once, for a million of them would be more than the bodies themselves.
    all.forEach((spec, index) => {
      try {
        const { name, colliders: parts } = this.checkBody(spec)
        colliders += parts.length
        if (name === null) return
        if (names.has(name)) throw new KeenError('duplicate-name', `a body before it is called ${show(name)}`)
        names.add(name)
      } catch (error) {
        throw error instanceof KeenError
          ? new KeenError(error.code, `body ${index} of addAll: ${error.message}`)
          : error
      }
    })
    this.population.bodies.reserve(all.length)
    this.population.colliders.reserve(colliders)
    return all.map((spec) => this.putBody(this.checkBody(spec)))
  }

  /** Checks what a body is made from. */
  private checkBody(spec: Body & NeedsData<K['data']>): CheckedBody<K, Body, Spec, Place, Surface> {
    onlyFields(spec, this.fields.body, 'a body')
    const type = oneOf(spec.type, BODY_TYPES, "'type' of a body")
    this.checkType(type)
    const name = this.checkName(spec.name)
    const pose = this.checkPose(spec)
    const enabled = flag(spec.enabled, true, "'enabled' of a body")
    const colliders: CheckedCollider<Spec, Place, Surface>[] = []
    const specs = list(spec.colliders ?? NOTHING, "'colliders' of a body")
    for (let i = 0; i < specs.length; i++) this.checkCollider(specs[i] as Spec, type, nameOf(i), colliders)
    if (type === 'static' && (spec.velocity !== undefined || spec.spin !== undefined)) {
      throw new KeenError('bad-argument', "a static body takes no 'velocity' and no 'spin'; make it kinematic")
    }
    this.checkMotion(spec, type)
    return { spec, type, name, pose, enabled, colliders }
  }

  private putBody({ spec, type, name, pose, enabled, colliders }: CheckedBody<K, Body, Spec, Place, Surface>): B {
    const slot = this.population.addBody(BODY_TYPES.indexOf(type), enabled)
    const body = this.makeBody(slot, name, spec.data as K['data'])
    this.register(body)
    this.begin(slot, pose, type)
    for (const each of colliders) this.put(body, each)
    this.setUp(body, spec)
    return body
  }

  /** The collider behind a number that `raycast.batch` wrote; null when it was removed or was -1. */
  colliderAt(id: number): C | null {
    return typeof id === 'number' ? this.population.handles.find(id) : null
  }

  /** @internal */
  attach(body: B, spec: Spec): C {
    const checked: CheckedCollider<Spec, Place, Surface>[] = []
    this.checkCollider(spec, body.type, 'a collider', checked)
    const [first] = checked.map((each) => this.put(body, each))
    body.changeColliders()
    return this.population.handles.of(first)
  }

  /** @internal */
  reshape(collider: C, shape: Shape): void {
    const { slot } = collider
    this.checkShape(shape, collider.body.type, String(collider))
    this.checkReshape(collider, shape)
    const { broadPhase } = this.kernel
    broadPhase.takeOut(slot)
    broadPhase.geometry.remove(slot)
    this.bringIn(slot, shape, this.poseOf(collider))
    this.population.markReshaped(slot)
    this.kernel.wakeTouching(slot)
  }

  /** @internal */
  teleport(body: number, pose: Float64Array): void {
    this.kernel.teleport(body, pose)
    this.kernel.riders?.forget(body)
    this.population.markTeleported(body)
  }

  /** @internal */
  aim(body: number, pose: Float64Array): void {
    this.kernel.poses.setTarget(body, pose)
  }

  private travels: Traveller<K, B, C, V> | null = null

  /** @internal */
  get traveller(): Traveller<K, B, C, V> {
    this.travels ??= this.makeTraveller()
    return this.travels
  }

  /** Whether there is what moves bodies by `travel`, which keeps a state of its own. @internal */
  get hasTraveller(): boolean {
    return this.travels !== null
  }

  /** @internal */
  needTraveller(): void {
    this.travels ??= this.makeTraveller()
  }

  /** @internal */
  get jointsNow(): JointStages | null {
    return this.kernel.forces?.joints ?? null
  }

  /** What moves bodies by `travel`; made when it is first asked for. */
  protected abstract makeTraveller(): Traveller<K, B, C, V>

  /** @internal */
  overlapsOf(body: B): Overlap<B, C>[] {
    this.population.guardQuery()
    const { kernel, population, pairRecord } = this
    const overlaps: Overlap<B, C>[] = []
    kernel.refresh()
    for (const mine of body.colliders) {
      for (const d of kernel.candidates.nearColliders(mine.slot)) {
        const response = population.filter.respond(mine.slot, d)
        if (response === PASS) continue
        kernel.distances.between(mine.slot, d, NO_DISTANCE, pairRecord)
        if (pairRecord[DISTANCE] > 0) continue
        const other = population.handles.of(d)
        overlaps.push({ mine, other, body: other.body, response: RESPONSE_NAMES[response] as 'solid' | 'sense' })
      }
    }
    return overlaps
  }

  /** @internal */
  touchesOf(body: B): Touch<B, C, V>[] {
    this.population.guardQuery()
    const { pairs, population, kernel, pairRecord } = this
    const { filter, type } = population
    kernel.refresh()
    const touches: Touch<B, C, V>[] = []
    for (const mine of body.colliders) {
      const c = mine.slot
      const own: Touch<B, C, V>[] = []
      const push = (d: number, normal: V, impulse: number): void => {
        const other = population.handles.of(d)
        const point = kernel.middleOf(pairRecord)
        own.push({ mine, other, body: other.body, response: 'solid', point, normal, impulse })
      }
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        const pair = edge >> 1
        if (pairs.state.data[pair] !== SOLID) continue
        const isA = (edge & 1) === 0
        const d = (isA ? pairs.b : pairs.a).data[pair]
        kernel.distances.between(c, d, ANY_DISTANCE, pairRecord)
        push(d, kernel.normalTowards(pair, isA), pairs.impulse.data[pair])
      }
      // A pair that nobody presses apart is on the books only as long as somebody watches it.
      const unpressed = type.data[body.slot] === DYNAMIC ? [] : kernel.candidates.nearColliders(c)
      for (const d of unpressed) {
        if (filter.respond(c, d) !== SOLID || filter.isPressed(c, d) || kernel.candidates.pairOf(c, d) >= 0) continue
        if (kernel.touches(c, d, pairRecord)) push(d, kernel.normalTowardsFirst(pairRecord), 0)
      }
      own.sort((a, b) => a.other.serial - b.other.serial)
      for (const touch of own) touches.push(touch)
    }
    return touches
  }

  /** @internal */
  override retype(body: number, type: number): void {
    const { population, kernel } = this
    this.checkType(BODY_TYPES[type])
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const handle = population.handles.of(c)
      this.checkShape(handle.shape, BODY_TYPES[type], String(handle))
      kernel.wakeTouching(c)
    }
    this.changeType(body, type)
    super.retype(body, type)
    if (type === STATIC) this.stopMotion(body)
    this.typeChanged(body)
  }

  protected override refiltered(c: number): void {
    this.kernel.broadPhase.refilter(c)
    this.weigh(this.population.filter.body.data[c])
  }

  protected override takenOut(c: number): void {
    this.kernel.broadPhase.takeOut(c)
    this.weigh(this.population.filter.body.data[c])
  }

  protected override lastHeld(): number {
    return this.kernel.poses.held
  }

  protected override lastTests(): number {
    return this.kernel.distances.tests
  }

  // What a dimension brings. Checks throw, naming what was wrong.

  /** Whether bodies of a type can be in a world of this dimension. */
  protected abstract checkType(type: BodyType): void
  /** The pose of a body, as numbers that are valid until the next call. */
  protected abstract checkPose(spec: Body): Float64Array
  protected abstract checkMotion(spec: Body, type: BodyType): void
  /** Whether it is a shape of this dimension. */
  protected abstract checkIsShape(shape: unknown, what: string, type: BodyType): void
  /** Where a collider is within its body. */
  protected abstract checkPlace(spec: Spec, what: string): Place
  protected abstract checkSurface(spec: Spec, what: string): Surface
  /** @internal */
  abstract makeBody(slot: number, name: string | null, data: K['data']): B
  /** @internal */
  abstract makeCollider(slot: number, body: B, shape: Shape, place: Place): C
  /** The place of most colliders: at the origin of their body. */
  protected abstract get atOrigin(): Place
  /** Whether the handle of a new collider can be made when somebody asks for it. */
  protected canWait(_shape: Shape, place: Place): boolean {
    return place === this.atOrigin
  }
  /** The pose of a collider within its body, as numbers. */
  protected abstract poseOf(collider: C): Float64Array
  /** A world with the same layers in which nothing moves, to show the past in. */
  protected abstract newBeside(): Asked & WorldOfBodies<K, B, C, V, Shape, Spec, Body, Place, Surface, E>

  /** What history asks of this world. */
  protected asHost(): HistoryHost<C> {
    const { kernel, population } = this
    return {
      population,
      kernel: kernel as never,
      layers: () => this.layers as unknown as Layers,
      showLayers: (layers) => this.showLayers(layers),
      shapeOf: (collider) => collider.shape as never,
      placeOf: (collider) => this.poseOf(collider),
      showShape: (collider, shape, pose) => this.showThen(collider, shape as never, pose),
      beside: () => {
        const world = this.newBeside()
        world.present = this
        const { raycast, shapecast, overlap, nearest } = world
        return Object.assign(world.asHost(), { raycast, shapecast, overlap, nearest })
      },
    }
  }
  /** In a world that shows the past: takes a shape of then in. */
  protected showThen(collider: number, shape: Shape, pose: Float64Array): void {
    this.kernel.broadPhase.add(collider, shape.pieces, pose)
  }
  /** A new body is where it is. */
  protected abstract begin(body: number, pose: Float64Array, type: BodyType): void
  /** A new body gets what its specification says of forces and motion. */
  protected abstract setUp(body: B, spec: Body): void
  /** A new collider gets what its specification says of its surface. */
  protected setSurface(_collider: number, _surface: Surface): void {}
  /** A body is about to get another type. */
  protected changeType(_body: number, _type: number): void {}
  /** A body was removed; its slot is still its own. */
  protected override buried(body: number): void {
    this.kernel.ways.drop(body)
    this.kernel.riders?.forget(body)
  }
  /** A body has another type. */
  protected abstract typeChanged(body: number): void
  protected abstract stopMotion(body: number): void
  /** The specifications that one stands for, where its shape has parts that are filtered in different ways; else null. */
  protected partsOf(_spec: Spec): readonly Spec[] | null {
    return null
  }
  /** Throws where a collider cannot get another shape. */
  protected checkReshape(_collider: C, _shape: Shape): void {}
  /** Takes the pieces of a collider in. */
  protected bringIn(collider: number, shape: Shape, pose: Float64Array): void {
    this.kernel.broadPhase.add(collider, shape.pieces, pose)
  }
  /** Weighs a body again after a change of its colliders. @internal */
  weigh(_body: number): void {}

  private checkShape(shape: unknown, type: BodyType, what: string): void {
    this.checkIsShape(shape, `'shape' of ${what}`, type)
    if ((shape as Shape).kind === 'halfspace' && type !== 'static') {
      throw new KeenError('bad-shape', `${what} is a halfspace, which belongs on a static body`)
    }
  }

  /** Adds the colliders that a specification stands for: the first is its own, others come with what its shape says. */
  private checkCollider(spec: Spec, type: BodyType, what: string, out: CheckedCollider<Spec, Place, Surface>[]): void {
    onlyFields(spec, this.fields.collider, what)
    this.checkShape(spec.shape, type, what)
    const parts = this.partsOf(spec)
    if (parts === null) out.push(this.checkPart(spec, what))
    else for (const part of parts) out.push(this.checkPart(part, what))
  }

  private checkPart(spec: Spec, what: string): CheckedCollider<Spec, Place, Surface> {
    if (spec.layer === undefined) throw new KeenError('bad-argument', `${what} needs a 'layer'`)
    const { layer, solidBits, senseBits, tags, sensor, enabled } = spec
    // Most fields are left out: the text of a message is built only where it may be needed.
    return {
      spec,
      layer: this.layers.word(layer, typeof layer === 'string' ? what : `'layer' of ${what}`),
      solid: solidBits === undefined ? null : this.layers.word(solidBits, `'solidBits' of ${what}`),
      sense: senseBits === undefined ? null : this.layers.word(senseBits, `'senseBits' of ${what}`),
      place: this.checkPlace(spec, what),
      tags: tags === undefined || tags === null ? 0 : this.tags.set(tags, `'tags' of ${what}`),
      sensor: sensor === undefined ? false : flag(sensor, false, `'sensor' of ${what}`),
      enabled: enabled === undefined ? true : flag(enabled, true, `'enabled' of ${what}`),
      surface: this.checkSurface(spec, what),
    }
  }

  private put(body: B, checked: CheckedCollider<Spec, Place, Surface>): number {
    const { population } = this
    const { handles } = population
    const { shape } = checked.spec
    const slot = population.addCollider(body.slot, this.layers, checked.layer, checked.enabled, checked.sensor)
    population.tagSet.data[slot] = checked.tags
    if (this.canWait(shape, checked.place)) handles.wait(slot, shape)
    else handles.put(slot, this.makeCollider(slot, body, shape, checked.place))
    this.bringIn(slot, shape, checked.place.pose)
    this.setSurface(slot, checked.surface)
    this.weigh(body.slot)
    if (checked.solid !== null) population.setSolid(slot, checked.solid)
    if (checked.sense !== null) population.setSense(slot, checked.sense)
    if (checked.solid !== null || checked.sense !== null) this.wordsChanged(slot)
    return slot
  }
}
