/** Mistakes of a scene of 2D: its geometry, and what only bodies that fall do wrong. */

import { type AskingShape2, type Collider2, distance, type Pose2, type Tiles } from 'keen-sentry/2d'
import { cosSin } from 'keen-sentry/internal'
import { countKinds, narrowHoles, tileParts } from './levels2d.ts'
import { Finder, type Met, type Part, type Path } from './mistakes.ts'
import { type SceneKinds2, ScenePlayer2 } from './play2d.ts'
import type { SceneBody } from './schema.ts'
import type { Scene2, SceneBody2 } from './schema2d.ts'
import { sceneShape2 } from './shapes2d.ts'

type Made = Collider2<SceneKinds2>

/** Metres up to which what is set into tiles is only flush with them. */
const WITHIN = 0.001

export class Finder2 extends Finder<Made> {
  private readonly plane: Scene2
  /** The scene before its first tick. */
  private readonly player: ScenePlayer2
  /** The colliders of each body. */
  private readonly made = new Map<number, Part[]>()

  constructor(scene: Scene2) {
    super(scene)
    this.plane = scene
    this.player = new ScenePlayer2(scene)
  }

  protected parts(index: number): Part[] {
    let parts = this.made.get(index)
    if (parts === undefined) {
      parts = (this.plane.bodies[index].colliders ?? []).flatMap((spec, at) => {
        const path = ['colliders', at]
        if (spec.shape.kind !== 'tiles') return [{ spec, path }]
        return tileParts(spec, sceneShape2(spec.shape) as Tiles).map((each) => ({ spec: each, path }))
      })
      this.made.set(index, parts)
    }
    return parts
  }

