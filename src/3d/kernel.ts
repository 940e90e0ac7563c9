/** The 3D side of a tick: poses of bodies. The stages stand in `core/step/kernel.ts`. */
import { PAIR_SPEED } from '../core/solve/surfaces.ts'
import type { Column } from '../core/state/table.ts'
import { BroadPhase } from '../core/step/broadPhase.ts'
import type { Jump } from '../core/step/jumps.ts'
import { Kernel, type KernelSetup, touchDistance } from '../core/step/kernel.ts'
import { SPEED } from '../core/util/limits.ts'
import type { Carrying } from '../core/watch/decideHooks.ts'
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
  NAME,
  POINT_COUNT,
  POINT_SIZE,
  WITHIN,
} from './narrow/manifold.ts'
import { CAST_SIZE, DISTANCE, FRACTION, INSIDE, MISS } from './narrow/records.ts'
import { Manifolds, writeSurfaceManifolds } from './narrow/surfaceManifold.ts'
import { Path3 } from './path.ts'
import { KEPT, Poses } from './poses.ts'
import { SURFACE } from './shapes/layout.ts'
import { boundsOf } from './shapes/place.ts'
import type { Piece } from './shapes/shape.ts'
import type { Forces3 } from './solve/forces.ts'
import { Surfaces3 } from './surfaces.ts'
import { Tree } from './tree/tree.ts'
import { checkVec, FRAME, type MutableVec3, POSE_SIZE, type Vec3, writeFrame } from './vector.ts'

const NONE = -1

/** Hooks see and set a vector: how fast the surfaces carry the first of a pair along past the second. */
const CARRYING: Carrying<MutableVec3> = {
  field: 'surfaceVelocity',
  read: (surface, sign) => ({
    x: sign * surface[PAIR_SPEED] + 0,
    y: sign * surface[PAIR_SPEED + 1] + 0,
    z: sign * surface[PAIR_SPEED + 2] + 0,
  }),
  write(value, what, sign, out) {
    const { x, y, z } = checkVec(value, what, SPEED)
    out[PAIR_SPEED] = sign * x
    out[PAIR_SPEED + 1] = sign * y
    out[PAIR_SPEED + 2] = sign * z
  },
}

/** Makes what forces add to a kernel. */
export type MakeForces3 = (
  kernel: Kernel3,
  setup: KernelSetup,
  path: Path3,
  normal: { data: Float64Array },
  metAt: { data: Float64Array },
) => Forces3

export class Kernel3 extends Kernel<MutableVec3, Geometry> {
  declare readonly broadPhase: BroadPhase<Piece, Geometry, Tree>
  declare readonly trees: readonly Tree[]
  declare readonly poses: Poses
  declare readonly distances: Distances3
  override readonly forces: Forces3 | null
  override readonly carrying = CARRYING
  /** The direction (about the body) towards which a collider lets pass, unit; zero for none. */
  readonly oneWay: Column<Float64Array>
  private readonly manifolds = new Manifolds()

  constructor(setup: KernelSetup, makeForces: MakeForces3 | null) {
    const { population, unit } = setup
    const poses = new Poses(population.bodies)
    const geometry = new Geometry(population.colliders, poses)
    const trees = [new Tree(), new Tree(), new Tree()]
    const broadPhase = new BroadPhase<Piece, Geometry, Tree>(population, geometry, trees, 3, touchDistance(unit))
    const distances = new Distances3(geometry, trees, broadPhase.treeOf, 3)
    const { body } = population.filter
    const path = new Path3(geometry, body, poses, population.bodies)
    const surfaces = new Surfaces3(population.colliders, setup.pairs, body, poses)
    super(setup, { axes: 3, poses, broadPhase, distances, path, surfaces })
    this.oneWay = population.colliders.f64(3)
    this.forces = makeForces?.(this, setup, path, this.normal, this.metAt) ?? null
  }

  setOneWay(c: number, { x, y, z }: Vec3): void {
    this.oneWay.data[3 * c] = x
    this.oneWay.data[3 * c + 1] = y
    this.oneWay.data[3 * c + 2] = z
  }

