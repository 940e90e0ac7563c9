/**
 * A body as it is moved about by `travel`: its pieces where it would stand, what they meet on a straight way, what they overlap. Nothing of
 * the world changes until the body is put where it has come to. A dimension brings the tests of two pieces.
 */
import { SENSOR, SOLID } from '../filter/filter.ts'
import { INSIDE, MISS } from '../query/hits.ts'
import { HIT_NORMAL, type HitLayout } from '../query/scratch.ts'
import type { PieceTable, SourcePiece } from '../state/pieces.ts'
import type { Population } from '../state/population.ts'
import { IntList } from '../state/table.ts'
import { DISTANCE, gapSize, NORMAL } from '../step/distances.ts'
import { ONE_WAY_COSINE } from '../step/kernel.ts'
import type { BoundsTree } from '../tree/boundsTree.ts'
import { BoxWalk, type LineWalk, PieceWalk } from '../tree/walk.ts'

/** Part of a motion that leads in which counts as none. */
const ALONG = 1e-12
/** Part of a motion that leads into a face along which it goes. */
const SLANT = 1e-9
/** Of {@link BodyCaster.clear}: within which a face is touched. */
const TOUCHED = 16
/** Faces that are touched, at most. */
const MOST_FACES = 8
const NONE = -1

/** What a caster needs of its world. */
export interface CasterWorld {
  readonly population: Population<object, object>
  readonly geometry: PieceTable<SourcePiece>
  readonly planes: IntList
  readonly trees: readonly BoundsTree[]
  /** Writes the direction, in the world, towards which a collider lets through; false where it lets nothing through. */
  readOneWay(collider: number, out: Float64Array): boolean
}

/** A filter that is asked instead of what is solid to a body. */
export interface CasterFilter {
  readonly mask: number
  readonly sensors: boolean
  readonly skipInside: boolean
  accepts(collider: number): boolean
}

/** A last word on two that meet: what decide hooks say. @param motion of the whole travel; normal towards the first */
export type Consult = (own: number, other: number, normal: Float64Array, motion: Float64Array) => number

export abstract class BodyCaster {
  readonly axes: number
  /** Where the body would stand, as numbers: the place first. */
  readonly pose: Float64Array
  /** The least length that counts: by so much coordinates of this size are rounded. */
  clear = 0
  /** Half the least extent of the body. */
  reach = 0
  pieces = 0

  // What the last cast or search found.
  found = NONE
  hitOwn = NONE
  hitOther = NONE
  hitInside = false
  /** Fraction, unit normal towards the body, point, depth: as in a cast record. */
  readonly hit: Float64Array
  /** The same of the piece that is tested. */
  protected readonly record: Float64Array
  /** The record of a gap. */
  readonly gap: Float64Array
  /** Unit normals of the faces that are touched, and how many. */
  readonly faces: Float64Array
  /** How far out along its normal each of them is. */
  readonly faceOffsets = new Float64Array(MOST_FACES)
  faceCount = 0

  /** While a body is freed, what it overlaps does not hold it. */
  freeing = false
  /** Bodies that are passed through. */
  readonly passed = new IntList()
  filter: CasterFilter | null = null
  consult: Consult | null = null
  /** Whether a body of the world is led along by the one that is cast. */
  isLed: (body: number) => boolean = () => false

  protected readonly world: CasterWorld
  readonly layout: HitLayout
  /** Blocks of the own pieces, one behind the other, and their bounds. */
  protected placed = new Float64Array(64)
  protected readonly offset = new IntList()
  protected readonly own = new IntList()
  protected readonly owner = new IntList()
  protected bounds = new Float64Array(16)
  /** Bounds as the tests of a dimension take them. */
  protected readonly box: Float64Array
  /** Middle of the bounds of what moves, and its motion. */
  readonly line: Float64Array
  readonly half: Float64Array
  private readonly best = new Float64Array(1)
  private readonly within = new Float64Array(1)
  private readonly along: PieceWalk<LineWalk>
  private readonly around: PieceWalk<BoxWalk>
  private readonly open: Float64Array
  private readonly normal: Float64Array
  /** The motion that hooks are told of. */
  motion: Float64Array
  body = NONE
  private readonly rounding: number

