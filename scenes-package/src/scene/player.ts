/** The player of a scene, as far as it knows no dimension: watches, actions, paths and rays, tick by tick. */

import { KeenError, type Kinds, type Snapshot, type Watch, type WatchEvent } from 'keen-sentry'
import type { BodyHandle, ColliderHandle, WorldCore } from 'keen-sentry/internal'
import type { SceneSide, SceneWatch } from './parts.ts'
import type { Scene, SceneAction, SceneJoint, SceneRay } from './schema.ts'

/** A ray of the scene, where it runs now and what it meets. */
export interface RayState<R, V, H> {
  /** The ray as the file has it. */
  readonly ray: R
  /** In the world; null when the body that carries it was removed. */
  readonly from: Readonly<V> | null
  /** Where it would end, in the world; null when the body that carries it was removed. */
  readonly to: Readonly<V> | null
  /** What it meets; null for nothing. */
  readonly hit: H | null
}

/** What happened in one step, in order. */
export interface StepReport<A, E, R, J> {
  /** Actions carried out before the step. */
  readonly actions: readonly A[]
  /** What was told, in order. */
  readonly events: readonly E[]
  /** Joints that ended, in order. */
  readonly joints: readonly J[]
  /** Rays that meet something else than after the step before. */
  readonly rays: readonly R[]
}

/** What a ray asks through, as the world takes it. */
export interface PlayedFilter<B> {
  layers?: readonly string[] | undefined
  sensors?: boolean | 'only' | undefined
  except: B[]
}

/** An action on a joint that does not end it; one on a body. */
export type JointAction = Extract<SceneAction, { do: 'motor' | 'aim' }>
export type BodyAction<A> = Exclude<A, { readonly joint: string }>

/** A target of a hand: a point, or a point and a turn. */
export type SceneTarget = Extract<SceneJoint, { type: 'carry' }>['target']

/** The fields of a joint that are points or directions. */
const POINTS = ['at', 'atA', 'atB', 'axis', 'turn'] as const

/** What a body is told that walks. */
type SceneWalk = NonNullable<Scene['bodies'][number]['walk']>

/** How a travelling body moves in a tick. */
export interface Step {
  /** Metres along each axis. */
  readonly by: number[]
  readonly onHit: 'stop' | 'slide' | 'bounce'
  /** For what walks. */
  readonly walk?:
    | { steepest?: number | undefined; stepHeight: number; snap: number; ride: boolean; push: number }
    | undefined
}

/** What came of it. */
export interface Stepped<V> {
  /** Metres upwards that it came. */
  readonly risen: number
  readonly stands: boolean
  /** The direction in which it would go on. */
  readonly heading: readonly number[]
  readonly hits: readonly {
    readonly collider: object
    readonly at: V
    readonly point: V
    readonly normal: V
    readonly pushed: boolean
  }[]
}

/** The way of a body that travels, as far as it is kept for a picture. */
export interface Trail<V> {
  /** The name of the body. */
  readonly name: string
  /** Where it was after each tick, the latest last; with its hits in between. */
  readonly points: readonly V[]
  /** Where it met something, and the normal there. */
  readonly hits: readonly { readonly point: V; readonly normal: V }[]
}

/** Points and hits of a way that are kept. */
const KEPT_POINTS = 1200
const KEPT_HITS = 120
const STEP_HEIGHT = 0.3
const SNAP = 0.2

/** Seconds by which an action may come late through rounding. */
const SLACK = 1e-9
const DEFAULT_TICKS = 600

/** A joint, as a player needs it. */
export interface PlayedJoint {
  readonly name: string | null
  readonly alive: boolean
  remove(): void
}

/** The end of a joint, as a player reports it. */
export interface PlayedEnd<J, B> {
  readonly joint: J
  readonly a: B
  readonly b: B | null
  readonly cause: 'broken' | 'removed'
  readonly force: number
  readonly torque: number
  readonly tick: number
  readonly time: number
}

