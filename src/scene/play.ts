/** A scene made into a world, and the player that carries out its paths, actions and rays tick by tick. */
import { type Body2, blast, type Collider2, createWorld, type RayHit2, type World2 } from '../2d/index.ts'
import { defineLayers, KeenError, type Kinds, type Watch, type WatchEvent } from '../core/index.ts'
import { cosSin } from '../core/maths.ts'
import type { Scene, SceneAction, SceneBody, SceneRay, SceneSide, SceneWatch } from './schema.ts'
import { sceneShape, vector } from './shapes.ts'

/** What is kept with each body of a scene: its part of the file. */
export interface SceneKinds extends Kinds {
  layer: string
  tag: string
  data: SceneBody
}

export type SceneWorld = World2<SceneKinds>
export type SceneEvent = WatchEvent<Body2<SceneKinds>, Collider2<SceneKinds>, { x: number; y: number }>

/** A ray of the scene, where it runs now and what it meets. */
export interface RayState {
  readonly ray: SceneRay
  /** In the world; null when the body that carries it is gone. */
  readonly from: { readonly x: number; readonly y: number } | null
  readonly to: { readonly x: number; readonly y: number } | null
  readonly hit: RayHit2<SceneKinds> | null
}

/** What happened in one step, in order. */
export interface StepReport {
  /** Actions carried out before the step. */
  readonly actions: readonly SceneAction[]
  readonly events: readonly SceneEvent[]
  /** Rays that meet something else than after the step before. */
  readonly rays: readonly RayState[]
}

/** Seconds by which an action may come late through rounding. */
const SLACK = 1e-9
const DEFAULT_TICKS = 600
/** Angle, cos, sin. */
const turned = new Float64Array(3)

export class ScenePlayer {
  readonly scene: Scene
  readonly world: SceneWorld
  /** Ticks that the scene runs, as the file says. */
  readonly ticks: number
  /** The rays with what they met in the last step. */
  readonly rays: readonly RayState[]
  private readonly watches = new Map<
    Watch<Body2<SceneKinds>, Collider2<SceneKinds>, { x: number; y: number }>,
    SceneWatch
  >()
  private readonly bodies = new Map<string, Body2<SceneKinds>>()
  /** Each body's colliders as in the file, the removed ones too. */
  private readonly colliders = new Map<Body2<SceneKinds>, readonly Collider2<SceneKinds>[]>()
  private readonly onPath: Travel[] = []
  private readonly pending: SceneAction[]
  private events: SceneEvent[] = []

  /** @throws KeenError when the scene was not checked, as `readScene` does */
  constructor(scene: Scene) {
    this.scene = scene
    this.ticks = scene.ticks ?? DEFAULT_TICKS
    const { names, otherwise, pairs } = scene.layers
    this.world = createWorld<string, string, SceneBody>({
      layers: defineLayers(names, { otherwise, pairs }),
      tags: scene.tags ?? [],
      rate: scene.rate ?? 60,
      unit: scene.unit ?? 1,
      gravity: scene.gravity && vector(scene.gravity),
      pushOut: scene.pushOut,
      burst: scene.burst,
    })
    for (const body of scene.bodies) this.addBody(body)
    this.pending = [...(scene.actions ?? [])].sort((a, b) => a.time - b.time)
    this.rays = (scene.rays ?? []).map((ray) => ({ ray, from: null, to: null, hit: null }))
    for (const watch of scene.watches ?? [{ a: '*', b: '*' }]) this.addWatch(watch)
    for (let index = 0; index < this.rays.length; index++) this.castRay(index)
  }

  /** The part of the file that a watch was made from. */
  watchOf(event: SceneEvent): SceneWatch {
    return this.watches.get(event.watch)!
  }

  /** One tick: due actions, paths, the world's step, then the rays. */
  step(): StepReport {
    const actions: SceneAction[] = []
    while (this.pending.length > 0 && this.pending[0].time <= this.world.time + SLACK) {
      const action = this.pending.shift()!
      if (this.act(action)) actions.push(action)
    }
    for (const travel of this.onPath)
      if (travel.body.alive && travel.body.type === 'kinematic') follow(travel, this.world.time + this.world.dt)
    this.events = []
    this.world.step()
    const rays: RayState[] = []
    for (let index = 0; index < this.rays.length; index++) if (this.castRay(index)) rays.push(this.rays[index])
    return { actions, events: this.events, rays }
  }

  private addBody(spec: SceneBody): void {
    const at = spec.at ?? spec.path?.points[0].at ?? [0, 0]
    const body = this.world.add({
      name: spec.name,
      type: spec.type,
      at: vector(at),
      angle: spec.angle ?? spec.path?.points[0].angle ?? 0,
      enabled: spec.enabled,
      velocity: spec.velocity && vector(spec.velocity),
      spin: spec.spin,
      mass: spec.mass,
      inertia: spec.inertia,
      gravityScale: spec.gravityScale,
      damping: spec.damping,
      spinDamping: spec.spinDamping,
      locks: spec.locks,
      sweep: spec.sweep,
      sleeps: spec.sleeps,
      data: spec,
      colliders: (spec.colliders ?? []).map((each) => ({
        shape: sceneShape(each.shape),
        layer: each.layer,
        at: each.at && vector(each.at),
        angle: each.angle,
        tags: each.tags,
        sensor: each.sensor,
        solidBits: each.solid,
        senseBits: each.sense,
        enabled: each.enabled,
        density: each.density,
        friction: each.friction,
        restitution: each.restitution,
        surfaceSpeed: each.surfaceSpeed,
        oneWay: each.oneWay && vector(each.oneWay),
      })),
    })
    this.bodies.set(spec.name, body)
    this.colliders.set(body, body.colliders)
    if (spec.path !== undefined) this.onPath.push({ body, points: wayPoints(spec), loop: spec.path.loop === true })
  }

