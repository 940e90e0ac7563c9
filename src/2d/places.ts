/**
 * Where colliders stand: their pieces in the world, the wide bounds that hold their ways, and their places in the trees. Changes made
 * between steps are listed, and brought in by the next step or the next query, whichever comes first.
 */
import { FIXED, SENSOR } from '../core/filter/filter.ts'
import { BODY_DEAD, type Population } from '../core/state/population.ts'
import { type Column, IntList } from '../core/state/table.ts'
import { cosSin } from '../core/util/maths.ts'
import { Geometry } from './geometry.ts'
import { Path } from './path.ts'
import type { Poses } from './poses.ts'
import { PLANE, type Shape2 } from './shapes/shape.ts'
import { Tree } from './tree/tree.ts'

/** Movers get bounds wider by this part of their size, so that they are not touched every tick. */
const FAT = 0.2
/** From so many newcomers on, a tree may be built in bulk. */
const MANY = 64

/** Which tree a collider is in. */
export const MOVERS = 0
export const STATICS = 1
/** Sensors on static bodies, which queries skip unless they ask for sensors. */
export const RESTING_SENSORS = 2
export const NOWHERE = -1

export class Places {
  readonly geometry: Geometry
  readonly trees: readonly Tree[] = [new Tree(), new Tree(), new Tree()]
  /** Pieces that are a half of the plane: they are in no tree. */
  readonly planes = new IntList()
  readonly treeOf: Column<Int32Array>
  /** The step in which a collider last changed place or shape. */
  readonly changedTick: Column<Int32Array>
  /** Colliders whose candidates must be looked for anew; a mark in `listed` is 1, for slots outlive their colliders. */
  readonly toFind = new IntList()
  readonly listed: Column<Int32Array>
  /** The ways of the bodies within a tick. */
  readonly path: Path
  /** Counts the steps, from 1; collider columns start at 0. */
  now = 1
  private readonly misplaced = new IntList()
  private readonly bodyListed: Column<Int32Array>
  private readonly found = new IntList()
  private readonly bitsOf = (piece: number): number => this.population.filter.at.data[this.geometry.ownerOf(piece)]
  /** 1 for trees that are about to be built anew. */
  private readonly bulk = new Int32Array(3)
  private readonly bend = new Float64Array(5)
  private readonly box = new Float64Array(4)
  private readonly population: Population<object, object>
  private readonly place: Column<Float64Array>
  private readonly turn: Column<Float64Array>
  private readonly before: Column<Float64Array>
  /** Lengths within which a solid pair counts as touching. */
  private readonly touch: number

  constructor(population: Population<object, object>, poses: Poses, touch: number) {
    const { bodies, colliders } = population
    this.population = population
    this.place = poses.place
    this.turn = poses.turn
    this.before = poses.before
    this.touch = touch
    this.geometry = new Geometry(colliders)
    this.bodyListed = bodies.i32()
    this.listed = colliders.i32()
    this.changedTick = colliders.i32()
    this.treeOf = colliders.i32()
    this.path = new Path(this.geometry, population.filter.body, poses, bodies)
  }

  add(c: number, shape: Shape2, x: number, y: number, angle: number): void {
    this.treeOf.data[c] = NOWHERE
    this.geometry.place(c, shape, x, y, angle)
    this.list(this.population.filter.body.data[c])
  }

  /** Another shape for a collider; in the trees from the next query or step on. */
  reshape(c: number, shape: Shape2, x: number, y: number, angle: number): void {
    this.takenOut(c)
    this.geometry.remove(c)
    this.add(c, shape, x, y, angle)
  }

  /** Takes changed words over: the bits in the tree, and which tree it is. */
  wordsOf(c: number): void {
    const tree = this.treeOf.data[c]
    if (tree === NOWHERE) return
    if (tree !== this.treeFor(c)) {
      this.intoTree(c)
      return
    }
    const { first } = this.geometry
    const bits = this.population.filter.at.data[c]
    for (let piece = first.data[c]; piece !== NOWHERE; piece = this.geometry.after(piece)) {
      if (this.geometry.kindOf(piece) !== PLANE) this.trees[tree].setBits(piece, bits)
    }
  }

  takenOut(c: number): void {
    const tree = this.treeOf.data[c]
    if (tree === NOWHERE) return
    this.treeOf.data[c] = NOWHERE
    const { first } = this.geometry
    for (let piece = first.data[c]; piece !== NOWHERE; piece = this.geometry.after(piece)) {
      if (this.geometry.kindOf(piece) === PLANE) this.planes.remove(piece)
      else this.trees[tree].remove(piece)
    }
  }

  /** Brings geometry and trees up to date before a query. Changes no simulated state. */
  refresh(): void {
    if (this.misplaced.length > 0) this.prepare()
  }

