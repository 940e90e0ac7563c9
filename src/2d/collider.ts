/** A collider of 2D: a shape on a body, and how it is filtered. */

import type { StateVisitor } from '../core/save/state.ts'
import { SurfaceCollider } from '../core/solve/surfaceCollider.ts'
import { SURFACE_SPEED } from '../core/solve/surfaces.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { finite, refuseAssignment } from '../core/util/checks.ts'
import { KeenError } from '../core/util/errors.ts'
import { SPEED } from '../core/util/limits.ts'
import type { Body2 } from './body.ts'
import type { Kernel2 } from './kernel.ts'
import type { Shape2 } from './shapes/shape.ts'
import type { Carved, CarveOptions } from './tiles/carving.ts'
import type { Ground, PlacedHit } from './tiles/ground.ts'
import { checkDirection, type Vec2 } from './vector.ts'
import type { World2 } from './world.ts'

/** A collider of 2D: a shape on a body, and how it is filtered. */
export class Collider2<K extends Kinds = AnyKinds> extends SurfaceCollider<K, Body2<K>> {
  /** @internal */ protected readonly host: World2<K>
  private form: Shape2
  /** The tiles that it shares with other colliders of its body; null for other shapes. */
  private ground: Ground | null = null
  private readonly place: Vec2
  private readonly turn: number

  /** @internal */
  constructor(host: World2<K>, slot: number, body: Body2<K>, shape: Shape2, at: Vec2, angle: number) {
    super(host, slot, body)
    this.host = host
    this.form = shape
    // Most are at the origin of their body: that is frozen already.
    this.place = Object.isFrozen(at) ? at : Object.freeze({ x: at.x, y: at.y })
    this.turn = angle
    this.settle(shape)
    Object.seal(this)
  }

  private settle(shape: Shape2): void {
    this.form = shape
    this.ground = shape.kind === 'tiles' ? shape.ground : null
    if (shape.kind === 'tiles') this.ground?.attach(shape.group, this, this.host)
  }

  /** What it is made from again. @internal */
  madeOf(): { readonly shape: Shape2; readonly place: object } {
    const { form: shape, place: at, turn: angle } = this
    return { shape, place: { at, angle } }
  }

  /** @internal */
  override visit(v: StateVisitor): void {
    this.form = v.object(this.form)
    const ground = v.object(this.ground)
    if (ground !== this.ground) {
      this.ground = ground
      ground?.attach(this.group, this, this.host)
    }
    // Tiles are shared by several colliders: the first of them speaks.
    if (this.ground?.isFirst(this)) this.ground.visit(v)
  }

  /** Where the shape's origin lies within its body. */
  get at(): Vec2 {
    return this.place
  }

  /** How the shape is turned within its body. */
  get angle(): number {
    return this.turn
  }

  /** Lengths a second at which it carries what lies on it: along the surface, to the right when the normal points up. */
  get surfaceSpeed(): number {
    return this.surface(SURFACE_SPEED)
  }

  set surfaceSpeed(value: number) {
    this.setSurface(SURFACE_SPEED, finite(value, "'surfaceSpeed' of a collider", SPEED * this.host.unit))
  }

  /** The direction (unit, about the body) along which it lets through; null where it holds from all sides. */
  get oneWay(): Vec2 | null {
    if (!this.alive) return null
    const { data } = this.host.kernel.oneWay
    const x = data[2 * this.slot]
    const y = data[2 * this.slot + 1]
    return x === 0 && y === 0 ? null : { x, y }
  }

  set oneWay(value: Vec2 | null) {
    this.change('oneWay')
    this.host.kernel.setOneWay(this.slot, checkOneWay(value, "'oneWay' of a collider"))
    this.host.kernel.wakeTouching(this.slot)
  }

  /**
   * Its bounds in the world, where its body stands now; without end for a halfspace. Null when it was removed. Allocates.
   * @throws KeenError `locked` inside a decide hook
   */
  get bounds(): { readonly min: Vec2; readonly max: Vec2 } | null {
    if (!this.alive) return null
    this.host.population.guardQuery()
    this.host.kernel.refresh()
    const [left, bottom, right, top] = this.host.kernel.geometry.boundsOf(this.slot)
    return { min: { x: left, y: bottom }, max: { x: right, y: top } }
  }

