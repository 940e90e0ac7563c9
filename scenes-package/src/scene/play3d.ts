/** A scene of 3D made into a world, with the models that it names. */

import { defineLayers, type Kinds, type WatchEvent } from 'keen-sentry'
import {
  type Body3,
  blast,
  type Collider3,
  type ColliderSpec3,
  createWorld,
  type Joint3,
  type JointSpec3,
  type Pose3,
  type RayHit3,
  type Rotation,
  rotated,
  type Vec3,
  type World3,
} from 'keen-sentry/3d'
import { atan2, multiply, UPRIGHT, writeTurn } from 'keen-sentry/internal'
import { type Models, modelParts, modelShape } from './models.ts'
import { type BodyAction, type PlayedFilter, PlayerCore, type RayState, type Step, type Stepped } from './player.ts'
import type { NodeRule, Scene3, SceneAction3, SceneBody3, SceneCollider3, SceneJoint3, SceneRay3 } from './schema3d.ts'
import { rotation3, sceneShape3, vector3 } from './shapes3d.ts'

/** What is kept with each body of a scene of 3D: its part of the file. */
export interface SceneKinds3 extends Kinds {
  /** Layers are known by their names in the file. */
  layer: string
  /** Tags are known by their names in the file. */
  tag: string
  /** The body's part of the file. */
  data: SceneBody3
}

type Vec = { x: number; y: number; z: number }
/** A world that a scene of 3D is played in. */
export type SceneWorld3 = World3<SceneKinds3>
/** An event of a scene of 3D. */
export type SceneEvent3 = WatchEvent<Body3<SceneKinds3>, Collider3<SceneKinds3>, Vec>
/** A ray of a scene of 3D and what it meets now. */
export type RayState3 = RayState<SceneRay3, Vec, RayHit3<SceneKinds3>>

/** Plays a scene of 3D, tick by tick. */
export class ScenePlayer3 extends PlayerCore<
  SceneKinds3,
  Body3<SceneKinds3>,
  Collider3<SceneKinds3>,
  Vec,
  RayHit3<SceneKinds3>,
  SceneAction3,
  SceneRay3,
  Joint3<SceneKinds3>
> {
  /** The dimension of the scene. */
  readonly dimension = '3d'
  /** The scene that is played. */
  readonly scene: Scene3
  /** The world that it is played in. */
  readonly world: SceneWorld3
  /** Way points of each body that has a path; one without a rotation keeps that of the point before. */
  private readonly ways = new Map<string, readonly Pose3[]>()

  /**
   * @param models as `loadModels` gives them; needed where the scene names some
   * @throws KeenError when the scene was not checked, as `readScene` does; `bad-model`, `bad-shape` by a model
   */
  constructor(scene: Scene3, models: Models = new Map(), advise = false) {
    super(scene)
    this.scene = scene
    const { names, otherwise, pairs } = scene.layers
    this.world = createWorld<string, string, SceneBody3>({
      layers: defineLayers(names, { otherwise, pairs }),
      tags: scene.tags ?? [],
      rate: scene.rate ?? 60,
      unit: scene.unit ?? 1,
      gravity: scene.gravity && vector3(scene.gravity),
      pushOut: scene.pushOut,
      burst: scene.burst,
      advise,
    })
    this.world.watchJoints({ end: (event) => this.ended(event) })
    this.begin((index) => this.addBody(scene.bodies[index], models), scene.actions ?? [], scene.rays ?? [])
  }

  private addBody(spec: SceneBody3, models: Models): Body3<SceneKinds3> {
    const way = spec.path === undefined ? null : wayPoints(spec)
    if (way !== null) this.ways.set(spec.name, way)
    const own = (spec.colliders ?? []).map((each) => ({
      ...filterOf(each),
      shape: sceneShape3(each.shape),
      at: each.at && vector3(each.at),
      rotation: each.rotation && rotation3(each.rotation),
    }))
    const fromModel = spec.model === undefined ? [] : modelParts(spec.model, models)
    return this.world.add({
      name: spec.name,
      type: spec.type,
      at: spec.at === undefined ? way?.[0].at : vector3(spec.at),
      rotation: spec.rotation === undefined ? way?.[0].rotation : rotation3(spec.rotation),
      enabled: spec.enabled,
      velocity: spec.velocity && vector3(spec.velocity),
      spin: spec.spin && vector3(spec.spin),
      mass: spec.mass,
      inertia: spec.inertia && vector3(spec.inertia),
      gravityScale: spec.gravityScale,
      damping: spec.damping,
      spinDamping: spec.spinDamping,
      locks: spec.locks,
      sweep: spec.sweep,
      sleeps: spec.sleeps,
      data: spec,
      colliders: [...own, ...fromModel.map((part) => ({ ...filterOf(part.rule), shape: modelShape(part) }))],
    })
  }

  protected actOwn(body: Body3<SceneKinds3>, action: BodyAction<SceneAction3>): boolean | null {
    if (action.do === 'teleport') {
      const { at, rotation } = action
      body.teleport({ at: vector3(at), rotation: rotation === undefined ? body.rotation : rotation3(rotation) })
      return true
    }
    if (action.do === 'push') {
      if (body.type !== 'dynamic') return false
      body.applyImpulse(vector3(action.impulse), action.at && this.carried(action.at, body))
      return true
    }
    if (action.do !== 'blast') return null
    const { reach, strength, cover } = action
    blast(this.world, { at: body.at, reach, strength, cover, except: body })
    return true
  }

  protected join(spec: object): Joint3<SceneKinds3> {
    return this.world.join(spec as JointSpec3<SceneKinds3>)
  }

  protected targetOf(target: Extract<SceneJoint3, { type: 'carry' }>['target']) {
    return isPoint(target) ? vector3(target) : { at: vector3(target.at), rotation: rotation3(target.rotation) }
  }

  protected drive(joint: Joint3<SceneKinds3>, action: Extract<SceneAction3, { do: 'motor' | 'aim' }>): void {
    if (action.do === 'motor') joint.motor = action.motor
    else joint.target = this.targetOf(action.target)
  }

  protected carried(point: readonly [number, number, number], carrier: Body3<SceneKinds3> | null): Vec {
    const { x, y, z } = vector3(point)
    if (carrier === null) return { x, y, z }
    const turned = rotated(carrier.rotation, { x, y, z })
    const { at } = carrier
    return { x: at.x + turned.x, y: at.y + turned.y, z: at.z + turned.z }
  }

  protected cast(from: Vec, to: Vec, filter: PlayedFilter<Body3<SceneKinds3>>): RayHit3<SceneKinds3> | null {
    return this.world.raycast.first({ from, to }, filter)
  }

  protected wayTo(
    body: Body3<SceneKinds3>,
    from: readonly [number, number, number],
    to: readonly [number, number, number],
  ): number[] {
    const points = this.ways.get(body.name!)!
    const place = ([before, next, part]: readonly [number, number, number]): Vec =>
      between(points[before].at, points[next].at, part)
    const [a, b] = [place(from), place(to)]
    return [b.x - a.x, b.y - a.y, b.z - a.z]
  }

  protected travel(body: Body3<SceneKinds3>, step: Step): Stepped<Vec> {
    const { onHit, walk } = step
    const options = walk === undefined ? { onHit } : { onHit, up: { x: 0, y: 1, z: 0 }, ...walk }
    const { moved, ground, heading, hits } = body.travel({ x: step.by[0], y: step.by[1], z: step.by[2] }, options)
    return { risen: moved.y, stands: ground !== null, heading: [heading.x, heading.y, heading.z], hits }
  }

  protected placeOf(body: Body3<SceneKinds3>): Vec {
    return { ...body.at }
  }

  protected pull(): number {
    return this.world.gravity.y
  }

  protected leadTo(body: Body3<SceneKinds3>, from: number, to: number, part: number): void {
    const points = this.ways.get(body.name!)!
    const a = points[from]
    const b = points[to]
    body.arriveAt({ at: between(a.at, b.at, part), rotation: shortWay(a.rotation!, b.rotation!, part) })
  }
}

