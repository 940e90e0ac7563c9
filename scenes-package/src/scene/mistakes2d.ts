/** Mistakes of a scene of 2D: its geometry, and what only bodies that fall do wrong. */

import { type AskingShape2, type Collider2, distance, type Pose2 } from 'keen-sentry/2d'
import { cosSin } from 'keen-sentry/internal'
import { Finder, type Part } from './mistakes.ts'
import { type SceneKinds2, ScenePlayer2 } from './play2d.ts'
import type { SceneBody } from './schema.ts'
import type { Scene2, SceneBody2 } from './schema2d.ts'

type Made = Collider2<SceneKinds2>

/** Metres that a fall is followed. */
const FALL = 1e4

export class Finder2 extends Finder<Made> {
  private readonly plane: Scene2
  /** The scene before its first tick. */
  private readonly player: ScenePlayer2

  constructor(scene: Scene2) {
    super(scene)
    this.plane = scene
    this.player = new ScenePlayer2(scene)
  }

  protected parts(index: number): Part[] {
    return (this.plane.bodies[index].colliders ?? []).map((spec, at) => ({ spec, path: ['colliders', at] }))
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
    const body = this.plane.bodies[index]
    if (body.type !== 'dynamic') return
    // What is joined may hang on what it is joined to.
    if (!this.isJoined(body.name)) this.floor(body, index)
    this.weight(body, index)
  }

  /** A dynamic body that falls, and that nothing solid is below: on a sensor, or on nothing at all. */
  private floor(body: SceneBody2, index: number): void {
    const { world } = this.player
    const { x, y } = world.gravity
    const scale = body.gravityScale ?? 1
    const length = Math.sqrt(x * x + y * y) * Math.abs(scale)
    if (length === 0 || body.locks?.y === true || body.locks?.x === true) return
    const mover = world.find(body.name)!
    const fall = { x: (x * scale * FALL) / length, y: (y * scale * FALL) / length }
    let sensor: Made | null = null
    for (const collider of mover.colliders) {
      const { shape } = collider
      // A polyline cannot be cast; a halfspace does not fall.
      if (shape.kind === 'polyline' || shape.kind === 'halfspace') continue
      const { at: from, angle } = poseOf(collider)
      const to = { x: from.x + fall.x, y: from.y + fall.y }
      for (const hit of world.shapecast.all(
        { shape: shape as AskingShape2, from, to, angle },
        { as: collider, response: 'any', except: mover },
      )) {
        if (hit.body.type === 'dynamic') continue
        if (this.isSolid(collider, hit.collider)) return
        sensor ??= hit.collider
      }
    }
    if (mover.colliders.length > 0) this.noFloor(index, body.name, sensor?.body.name ?? null)
  }

  /** A dynamic body whose mass nobody has thought of. */
  private weight(body: SceneBody2, index: number): void {
    if (body.mass !== undefined || (body.colliders ?? []).length === 0) return
    const mover = this.player.world.find(body.name)!
    const light = mover.colliders.every((each) => each.sensor || each.density === 0 || each.shape.area === 0)
    if (light) this.noMass(index, 'area')
  }
}

/** Where a collider is in the world. */
function poseOf({ body, at, angle }: Made): Pose2 {
  const turn = Float64Array.of(body.angle, 0, 0)
  cosSin(turn, 0)
  const [, cos, sin] = turn
  const place = { x: body.at.x + cos * at.x - sin * at.y, y: body.at.y + sin * at.x + cos * at.y }
  return { at: place, angle: body.angle + angle }
}

function depthOf(one: Made, other: Made): number {
  return -distance(one.shape, poseOf(one), other.shape, poseOf(other)).distance
}
