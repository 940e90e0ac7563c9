/** The 3D side of a tick: poses of bodies. The stages stand in `core/step/kernel.ts`. */
import { BroadPhase } from '../core/step/broadPhase.ts'
import { ANY_DISTANCE, Kernel, type KernelSetup, touchDistance } from '../core/step/kernel.ts'
import type { ContactPoint } from '../core/watch/event.ts'
import { Distances3 } from './distances.ts'
import { Geometry } from './geometry.ts'
import { castAgainst } from './narrow/cast.ts'
import { grazeOf } from './narrow/graze.ts'
import {
  FIRST_POINT,
  GAP,
  MANIFOLD_SIZE,
  manifoldOfPieces,
  POINT_COUNT,
  POINT_SIZE,
  WITHIN,
} from './narrow/manifold.ts'
import { CAST_SIZE, DISTANCE, FRACTION, MISS, POINT_A, POINT_B } from './narrow/records.ts'
import { Path3 } from './path.ts'
import { KEPT, Poses } from './poses.ts'
import { SURFACE } from './shapes/layout.ts'
import { boundsOf } from './shapes/place.ts'
import type { Piece } from './shapes/shape.ts'
import { Tree } from './tree/tree.ts'
import { FRAME, type MutableVec3, POSE_SIZE, writeFrame } from './vector.ts'

const NONE = -1

export class Kernel3 extends Kernel<MutableVec3, Geometry> {
  declare readonly broadPhase: BroadPhase<Piece, Geometry, Tree>
  declare readonly trees: readonly Tree[]
  declare readonly poses: Poses
  override readonly forces = null
  private readonly manifold = new Float64Array(MANIFOLD_SIZE)

  constructor(setup: KernelSetup) {
    const { population, unit } = setup
    const poses = new Poses(population.bodies)
    const geometry = new Geometry(population.colliders, poses)
    const trees = [new Tree(), new Tree(), new Tree()]
    const broadPhase = new BroadPhase<Piece, Geometry, Tree>(population, geometry, trees, 3, touchDistance(unit))
    const distances = new Distances3(geometry, trees, broadPhase.treeOf, 3)
    super(setup, { axes: 3, poses, broadPhase, distances, path: new Path3(geometry, population.filter.body, poses) })
  }

  override graze(piece: number, line: Float64Array, out: Float64Array): boolean {
    return grazeOf(this.geometry.world, this.geometry.offsetOf(piece), line, out)
  }

  protected override closingOf(_pair: number, one: number, other: number): number {
    const { record } = this
    this.path.closingAt(one, other, 1, record)
    const closing = record[DISTANCE] / this.dt
    return closing > 0 ? closing : 0
  }

  override pointsOf(pair: number): ContactPoint<MutableVec3>[] {
    const { geometry, pairs, manifold } = this
    const found: ContactPoint<MutableVec3>[] = []
    const { world } = geometry
    for (let p = geometry.first.data[pairs.a.data[pair]]; p !== NONE; p = geometry.after(p)) {
      for (let q = geometry.first.data[pairs.b.data[pair]]; q !== NONE; q = geometry.after(q)) {
        if (geometry.kindOf(p) === SURFACE || geometry.kindOf(q) === SURFACE) return this.nearestPointOf(pair)
        if (geometry.isFurther(p, q, 2 * this.touch)) continue
        manifold[WITHIN] = 2 * this.touch
        manifoldOfPieces(world, geometry.offsetOf(p), world, geometry.offsetOf(q), manifold)
        for (let i = 0; i < manifold[POINT_COUNT]; i++) {
          const at = FIRST_POINT + POINT_SIZE * i
          found.push({
            x: manifold[at],
            y: manifold[at + 1],
            z: manifold[at + 2],
            depth: 0 - manifold[at + GAP],
            impulse: 0,
          })
        }
      }
    }
    return found
  }

  /** Where the two are nearest: of surfaces, which have too many triangles. */
  private nearestPointOf(pair: number): ContactPoint<MutableVec3>[] {
    const { record } = this
    this.distances.between(this.pairs.a.data[pair], this.pairs.b.data[pair], ANY_DISTANCE, record)
    if (!(record[DISTANCE] <= 2 * this.touch)) return []
    const middle = (i: number): number => (record[POINT_A + i] + record[POINT_B + i]) / 2
    return [{ x: middle(0), y: middle(1), z: middle(2), depth: 0 - record[DISTANCE], impulse: 0 }]
  }

  protected override readWay(body: number, from: number, out: Float64Array, at: number): void {
    const { previous, place } = this.poses
    for (let i = 0; i < 3; i++) {
      const own = place.data[3 * body + i] - previous.data[KEPT * body + i]
      out[at + i] = own - (place.data[3 * from + i] - previous.data[KEPT * from + i])
    }
  }

  protected override jumpCrosses(c: number, other: number): boolean {
    const { geometry, population } = this
    const { jump, place } = this.poses
    const body = population.filter.body.data[c]
    const pose = new Float64Array(POSE_SIZE)
    const line = new Float64Array(7)
    for (let i = 0; i < 3; i++) {
      pose[i] = jump.data[KEPT * body + i]
      line[3 + i] = place.data[3 * body + i] - pose[i]
    }
    writeFrame(jump.data, KEPT * body + 3, pose, FRAME)
    const record = new Float64Array(CAST_SIZE)
    const box = new Float64Array(6)
    for (let p = geometry.first.data[c]; p !== NONE; p = geometry.after(p)) {
      // A surface that moves is not followed anywhere.
      if (geometry.isEndless(p) || geometry.kindOf(p) === SURFACE) continue
      const block = new Float64Array(geometry.sizeOf(p))
      geometry.blockAt(p, pose, block, 0)
      boundsOf(block, 0, box, 0, box, 0)
      const middle = line.slice()
      const half = new Float64Array(3)
      for (let i = 0; i < 3; i++) {
        middle[i] = (box[i] + box[3 + i]) / 2
        half[i] = (box[3 + i] - box[i]) / 2
      }
      for (let q = geometry.first.data[other]; q !== NONE; q = geometry.after(q)) {
        record[FRACTION] = 1
        const { world, surfaces } = geometry
        const moving = { line: middle, half }
        const met = castAgainst(block, 0, world, geometry.offsetOf(q), surfaces[q] ?? null, line, moving, record)
        if (met !== MISS) return true
      }
    }
    return false
  }

  override newVector(): MutableVec3 {
    return { x: 0, y: 0, z: 0 }
  }

  override fillVector(out: MutableVec3, from: Float64Array, at: number, sign: number): void {
    // Adding 0 turns -0 into 0.
    out.x = sign * from[at] + 0
    out.y = sign * from[at + 1] + 0
    out.z = sign * from[at + 2] + 0
  }
}