  prepare(): void {
    const { misplaced, bulk } = this
    if (misplaced.length > MANY) this.planBulk()
    // Only the step counts on this, and a query that comes before it finds the same.
    if (this.trees[MOVERS].worn) bulk[MOVERS] = 1
    for (let i = 0; i < misplaced.length; i++) {
      const body = misplaced.data[i]
      // A slot that was freed since it was listed has lost its mark.
      if (this.bodyListed.data[body] === 0) continue
      this.bodyListed.data[body] = 0
      if ((this.population.bodyFlags.data[body] & BODY_DEAD) === 0) this.update(body)
    }
    misplaced.clear()
    for (let tree = MOVERS; tree <= RESTING_SENSORS; tree++) {
      if (bulk[tree] === 0) continue
      bulk[tree] = 0
      this.rebuild(tree)
    }
  }

  refind(c: number): void {
    if (this.listed.data[c] !== 0) return
    this.listed.data[c] = 1
    this.toFind.push(c)
  }

  forget(c: number): void {
    this.geometry.remove(c)
  }

  list(body: number): void {
    if (this.bodyListed.data[body] !== 0) return
    this.bodyListed.data[body] = 1
    this.misplaced.push(body)
  }

  /** World geometry and tree places of a body's colliders, after it was put somewhere. */
  private update(body: number): void {
    const { population, geometry, place, turn, changedTick, treeOf } = this
    const { bounds, fat, first } = geometry
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      changedTick.data[c] = this.now
      const tree = treeOf.data[c]
      let left = false
      for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        geometry.transform(piece, place.data, 2 * body, turn.data, 3 * body + 1)
        if (tree === NOWHERE || geometry.kindOf(piece) === PLANE) continue
        const at = 4 * piece
        const tight = bounds.data
        const wide = fat.data
        if (
          tight[at] >= wide[at] &&
          tight[at + 1] >= wide[at + 1] &&
          tight[at + 2] <= wide[at + 2] &&
          tight[at + 3] <= wide[at + 3]
        ) {
          continue
        }
        left = true
        this.fatten(piece)
        this.trees[tree].move(piece, wide, at)
      }
      if (tree === NOWHERE) this.intoTree(c)
      else if (left || this.geometry.kindOf(first.data[c]) === PLANE) this.refind(c)
    }
  }

  /**
   * World geometry and tree places of a body's colliders, after it moved by a motion that may be told: the wide bounds then
   * hold all of its way, so that whatever it passed is a candidate.
   */
  follow(body: number): void {
    const { population, geometry, place, turn, before, changedTick, treeOf } = this
    const turned = turn.data[3 * body] - before.data[3 * body + 2]
    const { bounds, fat, first } = geometry
    // Between two poses a point strays from the straight line by less than this part of its distance from the origin.
    const bend = turned === 0 ? 0 : Math.min((turned * turned) / 8, 2)
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const tree = treeOf.data[c]
      if (tree === NOWHERE) continue
      changedTick.data[c] = this.now
      const stray = bend === 0 ? 0 : bend * geometry.coreReach.data[c]
      let left = false
      for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        const at = 4 * piece
        const tight = bounds.data
        const wide = fat.data
        const minX = tight[at]
        const minY = tight[at + 1]
        const maxX = tight[at + 2]
        const maxY = tight[at + 3]
        geometry.transform(piece, place.data, 2 * body, turn.data, 3 * body + 1)
        if (
          tight[at] - stray >= wide[at] &&
          tight[at + 1] - stray >= wide[at + 1] &&
          tight[at + 2] + stray <= wide[at + 2] &&
          tight[at + 3] + stray <= wide[at + 3]
        ) {
          continue
        }
        left = true
        this.fatten(piece)
        if (minX - stray < wide[at]) wide[at] = minX - stray
        if (minY - stray < wide[at + 1]) wide[at + 1] = minY - stray
        if (maxX + stray > wide[at + 2]) wide[at + 2] = maxX + stray
        if (maxY + stray > wide[at + 3]) wide[at + 3] = maxY + stray
        this.trees[tree].move(piece, wide, at)
      }
      if (left) this.refind(c)
    }
  }

  /** As {@link follow}, for a way with bends: wide bounds that hold the body at its start, at every bend and at its end. */
  followBends(body: number): void {
    const { population, geometry, treeOf, path, bend, box, before, place, turn } = this
    const { fat, first } = geometry
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const tree = treeOf.data[c]
      if (tree === NOWHERE) continue
      this.changedTick.data[c] = this.now
      for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        geometry.transform(piece, place.data, 2 * body, turn.data, 3 * body + 1)
        this.fatten(piece)
        const at = 4 * piece
        const wide = fat.data
        let angle = before.data[3 * body + 2]
        let most = 0
        const bends = path.bendsIn(body)
        for (let i = -1; i < bends; i++) {
          if (i < 0) for (let k = 0; k < 3; k++) bend[k] = before.data[3 * body + k]
          else path.bendAt(body, i, bend)
          most = Math.max(most, Math.abs(bend[2] - angle))
          angle = bend[2]
          cosSin(bend, 2)
          geometry.boundsAt(piece, bend, box)
          for (let k = 0; k < 2; k++) if (box[k] < wide[at + k]) wide[at + k] = box[k]
          for (let k = 2; k < 4; k++) if (box[k] > wide[at + k]) wide[at + k] = box[k]
        }
        most = Math.max(most, Math.abs(turn.data[3 * body] - angle))
        const stray = most === 0 ? 0 : Math.min((most * most) / 8, 2) * geometry.coreReach.data[c]
        for (let k = 0; k < 4; k++) wide[at + k] += k < 2 ? -stray : stray
        this.trees[tree].move(piece, wide, at)
      }
      this.refind(c)
    }
  }

  /** Before the tick: wide bounds that hold the way a body is expected to take, so that what it may meet is a candidate. */
  makeRoom(body: number, way: Float64Array): void {
    const { population, geometry, treeOf } = this
    const dx = way[0]
    const dy = way[1]
    const turned = way[2]
    const { bounds, fat, first } = geometry
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const tree = treeOf.data[c]
      if (tree === NOWHERE) continue
      const stray = turned === 0 ? 0 : Math.min(Math.abs(turned), 2) * geometry.coreReach.data[c]
      let left = false
      for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        const at = 4 * piece
        const tight = bounds.data
        const wide = fat.data
        const minX = tight[at] + (dx < 0 ? dx : 0) - stray
        const minY = tight[at + 1] + (dy < 0 ? dy : 0) - stray
        const maxX = tight[at + 2] + (dx > 0 ? dx : 0) + stray
        const maxY = tight[at + 3] + (dy > 0 ? dy : 0) + stray
        if (minX >= wide[at] && minY >= wide[at + 1] && maxX <= wide[at + 2] && maxY <= wide[at + 3]) continue
        left = true
        this.fatten(piece)
        if (minX < wide[at]) wide[at] = minX
        if (minY < wide[at + 1]) wide[at + 1] = minY
        if (maxX > wide[at + 2]) wide[at + 2] = maxX
        if (maxY > wide[at + 3]) wide[at + 3] = maxY
        this.trees[tree].move(piece, wide, at)
      }
      if (left) this.refind(c)
    }
  }

  /** Marks the trees that get so many newcomers that building them anew gives the better tree, sooner. */
  private planBulk(): void {
    const { misplaced, bulk, trees, treeOf, population } = this
    const fresh = [0, 0, 0]
    for (let i = 0; i < misplaced.length; i++) {
      const body = misplaced.data[i]
      if (this.bodyListed.data[body] === 0) continue
      for (let c = population.first(body); c >= 0; c = population.next(c)) {
        if (treeOf.data[c] === NOWHERE) fresh[this.treeFor(c)] += this.geometry.pieceCount.data[c]
      }
    }
    for (let tree = MOVERS; tree <= RESTING_SENSORS; tree++) {
      if (fresh[tree] > MANY && 2 * fresh[tree] > trees[tree].count) bulk[tree] = 1
    }
  }

  private rebuild(tree: number): void {
    const { geometry, treeOf, found, population } = this
    const { first, fat } = geometry
    found.clear()
    for (let body = 0; body < population.bodies.size; body++) {
      if (population.bodySerial.data[body] === 0 || !population.bodyAlive(body)) continue
      for (let c = population.first(body); c >= 0; c = population.next(c)) {
        if (treeOf.data[c] !== tree) continue
        for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
          if (geometry.kindOf(piece) !== PLANE) found.push(piece)
        }
      }
    }
    this.trees[tree].build(found, fat.data, this.bitsOf)
    // The build has put them in the order of the tree.
    if (tree === STATICS) this.trees[tree].renumber(geometry.arrange(found))
  }

  private treeFor(c: number): number {
    const flags = this.population.filter.flags.data[c]
    if ((flags & FIXED) === 0) return MOVERS
    return (flags & SENSOR) !== 0 ? RESTING_SENSORS : STATICS
  }

  private intoTree(c: number): void {
    this.takenOut(c)
    const tree = this.treeFor(c)
    const { first, fat } = this.geometry
    const bits = this.population.filter.at.data[c]
    this.treeOf.data[c] = tree
    for (let piece = first.data[c]; piece !== NOWHERE; piece = this.geometry.after(piece)) {
      if (this.geometry.kindOf(piece) === PLANE) {
        this.planes.push(piece)
        continue
      }
      this.fatten(piece)
      if (this.bulk[tree] === 0) this.trees[tree].insert(piece, fat.data, 4 * piece, bits)
    }
    this.refind(c)
  }

  /** Tight bounds wider by the reach of touching, and for movers by a part of their size. */
  private fatten(piece: number): void {
    const tight = this.geometry.bounds.data
    const fat = this.geometry.fat.data
    const at = 4 * piece
    const width = tight[at + 2] - tight[at]
    const height = tight[at + 3] - tight[at + 1]
    const fixed = (this.population.filter.flags.data[this.geometry.ownerOf(piece)] & FIXED) !== 0
    const margin = 2 * this.touch + (fixed ? 0 : 0.5 * FAT * (width + height))
    fat[at] = tight[at] - margin
    fat[at + 1] = tight[at + 1] - margin
    fat[at + 2] = tight[at + 2] + margin
    fat[at + 3] = tight[at + 3] + margin
  }
}
