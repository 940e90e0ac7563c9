/**
 * Where colliders are: their geometry in the world, fat bounds that contain their motion, and their leaves in the trees. Changes made
 * between steps are listed, and brought in by the next step or the next query, whichever comes first. This is the one place that
 * decides when a tree is rebuilt.
 */
import { FIXED, SENSOR } from '../filter/filter.ts'
import type { StateVisitor } from '../save/state.ts'
import type { PieceTable, SourcePiece } from '../state/pieces.ts'
import { BODY_DEAD, type Population, STATIC } from '../state/population.ts'
import { type Column, IntList } from '../state/table.ts'
import type { BoundsTree } from '../tree/boundsTree.ts'

/** Movers get bounds wider by this part of their mean size, so that they are not touched every tick. */
const MARGIN = 0.2
/** From so many newcomers on, a tree may be built in bulk. */
const MANY = 64
/** By how much a sum grows at least, so that nothing is lost in its last digit. */
const UPWARDS = 1 + 4e-16

/** Which tree a collider is in. */
export const MOVERS = 0
export const STATICS = 1
/** Sensors on static bodies, which queries skip unless they ask for sensors. */
export const RESTING_SENSORS = 2
export const NOWHERE = -1

/** A way with bends: see `core/solve/sweep.ts`. */
interface BentWay {
  bendsIn(body: number): number
  longestTurn(body: number): number
  boundsAtBend(piece: number, body: number, index: number, out: Float64Array): void
}

export class BroadPhase<S extends SourcePiece, G extends PieceTable<S>, T extends BoundsTree> {
  readonly geometry: G
  readonly trees: readonly T[]
  /** Pieces that are halfspaces: they are in no tree. */
  readonly planes = new IntList()
  readonly treeOf: Column<Int32Array>
  /** The step in which a collider last changed place or shape. */
  readonly changedTick: Column<Int32Array>
  /**
   * Lengths that the outermost point of a collider has come by plain motions, as a sum over its life, and not less; then how many it came in the last
   * step in which it moved.
   */
  readonly odometer: Column<Float64Array>
  /** Colliders that were changed by more than a plain motion, or whose wide bounds were: what was said of their pairs does not last. */
  readonly unsettled = new IntList()
  /** Colliders whose candidates must be searched for again; a mark in `listed` is 1, for slots outlive their colliders. */
  readonly queue = new IntList()
  readonly isQueued: Column<Int32Array>
  /** Counts the steps, from 1; collider columns start at 0. */
  now = 1
  private readonly population: Population<object, object>
  private readonly axes: number
  private readonly movedBodies = new IntList()
  private readonly isBodyListed: Column<Int32Array>
  private readonly stretched = new IntList()
  private readonly isStretched: Column<Int32Array>
  private readonly found = new IntList()
  private readonly stack = new IntList()
  /** Bounds where a motion began. */
  private readonly start: Float64Array
  /** 1 for trees that are about to be rebuilt. */
  private readonly bulk = new Int32Array(3)
  /** Lengths within which a solid pair counts as touching. */
  private readonly touch: number
  /** What is to be brought in before the next step or query: tiles that were changed. */
  readonly pending: { flush(): void }[] = []
  /** Colliders that were changed in part, and who was near: two by two. */
  readonly edited = new IntList()
  private readonly bitsOf = (piece: number): number =>
    this.population.filter.activeLayers.data[this.geometry.ownerOf(piece)]

  /**
   * @param trees for movers, statics and resting sensors, in that order
   * @param touch lengths within which a solid pair counts as touching
   */
  constructor(population: Population<object, object>, geometry: G, trees: readonly T[], axes: number, touch: number) {
    const { bodies, colliders } = population
    this.population = population
    this.geometry = geometry
    this.trees = trees
    this.axes = axes
    this.touch = touch
    this.start = new Float64Array(2 * axes)
    this.isBodyListed = bodies.i32()
    this.isStretched = bodies.i32()
    this.isQueued = colliders.i32()
    this.changedTick = colliders.i32()
    this.odometer = colliders.f64(2)
    this.treeOf = colliders.i32()
  }

