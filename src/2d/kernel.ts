/**
 * The 2D side of a tick: poses of bodies and what is asked about pairs. The stages stand in `core/step/kernel.ts`; what forces and contacts
 * add to them, in `core/solve/forces.ts`.
 */

import { PAIR_SPEED } from '../core/solve/surfaces.ts'
import { type Column, IntList } from '../core/state/table.ts'
import { BroadPhase } from '../core/step/broadPhase.ts'
import type { Jump } from '../core/step/jumps.ts'
import { Kernel, type KernelSetup, touchDistance } from '../core/step/kernel.ts'
import { finite } from '../core/util/checks.ts'
import { SPEED } from '../core/util/limits.ts'
import type { Carrying } from '../core/watch/decideHooks.ts'
import type { ContactPoint } from '../core/watch/event.ts'
import { Distances2 } from './distances.ts'
import { Geometry } from './geometry.ts'
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
import { INSIDE, MISS, POINT_A, POINT_B } from './narrow/records.ts'
import { Path2 } from './path.ts'
import { Poses } from './poses.ts'
import { HEAD } from './shapes/layout.ts'
import { writePose } from './shapes/place.ts'
import type { Piece } from './shapes/shape.ts'
import type { Forces2 } from './solve/forces.ts'
import { Surfaces2 } from './surfaces.ts'
import type { Grid } from './tiles/grid.ts'
import type { WayOut } from './tiles/wayOut.ts'
import { Tree } from './tree/tree.ts'
import type { MutableVec2, Vec2 } from './vector.ts'

const NONE = -1

/** Hooks see and set a speed along the surfaces, which is the same from both sides. */
const CARRYING: Carrying<MutableVec2> = {
  field: 'surfaceSpeed',
  read: (surface) => surface[PAIR_SPEED],
  write(value, what, _sign, out) {
    out[PAIR_SPEED] = finite(value, what, SPEED)
  },
}

/** A collider as far as ways out of it are asked for. */
interface TiledCollider {
  edgeNormals(kernel: Kernel2): readonly number[] | null
}

/** Makes what forces add to a kernel. */
export type MakeForces2 = (
  kernel: Kernel2,
  setup: KernelSetup,
  path: Path2,
  normal: { data: Float64Array },
  metAt: { data: Float64Array },
) => Forces2

export class Kernel2 extends Kernel<MutableVec2, Geometry> {
  declare readonly broadPhase: BroadPhase<Piece, Geometry, Tree>
  declare readonly trees: readonly Tree[]
  declare readonly poses: Poses
  declare readonly distances: Distances2
  override readonly forces: Forces2 | null
  override readonly carrying = CARRYING
  /** Finds ways out of tiles; null while there are none. */
  wayOut: WayOut | null = null
  /** Of a world that shows the past: the grids of then, by the slots of their colliders. */
  tilesThen: Map<number, Grid> | null = null
  /** The direction (about the body) towards which a collider lets pass, unit; zero for none. */
  readonly oneWay: Column<Float64Array>
  private readonly near = new IntList()
  private readonly manifold = new Float64Array(MANIFOLD_SIZE)

  constructor(setup: KernelSetup, makeForces: MakeForces2 | null) {
    const { population, unit } = setup
    const poses = new Poses(population.bodies)
    const geometry = new Geometry(population.colliders, poses)
    const trees = [new Tree(), new Tree(), new Tree()]
    const broadPhase = new BroadPhase<Piece, Geometry, Tree>(population, geometry, trees, 2, touchDistance(unit))
    const distances = new Distances2(geometry, trees, broadPhase.treeOf, 2)
    const path = new Path2(geometry, distances, population.filter.body, poses, population.bodies)
    const surfaces = new Surfaces2(population.colliders, setup.pairs, 1)
    super(setup, { axes: 2, poses, broadPhase, distances, path, surfaces })
    this.oneWay = population.colliders.f64(2)
    this.forces = makeForces?.(this, setup, path, this.normal, this.metAt) ?? null
  }

  override get describesHits(): boolean {
    return this.wayOut !== null
  }

  /**
   * Of what overlaps a collider made of tiles: writes the shortest way out along one of its normals, see `tiles/wayOut.ts`. False for other
   * colliders.
   */
  leadOut(c: number, p: Float64Array, offsets: ArrayLike<number>, count: number, out: Float64Array): boolean {
    if (this.wayOut === null) return false
    const normals = (this.population.handles.known(c) as unknown as TiledCollider | null)?.edgeNormals(this) ?? null
    return normals !== null && this.wayOut.find(c, p, offsets, count, normals, out)
  }