  /** @param rounding part of the coordinates by which what stops a body is kept away from it */
  constructor(world: CasterWorld, axes: number, poseSize: number, layout: HitLayout, line: LineWalk, rounding: number) {
    this.world = world
    this.axes = axes
    this.layout = layout
    this.rounding = rounding
    this.pose = new Float64Array(poseSize)
    this.hit = new Float64Array(layout.size)
    this.record = new Float64Array(layout.size)
    this.gap = new Float64Array(gapSize(axes))
    this.faces = new Float64Array(axes * MOST_FACES)
    this.box = new Float64Array(2 * axes)
    this.line = new Float64Array(2 * axes + 2)
    this.half = new Float64Array(axes)
    this.open = new Float64Array(axes)
    this.normal = new Float64Array(axes)
    this.motion = new Float64Array(axes)
    this.along = new PieceWalk(line)
    this.around = new PieceWalk(new BoxWalk(axes))
  }

  // What a dimension brings.

  /** Writes the pose of a body to {@link pose}. */
  protected abstract readPose(body: number): void
  /** Whether a piece can be cast: what has no inside and no end cannot. */
  protected abstract canCast(piece: number): boolean
  /** Writes the block of an own piece at {@link pose} to `placed[at]`. */
  protected abstract placePiece(piece: number, at: number): void
  /** Writes the bounds of a placed block. */
  protected abstract boundsOf(at: number, piece: number, out: Float64Array): void
  /** A placed block against a piece of the world, along {@link line}, into {@link record}: MISS, HIT or INSIDE. */
  protected abstract castPiece(at: number, piece: number): number
  /** The gap of a placed block, with its bounds in {@link box}, and a piece of the world, into {@link gap}; as far as `within`. Returns the triangle of a surface, else -1. */
  protected abstract gapPiece(at: number, piece: number, within: Float64Array): number
  /** Writes the triangle of a surface to {@link hit}. */
  protected abstract writeTriangle(triangle: number): void
  /** Whether the normal of a hit is that of a face of the piece, not of an edge or a corner. */
  abstract isFace(piece: number, hit: Float64Array): boolean
  /** Writes the block of a point to `placed[at]`. */
  protected abstract placePoint(point: Float64Array, at: number): void
  /** Numbers of the block of a point, those before its address included. */
  protected abstract readonly pointSize: number
  /** Numbers of a block that stand before its address. */
  protected abstract readonly head: number

