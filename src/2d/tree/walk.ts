/** The walk along a line: which leaves are met by a box that moves. The tests of a node are unrolled for speed. */
import { DONE, LineWalk } from '../../core/tree/walk.ts'
import type * as layout from './layout.ts'

const NODE: typeof layout.NODE = 12
const LINK: typeof layout.LINK = 8
const BITS: typeof layout.BITS = 10

export class LineWalk2 extends LineWalk {
  constructor() {
    super(2)
  }

  next(): number {
    const { f32, i32, mask, stack, keys, motion } = this
    const inX = motion[0]
    const inY = motion[1]
    const outX = motion[2]
    const outY = motion[3]
    const ix = motion[4]
    const iy = motion[5]
    // Where the bound of the near side stands among a child's four numbers.
    const nearX = ix < 0 ? 2 : 0
    const farX = 2 - nearX
    const nearY = iy < 0 ? 3 : 1
    const farY = 4 - nearY
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
        const at = base + 4 * child
        const x0 = (f32[at + nearX] - inX) * ix
        const y0 = (f32[at + nearY] - inY) * iy
        const x1 = (f32[at + farX] - outX) * ix
        const y1 = (f32[at + farY] - outY) * iy
        if (!(x0 <= y1 && y0 <= x1 && x1 >= 0 && y1 >= 0)) continue
        const enter = x0 > y0 ? x0 : y0
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
