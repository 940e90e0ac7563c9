/** Mistakes of a 3D scene: its geometry, and what only bodies that fall do wrong. */

import { type AskingShape3, type Collider3, distance, type Pose3, rotated } from 'keen-sentry/3d'
import { multiply } from 'keen-sentry/internal'
import { Finder, type Met, type Part } from './mistakes.ts'
import { type Models, modelParts } from './models.ts'
import { type SceneKinds3, ScenePlayer3 } from './play3d.ts'
import type { SceneBody } from './schema.ts'
import type { Scene3 } from './schema3d.ts'

type Made = Collider3<SceneKinds3>

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

  protected madeRays() {
    return this.player.rays
  }

  protected madeJoints() {
    return this.player.world.joints()
  }

  protected ownMistakes(_body: SceneBody, index: number): void {
    const body = this.scene3.bodies[index]
    if (body.type !== 'dynamic') return
    this.fall(index)
    const mover = this.player.world.find(body.name)!
    if (body.mass !== undefined || mover.colliders.length === 0) return
    const light = mover.colliders.every((each) => each.sensor || each.density === 0 || each.shape.volume === 0)
    if (light) this.noMass(index, 'volume')
  }

  protected meets(name: string, a: readonly number[], b: readonly number[]): Met | null {
    const { world } = this.player
    const mover = world.find(name)!
    let sensor: string | null = null
    for (const collider of mover.colliders) {
      const { at, rotation } = poseOf(collider)
      const from = { x: at.x + a[0], y: at.y + a[1], z: at.z + a[2] }
      const to = { x: at.x + b[0], y: at.y + b[1], z: at.z + b[2] }
      const motion = { shape: collider.shape as AskingShape3, from, to, rotation }
      for (const hit of world.shapecast.all(motion, { as: collider, response: 'any', except: mover })) {
        if (hit.body.type === 'dynamic') continue
        if (this.isSolid(collider, hit.collider)) return { solid: true, sensor }
        sensor ??= hit.body.name
      }
    }
    return mover.colliders.length > 0 ? { solid: false, sensor } : null
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
