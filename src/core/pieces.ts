/** All pieces that a walk through the trees of a world comes to, one after another, whatever the dimension. */
import type { IntList } from './table.ts'

/** What a walk hands out when it is over; links of leaves are below 0. */
export const DONE = 0

/** A walk through the nodes of a tree, which a dimension owes. */
export interface Walk {
  /**
   * Goes on in another tree.
   * @param mask layers of which one must be below
   * @param room as many as can wait at a time: the depth, or all nodes
   */
  enter(f32: Float32Array, i32: Int32Array, mask: number, room: number): void
  /** The link of the next leaf, or {@link DONE}. */
  next(): number
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

export class Pieces<W extends Walk> {
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