  /** Its state, once nothing waits to be brought in. */
  visit(v: StateVisitor): void {
    this.now = v.number(this.now)
    this.geometry.visit(v)
    for (const tree of this.trees) tree.visit(v)
    for (const list of [this.planes, this.queue, this.movedBodies, this.stretched, this.unsettled, this.edited])
      list.visit(v)
  }

  /** Takes the pieces of a collider in, at a pose of numbers within its body; in the trees from the next query or step on. */
  add(c: number, pieces: readonly S[], pose: Float64Array): void {
    this.treeOf.data[c] = NOWHERE
    this.geometry.add(c, pieces, pose)
    this.markMoved(this.population.filter.body.data[c])
  }

  /** Other pieces for a collider. */
  reshape(c: number, pieces: readonly S[], pose: Float64Array): void {
    this.takeOut(c)
    this.geometry.remove(c)
    this.add(c, pieces, pose)
  }

  /** A collider whose pieces come run by run, see {@link setRun}. */
  addRuns(c: number, count: number, reach: number): void {
    this.treeOf.data[c] = NOWHERE
    this.geometry.addRuns(c, count, reach)
    this.markMoved(this.population.filter.body.data[c])
  }

  /** Other pieces for a run of a collider. Who is near to what goes or comes is looked at by the next step. */
  setRun(c: number, run: number, pieces: readonly S[], keys: readonly number[], pose: Float64Array): void {
    const { geometry, trees, treeOf, population, changedTick } = this
    const size = 2 * this.axes
    const body = population.filter.body.data[c]
    const tree = treeOf.data[c]
    const bits = population.filter.activeLayers.data[c]
    geometry.setRun(
      c,
      run,
      pieces,
      keys,
      pose,
      (piece) => {
        if (tree === NOWHERE) return
        this.noteEdited(c, piece)
        trees[tree].remove(piece)
      },
      (piece) => {
        if (tree === NOWHERE) return
        geometry.transform(piece, body)
        this.expandBounds(piece)
        trees[tree].insert(piece, geometry.wideBounds.data, size * piece, bits)
        this.noteEdited(c, piece)
      },
    )
    changedTick.data[c] = this.now
    this.unsettled.push(c)
    population.stillChanges++
    if (tree === MOVERS) this.enqueue(c)
  }

  /** Lists who is near to a piece of a collider that goes or comes. */
  private noteEdited(c: number, piece: number): void {
    const { found, stack, trees, geometry, edited, population } = this
    const last = this.treeOf.data[c] === MOVERS ? RESTING_SENSORS : MOVERS
    found.clear()
    for (let tree = MOVERS; tree <= last; tree++)
      trees[tree].search(
        geometry.wideBounds.data,
        2 * this.axes * piece,
        population.filter.activeMeet.data[c],
        found,
        stack,
      )
    for (let i = 0; i < found.length; i++) {
      const other = geometry.ownerOf(found.data[i])
      if (other === c) continue
      edited.push(c)
      edited.push(other)
      this.enqueue(other)
    }
  }

  /** Takes changed layers over: the bits in the tree, and which tree it is. */
  refilter(c: number): void {
    const tree = this.treeOf.data[c]
    if (tree === NOWHERE) return
    if (tree !== this.treeFor(c)) {
      this.intoTree(c)
      return
    }
    const { geometry } = this
    const bits = this.population.filter.activeLayers.data[c]
    for (let piece = geometry.first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
      if (!geometry.isEndless(piece)) this.trees[tree].setBits(piece, bits)
    }
  }

  /** Takes a collider out of its tree. */
  takeOut(c: number): void {
    const tree = this.treeOf.data[c]
    if (tree === NOWHERE) return
    this.treeOf.data[c] = NOWHERE
    const { geometry } = this
    for (let piece = geometry.first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
      if (geometry.isEndless(piece)) this.planes.remove(piece)
      else this.trees[tree].remove(piece)
    }
  }

