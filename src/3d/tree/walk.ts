/**
 * Walks through the nodes of a tree, that of a world or of a surface, which hand out one leaf after another: whoever asks goes
 * on when it likes, and nothing is made for it. A walk is in one place at a time; it may be begun anew before it is over.
 */
import { DONE, reciprocal, TreeWalk } from '../../core/query/treeWalk.ts'
import type * as words from './layout.ts'

const NODE: typeof words.NODE = 16
const LINK: typeof words.LINK = 12
const BITS: typeof words.BITS = 14

/** Part of the coordinates by which what moves is wider: a touch must not be lost to rounding. */
const SLACK = 2e-15
/** A size that is none, but enough that what is flat lies within a reach of it. */
const LEAST = 1e-280
/** What the bounds of leaves are asked for on a way: which are met by a box that moves along a line. */
export class LineWalk extends TreeWalk {
  /** For each axis: the start, moved for the near side and for the far side; one over the motion. */
  private readonly way = new Float64Array(9)

  /**
   * @param line start and motion of the middle of the box, six numbers
   * @param half half its sizes
   * @param limit the part of the way in its first place, read at every step: it may become less
   */
  begin(line: Float64Array, half: Float64Array, limit: Float64Array): void {
    const { way } = this
    let size = LEAST
    for (let i = 0; i < 3; i++) size += Math.abs(line[i]) + Math.abs(line[3 + i]) + half[i]
    for (let i = 0; i < 3; i++) {
      const start = line[i]
      const grown = half[i] + SLACK * size
      const per = reciprocal(line[3 + i])
      way[i] = per < 0 ? start - grown : start + grown
      way[3 + i] = per < 0 ? start + grown : start - grown
      way[6 + i] = per
    }
    this.restart(limit)
  }

  /** The link of the next leaf, nearer ones earlier, or {@link DONE}. */
  next(): number {
    const { f32, i32, mask, stack, keys, way } = this
    const inX = way[0]
    const inY = way[1]
    const inZ = way[2]
    const outX = way[3]
    const outY = way[4]
    const outZ = way[5]
    const ix = way[6]
    const iy = way[7]
    const iz = way[8]
    // Where the bound of the near side stands among a child's six numbers.
    const nearX = ix < 0 ? 3 : 0
    const farX = 3 - nearX
    const nearY = iy < 0 ? 4 : 1
    const farY = 5 - nearY
    const nearZ = iz < 0 ? 5 : 2
    const farZ = 7 - nearZ
    const limit = this.limit[0] < 1 ? this.limit[0] : 1
    let height = this.height
    while (height > 0) {
      height--
      if (keys[height] > limit) continue
      const link = stack[height]
      if (link < 0) {
        this.height = height
        return link
      }
      const base = link * NODE
      // The farther child waits below the nearer.
      let met = 0
      for (let child = 0; child < 2; child++) {
        if ((i32[base + BITS + child] & mask) === 0) continue
        const at = base + 6 * child
        const x0 = (f32[at + nearX] - inX) * ix
        const y0 = (f32[at + nearY] - inY) * iy
        const z0 = (f32[at + nearZ] - inZ) * iz
        const x1 = (f32[at + farX] - outX) * ix
        const y1 = (f32[at + farY] - outY) * iy
        const z1 = (f32[at + farZ] - outZ) * iz
        if (!(x0 <= y1 && x0 <= z1 && y0 <= x1 && y0 <= z1 && z0 <= x1 && z0 <= y1)) continue
        if (!(x1 >= 0 && y1 >= 0 && z1 >= 0)) continue
        const enter = x0 > y0 ? (x0 > z0 ? x0 : z0) : y0 > z0 ? y0 : z0
        if (enter > limit) continue
        const behind = met === 1 && enter >= keys[height]
        if (behind) {
          stack[height + 1] = stack[height]
          keys[height + 1] = keys[height]
        }
        const to = behind ? height : height + met
        stack[to] = i32[base + LINK + child]
        keys[to] = enter
        met++
      }
      height += met
    }
    this.height = 0
    return DONE
  }
}

/** Which leaves are within reach of a box that stands. */
export class BoxWalk extends TreeWalk {
  private box: Float64Array = new Float64Array(6)

  /** @param box min x, y, z, max x, y, z @param limit the reach in its first place, read at every step: it may become less */
  begin(box: Float64Array, limit: Float64Array): void {
    this.box = box
    this.restart(limit)
  }

  /** The link of the next leaf, nearer ones earlier, or {@link DONE}. */
  next(): number {
    const { f32, i32, mask, stack, keys, box } = this
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
      const base = link * NODE
      let met = 0
      for (let child = 0; child < 2; child++) {
        if ((i32[base + BITS + child] & mask) === 0) continue
        const at = base + 6 * child
        let square = 0
        for (let i = 0; i < 3; i++) {
          let apart = f32[at + i] - box[3 + i]
          if (box[i] - f32[at + 3 + i] > apart) apart = box[i] - f32[at + 3 + i]
          if (apart > 0) square += apart * apart
        }
        if (square > most) continue
        const behind = met === 1 && square >= keys[height]
        if (behind) {
          stack[height + 1] = stack[height]
          keys[height + 1] = keys[height]
        }
        const to = behind ? height : height + met
        stack[to] = i32[base + LINK + child]
        keys[to] = square
        met++
      }
      height += met
    }
    this.height = 0
    return DONE
  }
}
