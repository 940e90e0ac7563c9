/**
 * The 2D side of a tick: poses of bodies and what is asked about pairs. The stages stand in `core/step/kernel.ts`; what forces and contacts
 * add to them, in `solve/dynamicKernel.ts`.
 */
import { SOLID } from '../core/filter/filter.ts'
import { Surfaces } from '../core/solve/surfaces.ts'
import type { Column } from '../core/state/table.ts'
import { Kernel, type KernelSetup, touchDistance } from '../core/step/kernel.ts'
import type { ContactPoint } from '../core/watch/event.ts'
import { BroadPhase2 } from './broadPhase.ts'
import { Distances2 } from './distances.ts'
import type { Geometry } from './geometry.ts'
import { CAST_SIZE, castAgainst } from './narrow/cast.ts'
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
import { MISS, POINT_A, POINT_B } from './narrow/records.ts'
import { Path2 } from './path.ts'
import { Poses } from './poses.ts'
import { HEAD } from './shapes/layout.ts'
import { writePose } from './shapes/place.ts'
import type { DynamicKernel2 } from './solve/dynamicKernel.ts'
import type { PlacedShape } from './solve/dynamics.ts'
import type { Tree } from './tree/tree.ts'
import type { MutableVec2, Vec2 } from './vector.ts'

const NONE = -1

/** Makes the kernel of a world: with forces, or without. The shape of a collider, within its body, is given by the second argument. */
export type MakeKernel2 = (setup: KernelSetup, placed: (c: number) => PlacedShape) => Kernel2

/** Without forces: bodies that stand still, and bodies that move as they are told. */
export class Kernel2 extends Kernel<MutableVec2, Geometry> {
  declare readonly broadPhase: BroadPhase2
  declare readonly trees: readonly Tree[]
  declare readonly poses: Poses
  declare readonly distances: Distances2
  declare protected readonly path: Path2
  readonly surfaces: Surfaces
  /** The direction (about the body) towards which a collider lets pass, unit; zero for none. */
  readonly oneWay: Column<Float64Array>
  private readonly manifold = new Float64Array(MANIFOLD_SIZE)

  constructor(setup: KernelSetup) {
    const { population } = setup
    const poses = new Poses(population.bodies)
    const broadPhase = new BroadPhase2(population, poses, touchDistance(setup.unit))
    const { geometry } = broadPhase
    const distances = new Distances2(geometry, broadPhase.trees, broadPhase.treeOf, 2)
    const path = new Path2(geometry, population.filter.body, poses, population.bodies)
    super(setup, { axes: 2, poses, broadPhase, distances, path })
    this.surfaces = new Surfaces(population.colliders, setup.pairs)
    this.oneWay = population.colliders.f64(2)
  }

  /** What forces do; null where nothing is moved by any. */
  get forces(): DynamicKernel2 | null {
    return null
  }

  setOneWay(c: number, { x, y }: Vec2): void {
    this.oneWay.data[2 * c] = x
    this.oneWay.data[2 * c + 1] = y
  }

  override graze(piece: number, line: Float64Array, out: Float64Array): boolean {
    return grazeOf(this.geometry.world, this.geometry.offsetOf(piece), line, out)
  }

  override readSurface(pair: number, out: Float64Array): void {
    this.surfaces.read(pair, out)
  }

  protected override writeClosing(pair: number, _before: number, verdict: number): void {
    const { pairs } = this
    pairs.closing.data[pair] = verdict === SOLID ? this.closingOf(pair, pairs.a.data[pair], pairs.b.data[pair]) : 0
  }

  /** How fast two that touch came together in this tick: along the normal, where they are nearest. */
  private closingOf(pair: number, one: number, other: number): number {
    const { record, normal, dt } = this
    const { body } = this.population.filter
    const nx = normal.data[2 * pair]
    const ny = normal.data[2 * pair + 1]
    const x = (record[POINT_A] + record[POINT_B]) / 2
    const y = (record[POINT_A + 1] + record[POINT_B + 1]) / 2
    const a = this.advance(body.data[one], x, y, nx, ny)
    const closing = (a - this.advance(body.data[other], x, y, nx, ny)) / dt
    return closing > 0 ? closing : 0
  }

