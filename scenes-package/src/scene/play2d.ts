/** A scene of 2D made into a world. */

import { defineLayers, type Kinds, type WatchEvent } from 'keen-sentry'
import {
  type AskingShape2,
  type Body2,
  blast,
  type Collider2,
  createWorld,
  type Joint2,
  type JointSpec2,
  type RayHit2,
  type World2,
} from 'keen-sentry/2d'
import { cosSin } from 'keen-sentry/internal'
import { type BodyAction, type PlayedFilter, PlayerCore, type RayState, type Step, type Stepped } from './player.ts'
import type { Scene2, SceneAction2, SceneBody2, SceneJoint2, SceneRay2 } from './schema2d.ts'
import { sceneShape2, vector2 } from './shapes2d.ts'

/** What is kept with each body of a scene of 2D: its part of the file. */
export interface SceneKinds2 extends Kinds {
  /** Layers are known by their names in the file. */
  layer: string
  /** Tags are known by their names in the file. */
  tag: string
  /** The body's part of the file. */
  data: SceneBody2
}

type Vec = { x: number; y: number }
/** A world that a scene of 2D is played in. */
export type SceneWorld2 = World2<SceneKinds2>
/** An event of a scene of 2D. */
export type SceneEvent2 = WatchEvent<Body2<SceneKinds2>, Collider2<SceneKinds2>, Vec>
/** A ray of a scene of 2D and what it meets now. */
export type RayState2 = RayState<SceneRay2, Vec, RayHit2<SceneKinds2>>

/** Angle, cos, sin. */
const turned = new Float64Array(3)

/** Plays a scene of 2D, tick by tick. */
export class ScenePlayer2 extends PlayerCore<
  SceneKinds2,
  Body2<SceneKinds2>,
  Collider2<SceneKinds2>,
  Vec,
  RayHit2<SceneKinds2>,
  SceneAction2,
  SceneRay2,
  Joint2<SceneKinds2>