  /** The slot of a collider is about to be used again. */
  release(c: number): void {
    this.geometry.remove(c)
  }

  /** Nobody will look for pairs: in a world that is only asked. */
  forgetEdits(): void {
    for (let i = 0; i < this.queue.length; i++) this.isQueued.data[this.queue.data[i]] = 0
    for (const list of [this.queue, this.unsettled, this.edited]) list.clear()
  }

  /** A body was put somewhere else. */
  markMoved(body: number): void {
    if (this.population.type.data[body] === STATIC) this.population.stillChanges++
    if (this.isBodyListed.data[body] !== 0) return
    this.isBodyListed.data[body] = 1
    this.movedBodies.push(body)
  }

  /** The candidates of a collider must be searched for again. */
  enqueue(c: number): void {
    if (this.isQueued.data[c] !== 0) return
    this.isQueued.data[c] = 1
    this.queue.push(c)
  }

  /** Brings geometry and trees up to date before a query. Changes no simulated state. */
  refresh(): void {
    if (this.movedBodies.length > 0 || this.pending.length > 0) this.prepare()
  }

  /** Brings geometry and trees up to date; rebuilds those that have become bad. */
  prepare(): void {
    const { movedBodies, bulk, pending } = this
    for (const each of pending) each.flush()
    pending.length = 0
    if (movedBodies.length > MANY) this.planBulk()
    // Only the step counts on this, and a query that comes before it finds the same.
    if (this.trees[MOVERS].worn) bulk[MOVERS] = 1
    for (let i = 0; i < movedBodies.length; i++) {
      const body = movedBodies.data[i]
      // A slot that was freed since it was listed has lost its mark.
      if (this.isBodyListed.data[body] === 0) continue
      this.isBodyListed.data[body] = 0
      if ((this.population.bodyFlags.data[body] & BODY_DEAD) === 0) this.update(body)
    }
    movedBodies.clear()
    for (let tree = MOVERS; tree <= RESTING_SENSORS; tree++) {
      if (bulk[tree] === 0) continue
      bulk[tree] = 0
      this.rebuild(tree)
    }
  }

