/** The walk of a ray through a tree. Boxes are met by slabs (Williams et al., 2005). */
import type { Kinds } from '../../core/state/handle.ts'
import { reciprocal } from '../../core/tree/walk.ts'
import type * as narrow from '../narrow/records.ts'
import type * as layout from '../tree/layout.ts'
import type { Tree } from '../tree/tree.ts'
import type { Scratch } from './scratch.ts'

const NODE: typeof layout.NODE = 12
const LINK: typeof layout.LINK = 8
const BITS: typeof layout.BITS = 10
const FRACTION: typeof narrow.FRACTION = 0

/** Tests a piece that the walk reaches: true when it is the new best. */
interface Modes<K extends Kinds> {
  tryPiece(scratch: Scratch<K>, piece: number, check: boolean): boolean
}

/**
 * One tree, the near child first; true when the walk is over. A child is met when every entry comes before every exit.
 * Which of the two are met cannot be predicted, so the comparisons are put together as numbers, without a branch. A far
 * child waits on the stack with its entry, for by its turn the ray may have become shorter.
 */
export function walkTree<K extends Kinds>(
  modes: Modes<K>,
  tree: Tree,
  scratch: Scratch<K>,
  any: boolean,
  check: boolean,
): boolean {
  const { f32, i32 } = tree
  const { line, best, compiled } = scratch
  const mask = compiled.mask
  const stack = scratch.walkStack(tree.nodes)
  const enters = scratch.walkEnters
  const ox = line[0]
  const oy = line[1]
  const ix = reciprocal(line[2])
  const iy = reciprocal(line[3])
  // Where the bound of the near side stands among a child's four numbers.
  const nearX = ix < 0 ? 2 : 0
  const farX = 2 - nearX
  const nearY = iy < 0 ? 3 : 1
  const farY = 4 - nearY
  let limit = best[FRACTION]
  const masked = mask !== -1 || tree.blank > 0
  let height = 0
  let node = 0
  for (;;) {
    const base = (node * NODE) | 0
    const atNearX = (base + nearX) | 0
    const atFarX = (base + farX) | 0
    const atNearY = (base + nearY) | 0
    const atFarY = (base + farY) | 0
    const x00 = (f32[atNearX] - ox) * ix
    const y01 = (f32[atFarY] - oy) * iy
    const y00 = (f32[atNearY] - oy) * iy
    const x01 = (f32[atFarX] - ox) * ix
    const x10 = (f32[(atNearX + 4) | 0] - ox) * ix
    const y11 = (f32[(atFarY + 4) | 0] - oy) * iy
    const y10 = (f32[(atNearY + 4) | 0] - oy) * iy
    const x11 = (f32[(atFarX + 4) | 0] - ox) * ix
    let hit0 = +(x00 <= y01) & +(y00 <= x01) & +(x00 <= limit) & +(y00 <= limit) & +(x01 >= 0) & +(y01 >= 0)
    let hit1 = +(x10 <= y11) & +(y10 <= x11) & +(x10 <= limit) & +(y10 <= limit) & +(x11 >= 0) & +(y11 >= 0)
    if (masked) {
      hit0 &= +((i32[(base + BITS) | 0] & mask) !== 0)
      hit1 &= +((i32[(base + BITS + 1) | 0] & mask) !== 0)
    }
    let leaf = 0
    node = -1
    if ((hit0 | hit1) !== 0) {
      if ((hit0 & hit1) === 0) {
        const link = i32[(base + LINK + hit1) | 0]
        if (link >= 0) node = link
        else leaf = link
      } else {
        const enter0 = x00 > y00 ? x00 : y00
        const enter1 = x10 > y10 ? x10 : y10
        const first = +(enter1 < enter0)
        node = i32[(base + LINK + first) | 0]
        stack[height] = i32[(base + LINK + 1 - first) | 0]
        enters[height++] = first === 1 ? enter0 : enter1
        if (node < 0) {
          leaf = node
          node = -1
        }
      }
    }
    for (;;) {
      if (leaf !== 0) {
        if (modes.tryPiece(scratch, -2 - leaf, check)) {
          if (any) return true
          limit = best[FRACTION]
        }
        leaf = 0
      }
      if (node >= 0) break
      if (height === 0) return false
      height--
      if (enters[height] > limit) continue
      const link = stack[height]
      if (link >= 0) node = link
      else leaf = link
    }
  }
}