export abstract class PlayerCore<
  K extends Kinds & { layer: string; tag: string },
  B extends BodyHandle<K, C>,
  C extends ColliderHandle<K, B>,
  V extends object,
  H extends { readonly collider: C },
  A extends SceneAction,
  R extends SceneRay,
  J extends PlayedJoint,
> {
  abstract readonly scene: Scene
  abstract readonly world: WorldCore<K, B, C, V>
  /** Ticks that the scene runs, as the file says. */
  readonly ticks: number
  private states: readonly RayState<R, V, H>[] = []
  private readonly watches = new Map<object, SceneWatch>()
  private readonly named = new Map<string, B>()
  private readonly joints = new Map<string, J>()
  private ends: PlayedEnd<J, B>[] = []
  /** Each body's colliders as in the file, the removed ones too. */
  private readonly colliders = new Map<B, readonly C[]>()
  private readonly travels = new Map<B, Travel>()
  private readonly walks = new Map<B, Walk>()
  private readonly kept = new Map<B, { name: string; points: V[]; hits: { point: V; normal: V }[]; met: string[] }>()
  /** In the order in which they come, and those that are still to come. */
  private actions: readonly A[] = []
  private pending: readonly A[] = []
  private events: WatchEvent<B, C, V>[] = []

  constructor(scene: Scene) {
    this.ticks = scene.ticks ?? DEFAULT_TICKS
  }

  /** The rays with what they met in the last step. */
  get rays(): readonly RayState<R, V, H>[] {
    return this.states
  }

  /** The ways of what travels and walks, as far as they are kept: of the last ticks. */
  get trails(): readonly Trail<V>[] {
    return [...this.kept.values()]
  }

  /** The part of the file that a watch was made from. */
  watchOf(event: { readonly watch: object }): SceneWatch {
    return this.watches.get(event.watch)!
  }

  /** The part of the file that a joint was made from; undefined for one that is not of the file, such as a hand that holds something. */
  jointOf({ name }: { readonly name: string | null }): SceneJoint | undefined {
    return this.scene.joints?.find((joint) => joint.name === name)
  }

  /** One tick: due actions, paths, the world's step, then the rays. */
  step(): StepReport<A, WatchEvent<B, C, V>, RayState<R, V, H>, PlayedEnd<J, B>> {
    const { world } = this
    const actions: A[] = []
    while (this.pending.length > 0 && this.pending[0].time <= world.time + SLACK) {
      const [action, ...later] = this.pending
      this.pending = later
      if (this.carryOut(action)) actions.push(action)
    }
    for (const [body, travel] of this.travels) {
      if (body.alive && body.type === 'kinematic') this.follow(body, travel, world.time + world.dt)
    }
    for (const [body, walk] of this.walks) {
      if (body.alive && body.type === 'kinematic') this.walk(body, walk)
    }
    this.events = []
    this.ends = []
    world.step()
    return { actions, events: this.events, joints: this.ends, rays: this.castRays() }
  }

  /** What the player knows beside the world: of a run in the middle, for {@link resume}. */
  state(): PlayerState {
    const names = new Map([...this.named].map(([name, body]) => [body, name]))
    return {
      actionsLeft: this.pending.length,
      paths: Object.fromEntries([...this.travels].map(([body, { heading }]) => [names.get(body)!, heading])),
      walks: Object.fromEntries(
        [...this.walks].map(([body, { next, move, up, stands }]) => [names.get(body)!, { next, move, up, stands }]),
      ),
    }
  }

  /**
   * Goes on from where a run of the same scene was, or goes back to where this one was. The ways of what travels begin anew.
   * @param world the bytes of its world, as `world.save()` gave them; or a snapshot of this world
   * @throws KeenError `bad-save`, `unknown-name`
   */
  resume(world: Uint8Array | Snapshot, { actionsLeft, paths, walks }: PlayerState): void {
    this.world.restore(world)
    this.pending = this.actions.slice(Math.max(0, this.actions.length - actionsLeft))
    for (const trail of this.kept.values()) trail.points.length = trail.hits.length = trail.met.length = 0
    this.travels.clear()
    for (const { name, path } of this.scene.bodies) {
      if (path === undefined || !Object.hasOwn(paths, name)) continue
      this.travels.set(this.body(name), { ...travelOf(path), heading: paths[name] })
    }
    for (const [name, walk] of Object.entries(walks)) Object.assign(this.walks.get(this.body(name)) ?? {}, walk)
    this.castRays()
  }

  /** Puts the scene into the world, body by body. */
  protected begin(add: (index: number) => B, actions: readonly A[], rays: readonly R[]): void {
    for (const [index, spec] of this.scene.bodies.entries()) {
      const body = add(index)
      this.named.set(spec.name, body)
      this.colliders.set(body, body.colliders)
      if (spec.path !== undefined) this.travels.set(body, travelOf(spec.path))
      if (spec.walk !== undefined)
        this.walks.set(body, { spec: spec.walk, next: 0, move: [0, 0], up: 0, stands: false })
      if (spec.path?.onHit !== undefined || spec.walk !== undefined) {
        this.kept.set(body, { name: spec.name, points: [], hits: [], met: [] })
      }
    }
    for (const joint of this.scene.joints ?? []) this.joints.set(joint.name, this.join(this.jointSpec(joint)))
    this.actions = [...actions].sort((a, b) => a.time - b.time)
    this.pending = this.actions
    this.states = rays.map((ray) => ({ ray, from: null, to: null, hit: null }))
    for (const watch of this.scene.watches ?? [{ a: '*', b: '*' }]) this.addWatch(watch)
    this.castRays()
  }

  /** A point of the file in the world, where a body carries it. */
  protected abstract carried(point: readonly number[], carrier: B | null): V
  protected abstract cast(from: V, to: V, filter: PlayedFilter<B>): H | null
  /** Has a body at a part of the way from one point of its path to the next, after the next step. */
  protected abstract leadTo(body: B, from: number, to: number, part: number): void
  /** The way from one place of the path of a body to another, in metres along each axis. */
  protected abstract wayTo(
    body: B,
    from: readonly [number, number, number],
    to: readonly [number, number, number],
  ): number[]
  /** Has a body travel. */
  protected abstract travel(body: B, step: Step): Stepped<V>
  /** Where a body is. */
  protected abstract placeOf(body: B): V
  /** What pulls upwards, in metres a second squared. */
  protected abstract pull(): number
  /** Carries out an action that only this dimension has, or has in its own way; null when it is none of them. */
  protected abstract actOwn(body: B, action: BodyAction<A>): boolean | null

  /** Makes a joint of what stands in the file, its points and directions as vectors. */
  protected abstract join(spec: object): J
  /** A target of a hand in the file, as the world takes it. */
  protected abstract targetOf(target: SceneTarget): object
  /** Drives a joint otherwise, or has a hand go elsewhere. */
  protected abstract drive(joint: J, action: JointAction): void

  /** What a joint of the file is made from: by the same names, but for bodies, points and directions. */
  private jointSpec(joint: SceneJoint): object {
    const { say: _say, ...rest } = joint
    const spec: Record<string, unknown> = { ...rest }
    for (const field of ['a', 'b']) if (spec[field] !== undefined) spec[field] = this.body(spec[field] as string)
    for (const field of POINTS) if (spec[field] !== undefined) spec[field] = this.carried(spec[field] as number[], null)
    if (joint.type === 'carry') spec['target'] = this.targetOf(joint.target)
    return spec
  }

  /** Reports the end of a joint. */
  protected ended(end: PlayedEnd<J, B>): void {
    this.ends.push(end)
  }

  /** Carries an action out; false where there is nothing any more that it could be done to. */
  private carryOut(action: A): boolean {
    if ('joint' in action) {
      const joint = this.joints.get(action.joint)!
      if (!joint.alive) return false
      if (action.do === 'release') joint.remove()
      else this.drive(joint, action)
      return true
    }
    const body = this.body(action.body)
    return body.alive && this.act(body, action as BodyAction<A>)
  }

  protected body(name: string): B {
    const body = this.named.get(name)
    if (body === undefined) throw new KeenError('unknown-name', `the scene has no body called ${JSON.stringify(name)}`)
    return body
  }

  private addWatch(spec: SceneWatch): void {
    const tell = (event: WatchEvent<B, C, V>): void => {
      this.events.push(event.keep())
    }
    const kinds = spec.kinds ?? (spec.over === undefined ? ['begin', 'end'] : ['begin', 'end', 'impact'])
    const watch: Watch<B, C, V> = this.world.watch(
      this.side(spec.a),
      this.side(spec.b),
      Object.fromEntries(kinds.map((kind) => [kind, tell])),
      { key: spec.name, per: spec.per, response: spec.response, once: spec.once, kinds, over: spec.over },
    )
    this.watches.set(watch, spec)
  }

  private side(side: SceneSide): string | readonly string[] | B | C | { tag: string } {
    if (typeof side === 'string' || Array.isArray(side)) return side
    if ('tag' in side) return side
    const body = this.body(side.body)
    return side.collider === undefined ? body : body.colliders[side.collider]
  }

  /** Carries an action out; false when its collider was removed by then. */
  private act(body: B, action: BodyAction<A>): boolean {
    // A teleport leaves the path: the next way point would only drag the body back.
    if (action.do === 'teleport') this.travels.delete(body)
    const done = this.actOwn(body, action)
    if (done !== null) return done
    if (action.do === 'type') {
      body.type = action.type
      return true
    }
    const chosen = 'collider' in action ? action.collider : undefined
    const colliders = chosen === undefined ? body.colliders : [this.colliders.get(body)![chosen]]
    if (chosen !== undefined && !colliders[0].alive) return false
    if (action.do === 'layer') for (const collider of colliders) collider.layer = action.layer
    else if (action.do === 'remove') {
      if (chosen === undefined) body.remove()
      else for (const collider of colliders) collider.remove()
    } else if (chosen === undefined) body.enabled = action.do === 'enable'
    else for (const collider of colliders) collider.enabled = action.do === 'enable'
    return true
  }

  /** Casts all rays again; returns those that meet another collider than before. */
  private castRays(): RayState<R, V, H>[] {
    const before = this.states
    this.states = before.map(({ ray }) => this.castRay(ray))
    return this.states.filter(({ hit }, index) => hit?.collider !== before[index].hit?.collider)
  }

  private castRay(ray: R): RayState<R, V, H> {
    const carrier = ray.body === undefined ? null : this.body(ray.body)
    if (carrier !== null && !carrier.alive) return { ray, from: null, to: null, hit: null }
    const from = this.carried(ray.from, carrier)
    const to = this.carried(ray.to, carrier)
    const except = (ray.filter?.except ?? []).map((name) => this.body(name)).filter((body) => body.alive)
    if (carrier !== null) except.push(carrier)
    const hit = this.cast(from, to, { layers: ray.filter?.layers, sensors: ray.filter?.sensors, except })
    return { ray, from, to, hit }
  }

  /** Sends a body to where its path has it at a time, or has it travel there. */
  private follow(body: B, travel: Travel, time: number): void {
    const { onHit } = travel
    if (onHit === undefined) {
      this.leadTo(body, ...placeAt(travel, time))
      return
    }
    let by = this.wayTo(body, placeAt(travel, time - this.world.dt), placeAt(travel, time))
    // What has bounced goes on as it bounced, as fast as its path has it.
    const { heading } = travel
    if (heading !== null) {
      const length = Math.hypot(...by)
      by = heading.map((part) => part * length)
    }
    const came = this.travel(body, { by, onHit })
    if (onHit === 'bounce' && came.hits.length > 0) travel.heading = came.heading
    this.keep(body, came)
  }

  /** A tick of a body that walks: as it is told, and as gravity has it. */
  private walk(body: B, walk: Walk): void {
    const { spec } = walk
    const { world } = this
    let jumps = false
    for (; walk.next < spec.inputs.length; walk.next++) {
      const input = spec.inputs[walk.next]
      if (input.time > world.time + SLACK) break
      if (input.move !== undefined) walk.move = [input.move].flat()
      if (input.jump === true) jumps = true
    }
    const { jump = 0, steepest, stepHeight = STEP_HEIGHT, snap = SNAP, ride = true, push = 0 } = spec
    if (jumps && walk.stands) walk.up = jump
    else walk.up += this.pull() * world.dt
    const [x, z] = walk.move
    const by = [x * spec.speed * world.dt, walk.up * world.dt, (z ?? 0) * spec.speed * world.dt]
    const came = this.travel(body, { by, onHit: 'slide', walk: { steepest, stepHeight, snap, ride, push } })
    // Ground and ceilings end what it had upwards or downwards.
    if (came.stands || (walk.up > 0 && came.risen < by[1] / 2)) walk.up = 0
    walk.stands = came.stands
    this.keep(body, came)
  }

  /** Keeps the way of a tick for a picture. */
  private keep(body: B, { hits }: Stepped<V>): void {
    const trail = this.kept.get(body)
    if (trail === undefined) return
    const met: string[] = []
    for (const { collider, at, point, normal, pushed } of hits) {
      if (pushed) continue
      // What it meets in every tick, as the ground under its feet, is marked where it was met first.
      const key = `${(collider as C).serial} ${Object.values(normal).map((part) => (part as number).toFixed(2))}`
      met.push(key)
      if (trail.met.includes(key)) continue
      trail.points.push({ ...at })
      trail.hits.push({ point: { ...point }, normal: { ...normal } })
    }
    trail.met = met
    trail.points.push(this.placeOf(body))
    trail.points.splice(0, trail.points.length - KEPT_POINTS)
    trail.hits.splice(0, trail.hits.length - KEPT_HITS)
  }
}

