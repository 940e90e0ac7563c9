/** Mistakes of a 3D scene: its geometry, and what only bodies that fall do wrong. */

import { type AskingShape3, type Collider3, distance, type Pose3, rotated } from 'keen-sentry/3d'
import { multiply } from 'keen-sentry/internal'
import { Finder, type Part } from './mistakes.ts'
import { type Models, modelParts } from './models.ts'
import { type SceneKinds3, ScenePlayer3 } from './play3d.ts'
import type { SceneBody } from './schema.ts'
import type { Scene3, SceneBody3 } from './schema3d.ts'

type Made = Collider3<SceneKinds3>

/** Metres that a fall is followed. */
const FALL = 1e4

export class Finder3 extends Finder<Made> {
  private readonly scene3: Scene3
  private readonly models: Models
  /** The scene before its first tick. */
  private readonly player: ScenePlayer3

  constructor(scene: Scene3, models: Models) {
    super(scene)
    this.scene3 = scene
    this.models = models
    this.player = new ScenePlayer3(scene, models)
  }

  protected parts(index: number): Part[] {
    const { colliders = [], model } = this.scene3.bodies[index]
    const own = colliders.map((spec, at): Part => ({ spec, path: ['colliders', at] }))
    if (model === undefined) return own
    return [
      ...own,
      ...modelParts(model, this.models).map(
        (part): Part => ({ spec: part.rule, path: ['model', 'nodes', part.index] }),
      ),
    ]
  }

  protected *standing() {
    for (const body of this.player.world.bodies()) {
      for (const { mine, other, body: met, response } of body.overlapping()) {
        if (response !== 'solid' || met.serial < body.serial) continue
        yield { name: body.name!, body: met, mine, other, depth: depthOf(mine, other) }
      }
    }
  }

  protected madeJoints() {
    return this.player.world.joints()
  }

  protected ownMistakes(_body: SceneBody, index: number): void {
    const body = this.scene3.bodies[index]
    if (body.type !== 'dynamic') return
    if (!this.isJoined(body.name)) this.floor(body, index)
    const mover = this.player.world.find(body.name)!
    if (body.mass !== undefined || mover.colliders.length === 0) return
    const light = mover.colliders.every((each) => each.sensor || each.density === 0 || each.shape.volume === 0)
    if (light) this.noMass(index, 'volume')
  }

  /** A dynamic body that falls, and that nothing solid is below: on a sensor, or on nothing at all. */
  private floor(body: SceneBody3, index: number): void {
    const { world } = this.player
    const { x, y, z } = world.gravity
    const scale = body.gravityScale ?? 1
    const length = Math.sqrt(x * x + y * y + z * z) * Math.abs(scale)
    const { locks = {} } = body
    if (length === 0 || locks.x === true || locks.y === true || locks.z === true) return
    const mover = world.find(body.name)!
    const part = (scale * FALL) / length
    let sensor: Made | null = null
    for (const collider of mover.colliders) {
      const { at: from, rotation } = poseOf(collider)
      const to = { x: from.x + x * part, y: from.y + y * part, z: from.z + z * part }
      const motion = { shape: collider.shape as AskingShape3, from, to, rotation }
      for (const hit of world.shapecast.all(motion, { as: collider, response: 'any', except: mover })) {
        if (hit.body.type === 'dynamic') continue
        if (this.isSolid(collider, hit.collider)) return
        sensor ??= hit.collider
      }
    }
    if (mover.colliders.length > 0) this.noFloor(index, body.name, sensor?.body.name ?? null)
  }
}

/** Where a collider is in the world. */
function poseOf({ body, at, rotation }: Made): Pose3 {
  const own = rotated(body.rotation, at)
  const product = new Float64Array(12)
  product.set([body.rotation.x, body.rotation.y, body.rotation.z, body.rotation.w], 0)
  product.set([rotation.x, rotation.y, rotation.z, rotation.w], 4)
  multiply(product, 0, product, 4, product, 8)
  const [x, y, z, w] = product.subarray(8)
  return { at: { x: body.at.x + own.x, y: body.at.y + own.y, z: body.at.z + own.z }, rotation: { x, y, z, w } }
}

function depthOf(one: Made, other: Made): number {
  return -distance(one.shape, poseOf(one), other.shape, poseOf(other)).distance
}