  /** Takes a body up from where it stands. Returns a piece that cannot be cast, or -1. */
  begin(body: number): number {
    const { world, own, owner, offset, axes } = this
    const { population, geometry } = world
    this.body = body
    this.readPose(body)
    own.clear()
    owner.clear()
    offset.clear()
    let used = this.head
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const { activeSolid, activeLayers, flags } = population.filter
      if ((flags.data[c] & SENSOR) !== 0 || (this.filter === null ? activeSolid.data[c] : activeLayers.data[c]) === 0)
        continue
      for (let piece = geometry.first.data[c]; piece >= 0; piece = geometry.after(piece)) {
        if (!this.canCast(piece)) return piece
        own.push(piece)
        owner.push(c)
        offset.push(used)
        used += geometry.sizeOf(piece)
      }
    }
    this.pieces = own.length
    if (used + this.pointSize > this.placed.length) this.placed = new Float64Array(2 * (used + this.pointSize))
    if (2 * axes * (this.pieces + 1) > this.bounds.length) this.bounds = new Float64Array(4 * axes * (this.pieces + 1))
    this.put()
    let least = Infinity
    for (let i = 0; i < this.pieces; i++) {
      for (let k = 0; k < axes; k++) {
        const size = this.bounds[2 * axes * i + axes + k] - this.bounds[2 * axes * i + k]
        if (size < least) least = size
      }
    }
    this.reach = least < Infinity ? least / 2 : 0
    return NONE
  }

  /** Moves along a vector by a part of it. */
  moveAlong(by: Float64Array, part: number): void {
    const { pose, axes } = this
    for (let k = 0; k < axes; k++) pose[k] += by[k] * part
    this.put()
  }

  /** Stands at a place, as it is turned. */
  moveTo(place: Float64Array): void {
    for (let k = 0; k < this.axes; k++) this.pose[k] = place[k]
    this.put()
  }

  /** Places the own pieces where the body would stand. */
  put(): void {
    const { own, offset, axes, bounds, box } = this
    let most = 0
    for (let i = 0; i < own.length; i++) {
      this.placePiece(own.data[i], offset.data[i])
      this.boundsOf(offset.data[i], own.data[i], box)
      for (let k = 0; k < 2 * axes; k++) {
        bounds[2 * axes * i + k] = box[k]
        if (box[k] > most) most = box[k]
        else if (-box[k] > most) most = -box[k]
      }
    }
    this.clear = this.rounding * most
  }

  /** The lowest place of the body along a direction. */
  lowest(up: Float64Array): number {
    // Of the bounds: exact along the axes, and on the safe side elsewhere.
    const { axes, bounds } = this
    let least = Infinity
    for (let i = 0; i < this.pieces; i++) {
      let here = 0
      for (let k = 0; k < axes; k++) here += up[k] * bounds[2 * axes * i + (up[k] > 0 ? k : axes + k)]
      if (here < least) least = here
    }
    return least
  }

  /** The first that holds the body on a straight way; returns whether there is any. */
  cast(by: Float64Array): boolean {
    const { axes, bounds, half, line, own, owner, offset } = this
    this.found = NONE
    this.best[0] = 1
    if (!this.writeMotion(by)) return false
    for (let i = 0; i < own.length; i++) {
      const at = 2 * axes * i
      for (let k = 0; k < axes; k++) {
        line[k] = (bounds[at + k] + bounds[at + axes + k]) / 2
        half[k] = (bounds[at + axes + k] - bounds[at + k]) / 2
      }
      this.castOne(owner.data[i], offset.data[i], by)
    }
    return this.found !== NONE
  }

  /** The first that a point meets on a straight way, asked as one of the own colliders. */
  castPoint(c: number, from: Float64Array, by: Float64Array): boolean {
    const { axes, half, line, own, offset, world } = this
    this.found = NONE
    this.best[0] = 1
    if (!this.writeMotion(by)) return false
    const last = own.length - 1
    const at = last < 0 ? this.head : offset.data[last] + world.geometry.sizeOf(own.data[last])
    this.placePoint(from, at)
    for (let k = 0; k < axes; k++) {
      line[k] = from[k]
      half[k] = 0
    }
    this.castOne(c, at, by)
    return this.found !== NONE
  }

  /** Moves a little off what was hit, so that the two do not overlap by rounding. */
  settle(): void {
    const { hit, gap, axes, clear, within } = this
    within[0] = Infinity
    for (let round = 0; round < 4; round++) {
      this.measure(this.hitOwn, this.found)
      const short = clear - gap[DISTANCE]
      // Half of it is enough, or it would be nudged again and again.
      if (!(short > clear / 2) || !(gap[DISTANCE] > -1e6 * clear)) return
      for (let k = 0; k < axes; k++) this.pose[k] += hit[HIT_NORMAL + k] * short
      this.put()
    }
  }

  /** The gap of an own collider and a piece, where the body would stand: the least of its pieces. */
  private measure(c: number, piece: number): void {
    const { own, owner, offset, gap } = this
    let least = Infinity
    let nearest = NONE
    let last = NONE
    for (let i = 0; i < own.length; i++) {
      if (owner.data[i] !== c) continue
      this.takeBox(i)
      this.gapPiece(offset.data[i], piece, this.within)
      last = i
      if (gap[DISTANCE] < least) {
        least = gap[DISTANCE]
        nearest = i
      }
    }
    if (nearest === last) return
    this.takeBox(nearest)
    this.gapPiece(offset.data[nearest], piece, this.within)
  }

  /**
   * The deepest overlap, into {@link gap} and {@link hit}; returns whether there is any. What lets through is left out.
   * @param rounding how much of {@link clear} it may be and count as none; below 0 a touch counts as well
   */
  deepest(rounding: number): boolean {
    const { own, owner, offset, gap, around, within, world, filter } = this
    const { geometry } = world
    let most = rounding < 0 ? -Number.MIN_VALUE : rounding * this.clear
    let found = NONE
    let mine = NONE
    if (filter?.skipInside === true) return false
    within[0] = 0
    for (let i = 0; i < own.length; i++) {
      const c = owner.data[i]
      this.takeBox(i)
      around.walk.begin(this.box, within)
      around.begin(world, this.maskOf(c), filter?.sensors === true)
      for (let piece = around.next(); piece >= 0; piece = around.next()) {
        const other = geometry.ownerOf(piece)
        if (!this.accepts(c, other)) continue
        this.gapPiece(offset.data[i], piece, within)
        if (!(-gap[DISTANCE] > most)) continue
        if (world.readOneWay(other, this.open) || world.readOneWay(c, this.open)) continue
        // A kept answer of a hook, at least, lets it through.
        for (let k = 0; k < this.axes; k++) this.normal[k] = -gap[NORMAL + k]
        if (this.consult !== null && this.consult(c, other, this.normal, this.motion) !== SOLID) continue
        most = -gap[DISTANCE]
        found = piece
        mine = i
      }
    }
    this.found = found
    if (found === NONE) return false
    this.takeBox(mine)
    this.writeTriangle(this.gapPiece(offset.data[mine], found, within))
    this.hitOwn = owner.data[mine]
    this.hitOther = geometry.ownerOf(found)
    this.hitInside = true
    // As a hit: fraction 0, the way out, the point on what it overlaps.
    const { hit, layout, axes } = this
    hit[0] = 0
    const pointB = NORMAL + 2 * axes
    for (let k = 0; k < axes; k++) {
      hit[HIT_NORMAL + k] = -gap[NORMAL + k]
      hit[layout.point + k] = gap[pointB + k]
    }
    hit[layout.depth] = most
    return true
  }

  /** Collects the unit normals, towards the body, of what it touches to rounding, along which a motion leads. */
  touchFaces(motion: Float64Array): void {
    const { own, owner, offset, gap, around, within, world, axes, faces, faceOffsets } = this
    this.faceCount = 0
    within[0] = TOUCHED * this.clear
    let square = 0
    for (let k = 0; k < axes; k++) square += motion[k] * motion[k]
    const most = SLANT * Math.sqrt(square)
    for (let i = 0; i < own.length; i++) {
      const c = owner.data[i]
      this.takeBox(i)
      around.walk.begin(this.box, within)
      around.begin(world, this.maskOf(c), this.filter?.sensors === true)
      for (let piece = around.next(); piece >= 0; piece = around.next()) {
        if (!this.accepts(c, world.geometry.ownerOf(piece))) continue
        this.gapPiece(offset.data[i], piece, within)
        if (!(gap[DISTANCE] <= within[0]) || this.faceCount === MOST_FACES) continue
        let along = 0
        for (let k = 0; k < axes; k++) along -= gap[NORMAL + k] * motion[k]
        if (!(along <= most && along >= -most)) continue
        faceOffsets[this.faceCount] = 0
        for (let k = 0; k < axes; k++) {
          faces[axes * this.faceCount + k] = -gap[NORMAL + k]
          faceOffsets[this.faceCount] -= gap[NORMAL + k] * gap[NORMAL + 2 * axes + k]
        }
        this.faceCount++
      }
    }
  }

  private takeBox(i: number): void {
    const { axes, box, bounds } = this
    for (let k = 0; k < 2 * axes; k++) box[k] = bounds[2 * axes * i + k]
  }

  private writeMotion(by: Float64Array): boolean {
    const { axes, line } = this
    let square = 0
    for (let k = 0; k < axes; k++) {
      line[axes + k] = by[k]
      square += by[k] * by[k]
    }
    line[2 * axes] = Math.sqrt(square)
    return square > 1e-300
  }

  private maskOf(c: number): number {
    return this.filter === null ? this.world.population.filter.activeSolid.data[c] : this.filter.mask
  }

  private accepts(c: number, other: number): boolean {
    const { filter } = this.world.population
    const body = filter.body.data[other]
    if (body === this.body) return false
    if (this.filter === null ? filter.respond(c, other) !== SOLID : !this.filter.accepts(other)) return false
    return !this.passed.has(body) && !this.isLed(body)
  }

  /** One block along {@link line}: keeps what is nearer than what was found. */
  private castOne(c: number, at: number, by: Float64Array): void {
    const { along, best, record, hit, world, filter, line, half, axes } = this
    const { geometry } = world
    along.walk.begin(line, half, best)
    along.begin(world, this.maskOf(c), filter?.sensors === true)
    for (let piece = along.next(); piece >= 0; piece = along.next()) {
      const other = geometry.ownerOf(piece)
      if (!this.accepts(c, other)) continue
      record[0] = best[0]
      const met = this.castPiece(at, piece)
      if (met === MISS || record[0] > best[0]) continue
      if (met === INSIDE) {
        // What is overlapped holds only what goes deeper.
        let into = 0
        for (let k = 0; k < axes; k++) into -= record[HIT_NORMAL + k] * by[k]
        if (this.freeing || filter?.skipInside === true || !(into > ALONG * line[2 * axes])) continue
      }
      if (this.found !== NONE && record[0] === best[0] && !this.isFirst(other, by)) continue
      if (this.letsPass(c, other, by, met === INSIDE)) continue
      best[0] = record[0]
      this.found = piece
      this.hitOwn = c
      this.hitOther = other
      this.hitInside = met === INSIDE
      for (let k = 0; k < hit.length; k++) hit[k] = record[k]
    }
  }

  /** Of two hits at the same place: the one that holds more, then the older. */
  private isFirst(other: number, by: Float64Array): boolean {
    const { hit, record, axes } = this
    let more = 0
    for (let k = 0; k < axes; k++) more += (hit[HIT_NORMAL + k] - record[HIT_NORMAL + k]) * by[k]
    if (more !== 0) return more > 0
    const { data } = this.world.population.serial
    return data[other] < data[this.hitOther]
  }

  /** Whether a one-way side, or a decide hook, lets the body pass what it has met. */
  private letsPass(c: number, other: number, by: Float64Array, inside: boolean): boolean {
    if (this.passesOneWay(other, by, 1, inside) || this.passesOneWay(c, by, -1, inside)) return true
    if (this.consult === null) return false
    for (let k = 0; k < this.axes; k++) this.normal[k] = this.record[HIT_NORMAL + k]
    return this.consult(c, other, this.normal, this.motion) !== SOLID
  }

  private passesOneWay(ledge: number, by: Float64Array, sign: number, inside: boolean): boolean {
    const { world, open, axes, record } = this
    if (!world.readOneWay(ledge, open)) return false
    if (inside) return true
    let along = 0
    let side = 0
    for (let k = 0; k < axes; k++) {
      along += sign * by[k] * open[k]
      side += sign * record[HIT_NORMAL + k] * open[k]
    }
    return along > ALONG * this.line[2 * axes] || side < ONE_WAY_COSINE
  }
}
