/** All pieces that a walk through the trees of a world comes to, one after another, whatever the dimension. */
import type { IntList } from '../state/table.ts'

/** What a walk hands out when it is over; links of leaves are below 0. */
export const DONE = 0

/** Stands for an infinite reciprocal: times a distance of 0 it is 0 and not a number that is none. */
const HUGE = 1e300

/** One over a motion, or what stands for it. */
export function reciprocal(motion: number): number {
  const value = 1 / motion
  return motion === 0 || value > HUGE ? HUGE : value < -HUGE ? -HUGE : value
}

/**
 * A walk through the nodes of a tree, which hands out one leaf after another: whoever asks goes on when it likes, and nothing is
 * made for it. A dimension says which nodes it goes to. It is in one place at a time, and may be begun anew before it is over.
 */
export abstract class TreeWalk {
  /** Links of what is still to be looked at, each with a number (where it is come to, or how far away it is), and how many. */
  protected stack = new Int32Array(64)
  protected keys = new Float64Array(64)
  protected height = 0
  protected f32: Float32Array = new Float32Array(0)
  protected i32: Int32Array = new Int32Array(0)
  protected mask = 0
  protected limit: Float64Array = new Float64Array(1)

  /** @param limit what lies beyond it is not gone to: in its first place, read at every step, for it may become less */
  protected restart(limit: Float64Array): void {
    this.limit = limit
    this.height = 0
  }

  /**
   * Goes on in another tree.
   * @param mask layers of which one must be below
   * @param room as many as can wait at a time: the depth, or all nodes
   */
  enter(f32: Float32Array, i32: Int32Array, mask: number, room: number): void {
    if (this.stack.length < room + 2) {
      this.stack = new Int32Array(2 * room + 2)
      this.keys = new Float64Array(2 * room + 2)
    }
    this.f32 = f32
    this.i32 = i32
    this.mask = mask
    this.stack[0] = 0
    this.keys[0] = 0
    this.height = 1
  }

  /** The link of the next leaf, nearer ones earlier, or {@link DONE}. */
  abstract next(): number
}

interface Places {
  /** Pieces without bounds: a walk always comes to them. */
  readonly planes: IntList
  /** Those that stand, those that move, and, last, resting sensors. */
  readonly trees: readonly {
    readonly f32: Float32Array
    readonly i32: Int32Array
    readonly count: number
    readonly nodes: number
  }[]
}

export class PieceWalk<W extends TreeWalk> {
  readonly walk: W
  private places: Places | null = null
  private mask = 0
  private last = 0
  private plane = 0
  private tree = 0

  constructor(walk: W) {
    this.walk = walk
  }

  /**
   * Begins anew, when the walk has been begun.
   * @param sensors whether resting sensors are wanted
   */
  begin(places: Places, mask: number, sensors: boolean): void {
    this.places = places
    this.mask = mask
    this.plane = 0
    this.tree = 0
    this.last = sensors ? places.trees.length : places.trees.length - 1
  }

  /** The next piece, or -1. */
  next(): number {
    const { planes, trees } = this.places!
    if (this.plane < planes.length) return planes.data[this.plane++]
    for (;;) {
      const link = this.walk.next()
      if (link !== DONE) return -2 - link
      if (this.tree === this.last) return -1
      const tree = trees[this.tree++]
      if (tree.count > 0) this.walk.enter(tree.f32, tree.i32, this.mask, tree.nodes)
    }
  }
}
