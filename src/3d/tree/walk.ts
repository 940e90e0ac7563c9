/** The walk along a line: which leaves are met by a box that moves. The tests of a node are unrolled for speed. */
import { DONE, LineWalk } from '../../core/tree/walk.ts'
import type * as layout from './layout.ts'

const NODE: typeof layout.NODE = 16
const LINK: typeof layout.LINK = 12
const BITS: typeof layout.BITS = 14

export class LineWalk3 extends LineWalk {
  constructor() {
    super(3)
  }

  next(): number {
    const { f32, i32, mask, stack, keys, motion } = this
    const inX = motion[0]
    const inY = motion[1]
    const inZ = motion[2]
    const outX = motion[3]
    const outY = motion[4]
    const outZ = motion[5]
    const ix = motion[6]
    const iy = motion[7]
    const iz = motion[8]
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