  protected *standing() {
    for (const body of this.player.world.bodies()) {
      for (const { mine, other, body: met, response } of body.overlapping()) {
        if (response !== 'solid' || met.serial < body.serial) continue
        yield { name: body.name!, body: met, mine, other, depth: this.depthOf(mine, other) }
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
    const body = this.plane.bodies[index]
    this.level(body, index)
    if (body.type !== 'dynamic') return
    this.fall(index)
    this.weight(body, index)
  }

  protected meets(name: string, [x0, y0]: readonly number[], [x1, y1]: readonly number[]): Met | null {
    const { world } = this.player
    const mover = world.find(name)!
    let [sensor, asked]: [string | null, boolean] = [null, false]
    for (const collider of mover.colliders) {
      const { shape } = collider
      if (!isAsking(shape)) continue
      asked = true
      const { at, angle } = poseOf(collider)
      const from = { x: at.x + x0, y: at.y + y0 }
      const to = { x: at.x + x1, y: at.y + y1 }
      for (const hit of world.shapecast.all(
        { shape, from, to, angle },
        { as: collider, response: 'any', except: mover },
      )) {
        if (hit.body.type === 'dynamic') continue
        if (this.isSolid(collider, hit.collider)) return { solid: true, sensor }
        sensor ??= hit.body.name
      }
    }
    return asked ? { solid: false, sensor } : null
  }

  /** A dynamic body whose mass nobody has thought of. */
  private weight(body: SceneBody2, index: number): void {
    if (body.mass !== undefined || (body.colliders ?? []).length === 0) return
    const mover = this.player.world.find(body.name)!
    const light = mover.colliders.every((each) => each.sensor || each.density === 0 || each.shape.area === 0)
    if (light) this.noMass(index, 'area')
  }

  /** Tiles of no kind that is used, holes that are too narrow, and boxes that lie within tiles. */
  private level(body: SceneBody2, index: number): void {
    for (const [at, { shape }] of (body.colliders ?? []).entries()) {
      if (shape.kind !== 'tiles') continue
      const path = ['bodies', index, 'colliders', at, 'shape']
      const tiles = sceneShape2(shape) as Tiles
      const counts = countKinds(tiles)
      const set = new Set((this.plane.actions ?? []).map((action) => (action.do === 'tile' ? action.tile : '')))
      for (const sign of Object.keys(shape.kinds)) {
        if (counts.has(sign) || set.has(sign)) continue
        const found = `no tile is ${JSON.stringify(sign)}, and no action makes one`
        this.add('hint', 'unused-kind', [...path, 'kinds', sign], found, 'use it, or take it out')
      }
      this.holes(tiles, path)
    }
    if (body.type === 'static') this.withinTiles(body, index)
  }

  /** Holes that nothing in the scene fits through. */
  private holes(tiles: Tiles, path: Path): void {
    const mover = this.smallest()
    if (mover === null) return
    const holes = narrowHoles(tiles, mover.size)
    if (holes.length === 0) return
    const [{ column, row, width }] = holes
    const more = holes.length === 1 ? '' : `, and ${holes.length - 1} more like it`
    const found = `a hole in column ${column}, row ${row} is ${digits(width)} m wide${more}: nothing that moves fits through, the smallest being ${JSON.stringify(mover.name)} with ${digits(mover.size)} m`
    this.add('hint', 'narrow-hole', path, found, 'widen it, or close it')
  }

  /** The body that moves and fits through most. */
  private smallest(): { name: string; size: number } | null {
    let best: { name: string; size: number } | null = null
    for (const body of this.player.world.bodies()) {
      if (body.type === 'static') continue
      let size = 0
      for (const { shape, sensor } of body.colliders) {
        if (sensor || shape.kind === 'halfspace' || shape.kind === 'tiles') continue
        const { min, max } = shape.bounds
        size = Math.max(size, Math.min(max.x - min.x, max.y - min.y))
      }
      if (size > 0 && (best === null || size < best.size)) best = { name: body.name!, size }
    }
    return best
  }

  /** What stands for ever within tiles that stand for ever: no event tells of it. */
  private withinTiles({ name }: SceneBody2, index: number): void {
    const body = this.player.world.find(name)!
    for (const collider of body.colliders) {
      const { shape } = collider
      if (collider.sensor || !isAsking(shape)) continue
      for (const hit of this.player.world.overlap.all({ shape, ...poseOf(collider), depth: true }, { except: body })) {
        if (hit.tile === null || hit.body.type !== 'static' || hit.depth < WITHIN) continue
        const { column, row } = hit.tile
        const found = `lies ${digits(hit.depth)} m deep within the tiles of ${JSON.stringify(hit.body.name)} (column ${column}, row ${row})`
        const path = ['bodies', index, 'colliders', collider.index]
        this.add(
          'hint',
          'within-tiles',
          path,
          found,
          'take the tiles out there, or move it: two surfaces lie in one place',
        )
      }
    }
  }

  /** How deep one of two that overlap is within the other; within tiles, to where they are left. */
  private depthOf(one: Made, other: Made): number {
    for (const [mover, ground] of [
      [one, other],
      [other, one],
    ] as const) {
      const { shape } = mover
      if (ground.shape.kind !== 'tiles' || !isAsking(shape)) continue
      const hits = this.player.world.overlap.all({ shape, ...poseOf(mover), depth: true }, { sensors: true })
      return hits.find(({ collider }) => collider === ground)?.depth ?? 0
    }
    return -distance(one.shape, poseOf(one), other.shape, poseOf(other)).distance
  }
}

/** Whether a world can be asked what overlaps it. */
function isAsking(shape: Made['shape']): shape is AskingShape2 {
  return shape.kind !== 'halfspace' && shape.kind !== 'polyline'
}

const digits = (metres: number): number => Number(metres.toPrecision(2))

/** Where a collider is in the world. */
function poseOf({ body, at, angle }: Made): Pose2 {
  const turn = Float64Array.of(body.angle, 0, 0)
  cosSin(turn, 0)
  const [, cos, sin] = turn
  const place = { x: body.at.x + cos * at.x - sin * at.y, y: body.at.y + sin * at.x + cos * at.y }
  return { at: place, angle: body.angle + angle }
}