  /** World geometry and tree places of a body's colliders, after it was put somewhere. */
  private update(body: number): void {
    const { population, geometry, changedTick, treeOf } = this
    const { wideBounds, first } = geometry
    const size = 2 * this.axes
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      changedTick.data[c] = this.now
      this.unsettled.push(c)
      const tree = treeOf.data[c]
      let left = false
      for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        geometry.transform(piece, body)
        if (tree === NOWHERE || geometry.isEndless(piece) || this.isWideEnough(piece, 0)) continue
        left = true
        this.expandBounds(piece)
        this.trees[tree].move(piece, wideBounds.data, size * piece)
      }
      if (tree === NOWHERE) this.intoTree(c)
      else if (left || geometry.isEndless(first.data[c])) this.enqueue(c)
    }
  }

  /**
   * World geometry and tree places of a body's colliders, after it moved by a motion that may be told: the wide bounds then
   * hold all of it, so that whatever it passed is a candidate.
   * @param gone radians by which it turned, and how far it went
   */
  follow(body: number, gone: Float64Array): void {
    const turned = gone[0]
    const way = gone[1]
    const { population, geometry, changedTick, treeOf, start, axes, odometer } = this
    const { bounds, wideBounds, first } = geometry
    // Between two poses a point strays from the straight line by less than this part of its distance from the origin.
    const bend = turned === 0 ? 0 : Math.min((turned * turned) / 8, 2)
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const tree = treeOf.data[c]
      if (tree === NOWHERE) continue
      changedTick.data[c] = this.now
      const swung = turned === 0 ? 0 : Math.abs(turned) * geometry.turnReach.data[c]
      odometer.data[2 * c] = (odometer.data[2 * c] + way + swung) * UPWARDS
      odometer.data[2 * c + 1] = way + swung
      const stray = bend === 0 ? 0 : bend * geometry.turnReach.data[c]
      let left = false
      for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        const at = 2 * axes * piece
        const tight = bounds.data
        for (let i = 0; i < 2 * axes; i++) start[i] = tight[at + i]
        geometry.transform(piece, body)
        if (this.isWideEnough(piece, stray)) continue
        left = true
        this.expandBounds(piece)
        const wide = wideBounds.data
        for (let i = 0; i < axes; i++) {
          if (start[i] - stray < wide[at + i]) wide[at + i] = start[i] - stray
          if (start[axes + i] + stray > wide[at + axes + i]) wide[at + axes + i] = start[axes + i] + stray
        }
        this.trees[tree].move(piece, wide, at)
      }
      if (left) this.enqueue(c)
    }
  }

  /** The wide bounds of a body hold a long way, and are made small again before the next step. */
  markStretched(body: number): void {
    if (this.isStretched.data[body] !== 0) return
    this.isStretched.data[body] = 1
    this.stretched.push(body)
  }

  /** Makes the bounds of what had a long way in the last step small again. */
  shrinkStretched(): void {
    const { stretched, isStretched, population, geometry, treeOf } = this
    for (let i = 0; i < stretched.length; i++) {
      const body = stretched.data[i]
      if (isStretched.data[body] === 0) continue
      isStretched.data[body] = 0
      for (let c = population.first(body); c >= 0; c = population.next(c)) {
        const tree = treeOf.data[c]
        if (tree === NOWHERE) continue
        this.unsettled.push(c)
        for (let piece = geometry.first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
          if (geometry.isEndless(piece)) continue
          this.expandBounds(piece)
          this.trees[tree].move(piece, geometry.wideBounds.data, 2 * this.axes * piece)
        }
      }
    }
    stretched.clear()
  }

  /** As {@link follow}, for a motion with bends: wide bounds that hold the body at its start, at every bend and at its end. */
  followBends(body: number, path: BentWay): void {
    const { population, geometry, treeOf, start: box, axes } = this
    const { wideBounds, first } = geometry
    const bends = path.bendsIn(body)
    const most = path.longestTurn(body)
    const bend = most === 0 ? 0 : Math.min((most * most) / 8, 2)
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const tree = treeOf.data[c]
      if (tree === NOWHERE) continue
      this.changedTick.data[c] = this.now
      this.unsettled.push(c)
      this.odometer.data[2 * c + 1] = Infinity
      const stray = bend === 0 ? 0 : bend * geometry.turnReach.data[c]
      for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        geometry.transform(piece, body)
        this.expandBounds(piece)
        const at = 2 * axes * piece
        const wide = wideBounds.data
        for (let i = -1; i < bends; i++) {
          path.boundsAtBend(piece, body, i, box)
          for (let k = 0; k < axes; k++) {
            if (box[k] < wide[at + k]) wide[at + k] = box[k]
            if (box[axes + k] > wide[at + axes + k]) wide[at + axes + k] = box[axes + k]
          }
        }
        for (let k = 0; k < axes; k++) {
          wide[at + k] -= stray
          wide[at + axes + k] += stray
        }
        this.trees[tree].move(piece, wide, at)
      }
      this.enqueue(c)
    }
  }

  /**
   * Before the tick: expands the fat bounds by the predicted motion of a body, so that everything it may meet becomes a candidate.
   * @param motion how far it goes along each axis, then by how many radians it turns
   */
  makeRoom(body: number, motion: Float64Array): void {
    const { population, geometry, treeOf, axes } = this
    const { bounds, wideBounds, first } = geometry
    const turned = motion[axes]
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const tree = treeOf.data[c]
      if (tree === NOWHERE) continue
      const stray = turned === 0 ? 0 : Math.min(Math.abs(turned), 2) * geometry.turnReach.data[c]
      let left = false
      for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        const at = 2 * axes * piece
        const tight = bounds.data
        const wide = wideBounds.data
        let held = true
        for (let i = 0; i < axes; i++) {
          const min = tight[at + i] + (motion[i] < 0 ? motion[i] : 0) - stray
          const max = tight[at + axes + i] + (motion[i] > 0 ? motion[i] : 0) + stray
          if (!(min >= wide[at + i] && max <= wide[at + axes + i])) held = false
        }
        if (held) continue
        left = true
        this.expandBounds(piece)
        for (let i = 0; i < axes; i++) {
          const min = tight[at + i] + (motion[i] < 0 ? motion[i] : 0) - stray
          const max = tight[at + axes + i] + (motion[i] > 0 ? motion[i] : 0) + stray
          if (min < wide[at + i]) wide[at + i] = min
          if (max > wide[at + axes + i]) wide[at + axes + i] = max
        }
        this.trees[tree].move(piece, wide, at)
      }
      if (left) this.enqueue(c)
    }
  }

  /** Whether the wide bounds of a piece hold its tight ones, which may stray by so much. */
  private isWideEnough(piece: number, stray: number): boolean {
    const { axes } = this
    const tight = this.geometry.bounds.data
    const wide = this.geometry.wideBounds.data
    const at = 2 * axes * piece
    return (
      tight[at] - stray >= wide[at] &&
      tight[at + 1] - stray >= wide[at + 1] &&
      tight[at + axes] + stray <= wide[at + axes] &&
      tight[at + axes + 1] + stray <= wide[at + axes + 1] &&
      (axes < 3 || (tight[at + 2] - stray >= wide[at + 2] && tight[at + 5] + stray <= wide[at + 5]))
    )
  }

  /** Tight bounds wider by the reach of touching, and for movers by a part of their size. */
  private expandBounds(piece: number): void {
    const { axes } = this
    const tight = this.geometry.bounds.data
    const wide = this.geometry.wideBounds.data
    const at = 2 * axes * piece
    let size = 0
    for (let i = 0; i < axes; i++) size += tight[at + axes + i] - tight[at + i]
    const fixed = (this.population.filter.flags.data[this.geometry.ownerOf(piece)] & FIXED) !== 0
    const margin = 2 * this.touch + (fixed ? 0 : (MARGIN * size) / axes)
    for (let i = 0; i < axes; i++) {
      wide[at + i] = tight[at + i] - margin
      wide[at + axes + i] = tight[at + axes + i] + margin
    }
  }

  /** Marks the trees that get so many new leaves that a rebuild is faster and gives the better tree. */
  private planBulk(): void {
    const { movedBodies, bulk, trees, treeOf, population } = this
    const fresh = [0, 0, 0]
    for (let i = 0; i < movedBodies.length; i++) {
      const body = movedBodies.data[i]
      if (this.isBodyListed.data[body] === 0) continue
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
    const { first, wideBounds } = geometry
    found.clear()
    for (let body = 0; body < population.bodies.size; body++) {
      if (population.bodySerial.data[body] === 0 || !population.bodyAlive(body)) continue
      for (let c = population.first(body); c >= 0; c = population.next(c)) {
        if (treeOf.data[c] !== tree) continue
        for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
          if (!geometry.isEndless(piece)) found.push(piece)
        }
      }
    }
    this.trees[tree].build(found, wideBounds.data, this.bitsOf)
    // The build has put them in the order of the tree.
    if (tree === STATICS) this.trees[tree].renumber(geometry.arrange(found))
  }

  private treeFor(c: number): number {
    const flags = this.population.filter.flags.data[c]
    if ((flags & FIXED) === 0) return MOVERS
    return (flags & SENSOR) !== 0 ? RESTING_SENSORS : STATICS
  }

  private intoTree(c: number): void {
    this.takeOut(c)
    const tree = this.treeFor(c)
    const { geometry } = this
    const bits = this.population.filter.activeLayers.data[c]
    this.treeOf.data[c] = tree
    for (let piece = geometry.first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
      if (geometry.isEndless(piece)) {
        this.planes.push(piece)
        continue
      }
      this.expandBounds(piece)
      if (this.bulk[tree] === 0) this.trees[tree].insert(piece, geometry.wideBounds.data, 2 * this.axes * piece, bits)
    }
    this.enqueue(c)
  }
}