  setOneWay(c: number, { x, y }: Vec2): void {
    this.oneWay.data[2 * c] = x
    this.oneWay.data[2 * c + 1] = y
  }

  override readOneWay(c: number, out: Float64Array): boolean {
    const x = this.oneWay.data[2 * c]
    const y = this.oneWay.data[2 * c + 1]
    if (x === 0 && y === 0) return false
    const at = 3 * this.population.filter.body.data[c]
    const { data } = this.poses.turn
    out[0] = data[at + 1] * x - data[at + 2] * y
    out[1] = data[at + 2] * x + data[at + 1] * y
    return true
  }

  override graze(piece: number, line: Float64Array, out: Float64Array): boolean {
    return grazeOf(this.geometry.world, this.geometry.offsetOf(piece), line, out)
  }

  protected override writeClosing(pair: number, one: number, other: number): void {
    const { record, normal, dt } = this
    const { body } = this.population.filter
    const nx = normal.data[2 * pair]
    const ny = normal.data[2 * pair + 1]
    const x = (record[POINT_A] + record[POINT_B]) / 2
    const y = (record[POINT_A + 1] + record[POINT_B + 1]) / 2
    const a = this.advance(body.data[one], x, y, nx, ny)
    const closing = (a - this.advance(body.data[other], x, y, nx, ny)) / dt
    this.pairs.closing.data[pair] = closing > 0 ? closing : 0
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
    const { geometry, pairs, manifold, near } = this
    const found: ContactPoint<MutableVec2>[] = []
    const { world } = geometry
    near.clear()
    this.distances.listNear(pairs.a.data[pair], pairs.b.data[pair], near)
    const own = near.length
    this.distances.listNear(pairs.b.data[pair], pairs.a.data[pair], near)
    for (let i = 0; i < own; i++) {
      for (let j = own; j < near.length; j++) {
        const p = near.data[i]
        const q = near.data[j]
        if (geometry.isFurther(p, q, 2 * this.touch)) continue
        manifold[WITHIN] = 2 * this.touch
        manifoldOfPieces(world, geometry.offsetOf(p), world, geometry.offsetOf(q), manifold)
        for (let i = 0; i < manifold[POINT_COUNT]; i++) {
          const at = FIRST_POINT + POINT_SIZE * i
          const impulse = this.forces?.impulseAt(
            pair,
            geometry.ordinalOf(p),
            geometry.ordinalOf(q),
            manifold[at + NAME],
          )
          found.push({ x: manifold[at], y: manifold[at + 1], depth: 0 - manifold[at + GAP], impulse: impulse ?? 0 })
        }
      }
    }
    if (found.length > 0 || pairs.impulse.data[pair] === 0) return found
    // Pressed in this tick, and parted again: where it was.
    const { metAt } = this
    return [{ x: metAt.data[2 * pair], y: metAt.data[2 * pair + 1], depth: 0, impulse: pairs.impulse.data[pair] }]
  }

  protected override readWay(body: number, from: number, out: Float64Array, at: number): void {
    const { data: was } = this.poses.previous
    const { data: now } = this.poses.place
    for (let axis = 0; axis < 2; axis++) {
      out[at + axis] = now[2 * body + axis] - was[3 * body + axis] - (now[2 * from + axis] - was[3 * from + axis])
    }
    out[at + 2] = 0
  }

  protected override jumpMeets(c: number, { from, to }: Jump, other: number): number {
    const { geometry } = this
    const [x, y, angle] = from
    const line = Float64Array.of(0, 0, to[0] - x, to[1] - y)
    const pose = new Float64Array(5)
    writePose({ x, y }, angle, pose)
    const out = new Float64Array(CAST_SIZE)
    let met = 0
    for (let p = geometry.first.data[c]; p !== NONE; p = geometry.after(p)) {
      if (geometry.isEndless(p)) continue
      const block = new Float64Array(geometry.sizeOf(p))
      geometry.blockAt(p, pose, block, HEAD)
      for (let q = geometry.first.data[other]; q !== NONE; q = geometry.after(q)) {
        const found = castAgainst(block, HEAD, geometry.world, geometry.offsetOf(q), line, out)
        if (found !== MISS) met = Math.max(met, found === INSIDE ? 2 : 1)
      }
    }
    return met
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