/** Where a path is at a time: between which of its points, and how far. */
function placeAt({ times, loop }: Travel, time: number): [from: number, to: number, part: number] {
  const start = times[0]
  const length = times[times.length - 1] - start
  const at = loop && time > start ? start + ((time - start) % length) : time
  let next = times.findIndex((point) => point > at)
  if (next < 0) next = times.length - 1
  const before = Math.max(0, next - 1)
  const span = times[next] - times[before]
  return [before, next, span === 0 ? 1 : Math.min(1, Math.max(0, (at - times[before]) / span))]
}

/** A body that walks: what it was told last, how fast it rises, whether it stands. */
interface Walk {
  readonly spec: SceneWalk
  next: number
  move: number[]
  up: number
  stands: boolean
}

/** What a player knows beside its world. */
export interface PlayerState {
  /** Actions that are still to come. */
  readonly actionsLeft: number
  /** Of each body that follows its path still: the direction in which it bounced, or null. */
  readonly paths: Readonly<Record<string, readonly number[] | null>>
  /** Of each body that walks: the input that comes next, what it was told last, how fast it rises, whether it stands. */
  readonly walks: Readonly<
    Record<
      string,
      { readonly next: number; readonly move: readonly number[]; readonly up: number; readonly stands: boolean }
    >
  >
}

/** When a body is where on its path. */
interface Travel {
  readonly times: readonly number[]
  readonly loop: boolean
  readonly onHit: 'stop' | 'slide' | 'bounce' | undefined
  /** The direction in which it goes after it has bounced. */
  heading: readonly number[] | null
}

function travelOf({ points, loop, onHit }: NonNullable<Scene['bodies'][number]['path']>): Travel {
  return { times: points.map((point) => point.time), loop: loop === true, onHit, heading: null }
}