  override readOneWay(c: number, out: Float64Array): boolean {
    const x = this.oneWay.data[3 * c]
    const y = this.oneWay.data[3 * c + 1]
    const z = this.oneWay.data[3 * c + 2]
    if (x === 0 && y === 0 && z === 0) return false
    const { data } = this.poses.matrix
    for (let i = 0; i < 3; i++) {
      const m = 9 * this.population.filter.body.data[c] + 3 * i
      out[i] = data[m] * x + data[m + 1] * y + data[m + 2] * z
    }
    return true
  }

  override graze(piece: number, line: Float64Array, out: Float64Array): boolean {
    return grazeOf(this.geometry.world, this.geometry.offsetOf(piece), line, out)
  }

  protected override writeClosing(pair: number, one: number, other: number): void {
    const { record } = this
    this.path.closingAt(one, other, 1, record)
    this.pairs.closing.data[pair] = record[DISTANCE] > 0 ? record[DISTANCE] / this.dt : 0
  }

  override pointsOf(pair: number): ContactPoint<MutableVec3>[] {
    const { geometry, pairs, manifolds } = this
    const found: ContactPoint<MutableVec3>[] = []
    const { world } = geometry
    const within = Float64Array.of(2 * this.touch)
    for (let p = geometry.first.data[pairs.a.data[pair]]; p !== NONE; p = geometry.after(p)) {
      for (let q = geometry.first.data[pairs.b.data[pair]]; q !== NONE; q = geometry.after(q)) {
        if (geometry.isFurther(p, q, within[0])) continue
        manifolds.count = 0
        if (geometry.kindOf(p) === SURFACE || geometry.kindOf(q) === SURFACE) {
          writeSurfaceManifolds(geometry, p, q, within, manifolds)
        } else {
          manifolds.next()
          manifolds.data[WITHIN] = within[0]
          manifoldOfPieces(world, geometry.offsetOf(p), world, geometry.offsetOf(q), manifolds.data)
        }
        for (let m = 0; m < manifolds.count; m++) this.readPoints(pair, p, q, MANIFOLD_SIZE * m, found)
      }
    }
    const impulse = pairs.impulse.data[pair]
    if (found.length > 0 || impulse === 0) return found
    // Pressed in this tick, and parted again: where it was.
    const { data } = this.metAt
    return [{ x: data[3 * pair], y: data[3 * pair + 1], z: data[3 * pair + 2], depth: 0, impulse }]
  }

  /** Appends the points of the manifold of two pieces that stands at a place. */
  private readPoints(pair: number, p: number, q: number, at: number, out: ContactPoint<MutableVec3>[]): void {
    const { geometry, forces } = this
    const { data } = this.manifolds
    for (let i = 0; i < data[at + POINT_COUNT]; i++) {
      const point = at + FIRST_POINT + POINT_SIZE * i
      const impulse = forces?.impulseAt(pair, geometry.ordinalOf(p), geometry.ordinalOf(q), data[point + NAME]) ?? 0
      out.push({ x: data[point], y: data[point + 1], z: data[point + 2], depth: 0 - data[point + GAP], impulse })
    }
  }

  protected override readWay(body: number, from: number, out: Float64Array, at: number): void {
    const { previous, place } = this.poses
    for (let i = 0; i < 3; i++) {
      const own = place.data[3 * body + i] - previous.data[KEPT * body + i]
      out[at + i] = own - (place.data[3 * from + i] - previous.data[KEPT * from + i])
    }
  }

  protected override jumpMeets(c: number, { from, to }: Jump, other: number): number {
    const { geometry } = this
    const pose = new Float64Array(POSE_SIZE)
    const line = new Float64Array(7)
    for (let i = 0; i < 3; i++) {
      pose[i] = from[i]
      line[3 + i] = to[i] - pose[i]
    }
    writeFrame(from, 3, pose, FRAME)
    let best = 0
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
        if (met !== MISS) best = Math.max(best, met === INSIDE ? 2 : 1)
      }
    }
    return best
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
