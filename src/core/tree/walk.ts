/** Walks over the trees of a world that return one piece after another, for both dimensions. */
import type { IntList } from '../state/table.ts'

/** What a walk hands out when it is over; links of leaves are below 0. */
export const DONE = 0

/** Finite stand-in for 1 / 0: 0 * HUGE is 0, whereas 0 * Infinity is NaN. */
const HUGE = 1e300

/** 1 / motion, limited to a finite number. */
export function reciprocal(motion: number): number {
  const value = 1 / motion
  return motion === 0 || value > HUGE ? HUGE : value < -HUGE ? -HUGE : value
}

/**
 * A walk through the nodes of a tree, which hands out one leaf after another: the caller continues when it likes, and nothing is
 * made for it. A dimension says which nodes it goes to. It is in one place at a time, and may be restarted before it is over.
 */
export abstract class TreeWalk {
  /** Traversal stack of node links, each with its entry distance; `height` is the size of the stack. */
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

/** Which leaves are within reach of a box that stands. */
export class BoxWalk extends TreeWalk {
  private box: Float64Array = new Float64Array(0)
  private readonly axes: number

  /** @param axes how many numbers a corner of a box has */
  constructor(axes: number) {
    super()
    this.axes = axes
  }

  /** @param box the least coordinates, then the greatest @param limit the reach in its first place, read at every step: it may become less */
  begin(box: Float64Array, limit: Float64Array): void {
    this.box = box
    this.restart(limit)
  }

  next(): number {
    const { f32, i32, mask, stack, keys, box, axes } = this
    const linkAt = 4 * axes
    const bitsAt = linkAt + 2
    const stride = bitsAt + 2
    const reach = this.limit[0]
    // What overlaps is always within reach.
    const most = reach > 0 ? reach * reach * (1 + 1e-12) : 0
    let height = this.height
    while (height > 0) {
      height--
      if (keys[height] > most) continue
      const link = stack[height]
      if (link < 0) {
        this.height = height
        return link
      }
      const base = link * stride
      let met = 0
      for (let child = 0; child < 2; child++) {
        if ((i32[base + bitsAt + child] & mask) === 0) continue
        const at = base + 2 * axes * child
        // How far apart the two are along each axis, as far as they are.
        let x = f32[at] - box[axes]
        if (box[0] - f32[at + axes] > x) x = box[0] - f32[at + axes]
        let y = f32[at + 1] - box[axes + 1]
        if (box[1] - f32[at + axes + 1] > y) y = box[1] - f32[at + axes + 1]
        let square = x > 0 ? x * x : 0
        if (y > 0) square += y * y
        if (axes === 3) {
          let z = f32[at + 2] - box[5]
          if (box[2] - f32[at + 5] > z) z = box[2] - f32[at + 5]
          if (z > 0) square += z * z
        }
        if (square > most) continue
        const behind = met === 1 && square >= keys[height]
        if (behind) {
          stack[height + 1] = stack[height]
          keys[height + 1] = keys[height]
        }
        const to = behind ? height : height + met
        stack[to] = i32[base + linkAt + child]
        keys[to] = square
        met++
      }
      height += met
    }
    this.height = 0
    return DONE
  }
}

/** Part of the coordinates by which what moves is wider: a touch must not be lost to rounding. */
const SLACK = 2e-15
/** The least half size: boxes without thickness still have coordinates that are rounded. */
const LEAST = 1e-280

/** Which leaves are met by a box that moves along a line. A dimension brings the test of a node's bounds. */
export abstract class LineWalk extends TreeWalk {
  /** For each axis: the start, moved for the near side and for the far side; one over the motion. */
  protected readonly motion: Float64Array
  private readonly axes: number

  /** @param axes how many numbers a point has */
  constructor(axes: number) {
    super()
    this.axes = axes
    this.motion = new Float64Array(3 * axes)
  }

  /**
   * @param line start and motion of the middle of the box
   * @param half half its sizes
   * @param limit the part of the motion in its first place, read at every step: it may become less
   */
  begin(line: Float64Array, half: Float64Array, limit: Float64Array): void {
    const { motion, axes } = this
    let size = LEAST
    for (let i = 0; i < axes; i++) size += Math.abs(line[i]) + Math.abs(line[axes + i]) + half[i]
    for (let i = 0; i < axes; i++) {
      const start = line[i]
      const grown = half[i] + SLACK * size
      const per = reciprocal(line[axes + i])
      motion[i] = per < 0 ? start - grown : start + grown
      motion[axes + i] = per < 0 ? start + grown : start - grown
      motion[2 * axes + i] = per
    }
    this.restart(limit)
  }
}

interface Places {
  /** Pieces without bounds: every walk returns them. */
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
   * Restarts, when the walk has been begun.
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