  /**
   * Its shape; of tiles as they are now. Another can be assigned at any time; what begins or ends by that has cause `reshaped`.
   */
  get shape(): Shape2 {
    return this.ground === null ? this.form : this.ground.shapeOf(this.group)
  }

  set shape(value: Shape2) {
    this.change('shape')
    const shape = value?.kind === 'tiles' ? value.grow()[0] : value
    this.host.reshape(this, shape)
    this.settle(shape)
    this.host.weigh(this.body.slot)
  }

  /**
   * The sign of a tile; `.` for none. Column 0 is on the left, row 0 on top.
   * @throws KeenError `bad-shape` for what is not made of tiles, `bad-argument` outside of the grid
   */
  tileAt(column: number, row: number): string {
    return this.tiles('tileAt').tileAt(column, row)
  }

  /**
   * Makes a tile another one, `.` for none, whichever of the colliders of the grid it belongs to. Queries see it at once; what begins or ends
   * by it has cause `reshaped`, and what rests there wakes. Cost: a chunk of 32 by 32 tiles, once for all changes before the next step or
   * query. Returns whether it was another one.
   * @throws KeenError `bad-shape`, `bad-argument`, `dead-handle`, `locked`
   */
  setTile(column: number, row: number, kind: string): boolean {
    this.change('setTile')
    return this.tiles('setTile').setTile(column, row, kind)
  }

  /**
   * Takes tiles away where a shape is, and hands back what is cut off by that. Whole tiles go, none is cut.
   * @throws KeenError `bad-shape`, `bad-argument`, `bad-number`, `dead-handle`, `locked`
   * @example ground.colliders[0].carve({ shape: circle(3), at: { x: 10, y: 4 }, cutOff: 50 })
   */
  carve(options: CarveOptions): Carved {
    this.change('carve')
    return this.tiles('carve').carve(this, options)
  }

  /** Of tiles: the closed loops of its own ones as they are now, about the grid, with the solid on the left. */
  get outline(): readonly (readonly Vec2[])[] {
    return this.tiles('outline').outlineOf(this.group)
  }

  /** x, y of each normal that edges of its tiles have, in the world; null for what is not made of tiles. @internal */
  edgeNormals(kernel: Kernel2): readonly number[] | null {
    return this.ground === null ? null : this.ground.edgeNormals(this, kernel)
  }

  /** A world that shows the past has taken its shape of then in. @internal */
  shownIn(kernel: Kernel2, shape: Shape2): void {
    if (shape.kind === 'tiles') this.ground?.showIn(kernel, this.slot, shape.grid)
    else kernel.tilesThen?.delete(this.slot)
  }

  /** The number of the tile where a ray hits, row by row; null for what is not made of tiles. @internal */
  tileOnRay(record: Float64Array, line: Float64Array, kernel: Kernel2): number | null {
    if (this.ground === null) return null
    const point = { x: line[0] + record[0] * line[2], y: line[1] + record[0] * line[3] }
    const hit: PlacedHit = { part: -1, tile: null, point, normal: { x: record[1], y: record[2] } }
    this.describeHit(hit, null, kernel)
    return hit.part
  }

  /** @internal */
  override describeHit(hit: object, around: Float64Array | null, kernel: object): void {
    const placed = hit as PlacedHit
    if (this.ground !== null) this.ground.describe(this.group, this, placed, around, kernel as Kernel2)
    else if (placed.tile !== null) placed.tile = null
  }

  private get group(): number {
    return this.form.kind === 'tiles' ? this.form.group : -1
  }

  private tiles(what: string): Ground {
    if (this.ground !== null) return this.ground
    throw new KeenError('bad-shape', `${what}: ${this} is a ${this.form.kind}, not made of tiles()`)
  }
}

/** A direction as a unit vector; zero where there is none. */
export function checkOneWay(value: Vec2 | null | undefined, what: string): Vec2 {
  return value === null || value === undefined ? NOWHERE : checkDirection(value, what)
}

const NOWHERE: Vec2 = Object.freeze({ x: 0, y: 0 })

const WITHIN = 'attach() a collider there, and remove() this one'
refuseAssignment(Collider2.prototype, { at: WITHIN, angle: WITHIN })