  private addWatch(spec: SceneWatch): void {
    const tell = (event: SceneEvent): void => {
      this.events.push(event.keep() as SceneEvent)
    }
    const kinds = spec.kinds ?? (spec.over === undefined ? ['begin', 'end'] : ['begin', 'end', 'impact'])
    const watch = this.world.watch(
      this.side(spec.a),
      this.side(spec.b),
      Object.fromEntries(kinds.map((kind) => [kind, tell])),
      { key: spec.name, per: spec.per, response: spec.response, once: spec.once, kinds, over: spec.over },
    )
    this.watches.set(watch, spec)
  }

  private side(
    side: SceneSide,
  ): string | readonly string[] | Body2<SceneKinds> | Collider2<SceneKinds> | { tag: string } {
    if (typeof side === 'string' || Array.isArray(side)) return side
    if ('tag' in side) return side
    const body = this.body(side.body)
    return side.collider === undefined ? body : body.colliders[side.collider]
  }

  private body(name: string): Body2<SceneKinds> {
    const body = this.bodies.get(name)
    if (body === undefined) throw new KeenError('unknown-name', `the scene has no body called ${JSON.stringify(name)}`)
    return body
  }

  /** Carries an action out; false when its body or collider is gone by then. */
  private act(action: SceneAction): boolean {
    const body = this.body(action.body)
    if (!body.alive) return false
    if (action.do === 'teleport') {
      // A teleport leaves the path: the next way point would only drag the body back.
      const index = this.onPath.findIndex((travel) => travel.body === body)
      if (index >= 0) this.onPath.splice(index, 1)
      body.teleport({ at: vector(action.at), angle: action.angle ?? body.angle })
      return true
    }
    if (action.do === 'push') {
      if (body.type !== 'dynamic') return false
      body.applyImpulse(vector(action.impulse), action.at && carried(action.at, body))
      return true
    }
    if (action.do === 'type') {
      body.type = action.type
      return true
    }
    if (action.do === 'blast') {
      const { reach, strength, cover } = action
      blast(this.world, { at: body.at, reach, strength, cover, except: body })
      return true
    }
    const chosen = action.collider
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

  /** Casts a ray anew; true when it meets another collider than before. */
  private castRay(index: number): boolean {
    const rays = this.rays as RayState[]
    const { ray, hit: before } = rays[index]
    const carrier = ray.body === undefined ? null : this.body(ray.body)
    if (carrier !== null && !carrier.alive) {
      rays[index] = { ray, from: null, to: null, hit: null }
      return before !== null
    }
    const from = carried(ray.from, carrier)
    const to = carried(ray.to, carrier)
    const except = (ray.filter?.except ?? []).map((name) => this.body(name)).filter((body) => body.alive)
    if (carrier !== null) except.push(carrier)
    const hit = this.world.raycast.first(
      { from, to },
      { layers: ray.filter?.layers, sensors: ray.filter?.sensors, except },
    )
    rays[index] = { ray, from, to, hit }
    return hit?.collider !== before?.collider
  }
}

function carried(point: readonly [number, number], carrier: Body2<SceneKinds> | null): { x: number; y: number } {
  if (carrier === null) return vector(point)
  turned[0] = carrier.angle
  cosSin(turned, 0)
  const { x, y } = carrier.at
  return {
    x: x + turned[1] * point[0] - turned[2] * point[1],
    y: y + turned[2] * point[0] + turned[1] * point[1],
  }
}

interface WayPoint {
  readonly time: number
  readonly x: number
  readonly y: number
  readonly angle: number
}

/** A body on its path. */
interface Travel {
  readonly body: Body2<SceneKinds>
  readonly points: readonly WayPoint[]
  readonly loop: boolean
}

/** The way points of a body; one without an angle keeps that of the point before. */
function wayPoints(spec: SceneBody): WayPoint[] {
  let angle = spec.angle ?? 0
  return spec.path!.points.map((point) => {
    angle = point.angle ?? angle
    return { time: point.time, x: point.at[0], y: point.at[1], angle }
  })
}

/** Sends a body to where its path has it at a time. */
function follow({ body, points, loop }: Travel, time: number): void {
  const start = points[0].time
  const length = points[points.length - 1].time - start
  const at = loop && time > start ? start + ((time - start) % length) : time
  let next = points.findIndex((point) => point.time > at)
  if (next < 0) next = points.length - 1
  const b = points[next]
  const a = points[Math.max(0, next - 1)]
  const part = a === b ? 1 : Math.min(1, Math.max(0, (at - a.time) / (b.time - a.time)))
  body.arriveAt({
    at: { x: a.x + (b.x - a.x) * part, y: a.y + (b.y - a.y) * part },
    angle: a.angle + (b.angle - a.angle) * part,
  })
}