  /** How far the point of a body that is at (x, y) now has come along a direction in this tick. */
  private advance(body: number, x: number, y: number, nx: number, ny: number): number {
    const { place, turn, previous } = this.poses
    const nowX = place.data[2 * body]
    const nowY = place.data[2 * body + 1]
    const turned = turn.data[3 * body] - previous.data[3 * body + 2]
    const dx = nowX - previous.data[3 * body] - turned * (y - nowY)
    const dy = nowY - previous.data[3 * body + 1] + turned * (x - nowX)
    return dx * nx + dy * ny
  }

  override pointsOf(pair: number): ContactPoint<MutableVec2>[] {
    const { geometry, pairs, manifold } = this
    const found: ContactPoint<MutableVec2>[] = []
    const { world } = geometry
    for (let p = geometry.first.data[pairs.a.data[pair]]; p !== NONE; p = geometry.after(p)) {
      for (let q = geometry.first.data[pairs.b.data[pair]]; q !== NONE; q = geometry.after(q)) {
        if (geometry.isFurther(p, q, 2 * this.touch)) continue
        manifold[WITHIN] = 2 * this.touch
        manifoldOfPieces(world, geometry.offsetOf(p), world, geometry.offsetOf(q), manifold)
        for (let i = 0; i < manifold[POINT_COUNT]; i++) {
          const at = FIRST_POINT + POINT_SIZE * i
          const impulse = this.impulseAt(pair, geometry.ordinalOf(p), geometry.ordinalOf(q), manifold[at + NAME])
          found.push({ x: manifold[at], y: manifold[at + 1], depth: 0 - manifold[at + GAP], impulse })
        }
      }
    }
    if (found.length > 0 || pairs.impulse.data[pair] === 0) return found
    // Pressed in this tick, and parted again: where it was.
    const { metAt } = this
    return [{ x: metAt.data[2 * pair], y: metAt.data[2 * pair + 1], depth: 0, impulse: pairs.impulse.data[pair] }]
  }

  /** Newton seconds at a point of contact: the pair, the pieces by their place within each, and the name of the point. */
  protected impulseAt(_pair: number, _a: number, _b: number, _name: number): number {
    return 0
  }

  override readApproach(pair: number, out: Float64Array, at: number): void {
    const { dt } = this
    const { data: was } = this.poses.previous
    const { data: now } = this.poses.place
    const { body } = this.population.filter
    const a = body.data[this.pairs.a.data[pair]]
    const b = body.data[this.pairs.b.data[pair]]
    for (let axis = 0; axis < 2; axis++) {
      const moved = now[2 * a + axis] - was[3 * a + axis] - (now[2 * b + axis] - was[3 * b + axis])
      out[at + axis] = moved / dt
    }
    out[at + 2] = 0
  }

  protected override jumpCrosses(c: number, other: number): boolean {
    const { geometry, population } = this
    const { jump, place } = this.poses
    const body = population.filter.body.data[c]
    const [x, y, angle] = jump.data.subarray(3 * body, 3 * body + 3)
    const line = Float64Array.of(0, 0, place.data[2 * body] - x, place.data[2 * body + 1] - y)
    const pose = new Float64Array(5)
    writePose({ x, y }, angle, pose)
    const out = new Float64Array(CAST_SIZE)
    for (let p = geometry.first.data[c]; p !== NONE; p = geometry.after(p)) {
      if (geometry.isEndless(p)) continue
      const block = new Float64Array(geometry.sizeOf(p))
      geometry.blockAt(p, pose, block, HEAD)
      for (let q = geometry.first.data[other]; q !== NONE; q = geometry.after(q)) {
        if (castAgainst(block, HEAD, geometry.world, geometry.offsetOf(q), line, out) !== MISS) return true
      }
    }
    return false
  }

  override newVector(): MutableVec2 {
    return { x: 0, y: 0 }
  }

  override fillVector(out: MutableVec2, from: Float64Array, at: number, sign: number): void {
    // Adding 0 turns -0 into 0.
    out.x = sign * from[at] + 0
    out.y = sign * from[at + 1] + 0
  }
}