function filterOf(spec: SceneCollider3 | NodeRule): Omit<ColliderSpec3<SceneKinds3>, 'shape'> {
  const { layer, tags, sensor, solid, sense, enabled, density, friction, restitution, surfaceVelocity, oneWay } = spec
  return {
    layer,
    tags,
    sensor,
    solidBits: solid,
    senseBits: sense,
    enabled,
    density,
    friction,
    restitution,
    surfaceVelocity: surfaceVelocity && vector3(surfaceVelocity),
    oneWay: oneWay && vector3(oneWay),
  }
}

function wayPoints(spec: SceneBody3): Pose3[] {
  let rotation: Rotation = spec.rotation === undefined ? UPRIGHT : rotation3(spec.rotation)
  return spec.path!.points.map((point) => {
    if (point.rotation !== undefined) rotation = rotation3(point.rotation)
    return { at: vector3(point.at), rotation }
  })
}

function between(a: Vec3, b: Vec3, part: number): Vec3 {
  return { x: a.x + (b.x - a.x) * part, y: a.y + (b.y - a.y) * part, z: a.z + (b.z - a.z) * part }
}

/** Two quaternions, their product, a turn. */
const work = new Float64Array(15)

/** A part of the shorter way from one rotation to another, at an even pace. */
function shortWay(a: Rotation, b: Rotation, part: number): Rotation {
  if (part === 0) return a
  if (part === 1) return b
  work.set([b.x, b.y, b.z, b.w, -a.x, -a.y, -a.z, a.w], 0)
  multiply(work, 0, work, 4, work, 8)
  const side = work[11] < 0 ? -1 : 1
  const sine = Math.sqrt(work[8] * work[8] + work[9] * work[9] + work[10] * work[10])
  if (sine === 0) return a
  const angle = (2 * atan2(sine, side * work[11]) * part * side) / sine
  for (let i = 0; i < 3; i++) work[12 + i] = work[8 + i] * angle
  writeTurn(work, 12, work, 8)
  work.set([a.x, a.y, a.z, a.w], 4)
  multiply(work, 8, work, 4, work, 0)
  const [x, y, z, w] = work
  return { x, y, z, w }
}

const isPoint = <P extends readonly number[]>(target: P | object): target is P => Array.isArray(target)