> {
  /** The dimension of the scene. */
  readonly dimension = '2d'
  /** The scene that is played. */
  readonly scene: Scene2
  /** The world that it is played in. */
  readonly world: SceneWorld2
  /** Way points of each body that has a path; one without an angle keeps that of the point before. */
  private readonly ways = new Map<string, readonly WayPoint[]>()

  /** @throws KeenError when the scene was not checked, as `readScene` does */
  constructor(scene: Scene2, advise = false) {
    super(scene)
    this.scene = scene
    const { names, otherwise, pairs } = scene.layers
    this.world = createWorld<string, string, SceneBody2>({
      layers: defineLayers(names, { otherwise, pairs }),
      tags: scene.tags ?? [],
      rate: scene.rate ?? 60,
      unit: scene.unit ?? 1,
      gravity: scene.gravity && vector2(scene.gravity),
      pushOut: scene.pushOut,
      burst: scene.burst,
      advise,
    })
    this.world.watchJoints({ end: (event) => this.ended(event) })
    this.begin((index) => this.addBody(scene.bodies[index]), scene.actions ?? [], scene.rays ?? [])
  }

  private addBody(spec: SceneBody2): Body2<SceneKinds2> {
    if (spec.path !== undefined) this.ways.set(spec.name, wayPoints(spec))
    const at = spec.at ?? spec.path?.points[0].at ?? [0, 0]
    return this.world.add({
      name: spec.name,
      type: spec.type,
      at: vector2(at),
      angle: spec.angle ?? spec.path?.points[0].angle ?? 0,
      enabled: spec.enabled,
      velocity: spec.velocity && vector2(spec.velocity),
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
        shape: sceneShape2(each.shape),
        layer: each.layer,
        at: each.at && vector2(each.at),
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
        oneWay: each.oneWay && vector2(each.oneWay),
      })),
    })
  }

  protected actOwn(body: Body2<SceneKinds2>, action: BodyAction<SceneAction2>): boolean | null {
    if (action.do === 'teleport') {
      body.teleport({ at: vector2(action.at), angle: action.angle ?? body.angle })
      return true
    }
    if (action.do === 'push') {
      if (body.type !== 'dynamic') return false
      body.applyImpulse(vector2(action.impulse), action.at && this.carried(action.at, body))
      return true
    }
    if (action.do === 'tile') {
      const ground = groundOf(body)
      if (ground === null) return false
      ground.setTile(action.column, action.row, action.tile)
      return true
    }
    if (action.do === 'carve') return this.carve(body, action)
    if (action.do !== 'blast') return null
    const { reach, strength, cover } = action
    blast(this.world, { at: body.at, reach, strength, cover, except: body })
    return true
  }

  /** Takes tiles away; what is cut off becomes a body of its own. */
  private carve(body: Body2<SceneKinds2>, action: Extract<SceneAction2, { do: 'carve' }>): boolean {
    const ground = groundOf(body)
    if (ground === null) return false
    const { shape, at, angle, tiles, cutOff, layer } = action
    const { pieces } = ground.carve({
      shape: sceneShape2(shape) as AskingShape2,
      at: vector2(at),
      angle,
      tiles,
      cutOff,
    })
    for (const piece of pieces) {
      const name = this.pieceName(body.name!)
      this.world.add({
        type: 'dynamic',
        name,
        at: piece.at,
        angle: piece.angle,
        data: { name, type: 'dynamic' },
        colliders: [{ shape: piece.shape, layer: layer ?? ground.layer, density: ground.density }],
      })
    }
    return true
  }

  /** The first name that no piece has now: it depends on nothing but the world, so that a run in the middle goes on alike. */
  private pieceName(of: string): string {
    let number = 1
    while (this.world.find(`${of} piece ${number}`) !== null) number++
    return `${of} piece ${number}`
  }

  protected join(spec: object): Joint2<SceneKinds2> {
    return this.world.join(spec as JointSpec2<SceneKinds2>)
  }

  protected targetOf(target: Extract<SceneJoint2, { type: 'carry' }>['target']) {
    return isPoint(target) ? vector2(target) : { at: vector2(target.at), angle: target.angle }
  }

  protected drive(joint: Joint2<SceneKinds2>, action: Extract<SceneAction2, { do: 'motor' | 'aim' }>): void {
    if (action.do === 'motor') joint.motor = action.motor
    else joint.target = this.targetOf(action.target)
  }

  protected carried(point: readonly [number, number], carrier: Body2<SceneKinds2> | null): Vec {
    if (carrier === null) return vector2(point)
    turned[0] = carrier.angle
    cosSin(turned, 0)
    const { x, y } = carrier.at
    return {
      x: x + turned[1] * point[0] - turned[2] * point[1],
      y: y + turned[2] * point[0] + turned[1] * point[1],
    }
  }

  protected cast(from: Vec, to: Vec, filter: PlayedFilter<Body2<SceneKinds2>>): RayHit2<SceneKinds2> | null {
    return this.world.raycast.first({ from, to }, filter)
  }

  protected wayTo(
    body: Body2<SceneKinds2>,
    from: readonly [number, number, number],
    to: readonly [number, number, number],
  ): number[] {
    const points = this.ways.get(body.name!)!
    const place = ([before, next, part]: readonly [number, number, number]): Vec => {
      const [a, b] = [points[before], points[next]]
      return { x: a.x + (b.x - a.x) * part, y: a.y + (b.y - a.y) * part }
    }
    const [a, b] = [place(from), place(to)]
    return [b.x - a.x, b.y - a.y]
  }

  protected travel(body: Body2<SceneKinds2>, step: Step): Stepped<Vec> {
    const { onHit, walk } = step
    const options = walk === undefined ? { onHit } : { onHit, up: { x: 0, y: 1 }, ...walk }
    const { moved, ground, heading, hits } = body.travel({ x: step.by[0], y: step.by[1] }, options)
    return { risen: moved.y, stands: ground !== null, heading: [heading.x, heading.y], hits }
  }

  protected placeOf(body: Body2<SceneKinds2>): Vec {
    return { ...body.at }
  }

  protected pull(): number {
    return this.world.gravity.y
  }

  protected leadTo(body: Body2<SceneKinds2>, from: number, to: number, part: number): void {
    const points = this.ways.get(body.name!)!
    const a = points[from]
    const b = points[to]
    body.arriveAt({
      at: { x: a.x + (b.x - a.x) * part, y: a.y + (b.y - a.y) * part },
      angle: a.angle + (b.angle - a.angle) * part,
    })
  }
}

/** The collider of a body that is made of tiles. */
function groundOf(body: Body2<SceneKinds2>): Collider2<SceneKinds2> | null {
  return body.colliders.find(({ shape }) => shape.kind === 'tiles') ?? null
}

interface WayPoint extends Vec {
  readonly angle: number
}

function wayPoints(spec: SceneBody2): WayPoint[] {
  let angle = spec.angle ?? 0
  return spec.path!.points.map((point) => {
    angle = point.angle ?? angle
    return { x: point.at[0], y: point.at[1], angle }
  })
}

const isPoint = <P extends readonly number[]>(target: P | object): target is P => Array.isArray(target)
