/** The walk of a ray through a tree. Boxes are met by slabs (Williams et al., 2005). */
import type { Kinds } from '../../core/state/handle.ts'
import type * as bounds from '../../core/tree/boundsTree.ts'
import { reciprocal } from '../../core/tree/walk.ts'
import type * as narrow from '../narrow/records.ts'
import type * as layout from '../tree/layout.ts'
import type { Tree } from '../tree/tree.ts'
import type { Scratch } from './scratch.ts'

const NODE: typeof layout.NODE = 16
const LINK: typeof layout.LINK = 12
const BITS: typeof layout.BITS = 14
const EMPTY: typeof bounds.EMPTY = -1
const FRACTION: typeof narrow.FRACTION = 0

/** Part of the coordinates by which bounds are taken as wider: a touch must not be lost to rounding. */
const SLACK = 2e-15

/** Tests a piece that the walk reaches: true when it is the new best. */
export interface Modes<K extends Kinds> {
  tryPiece(scratch: Scratch<K>, piece: number, check: boolean): boolean
}

/** Another way to walk, which tries the same pieces, in another order. */
export interface RayWalker {
  /** Parameters as {@link walkTree}. */
  walk<K extends Kinds>(modes: Modes<K>, tree: Tree, scratch: Scratch<K>, any: boolean, check: boolean): boolean
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
  if (tree.count === 1) {
    // As where a level is one mesh: its own tree begins with the same bounds.
    const side = i32[LINK] < 0 && i32[LINK] !== EMPTY ? 0 : 1
    return (i32[BITS + side] & mask) !== 0 && modes.tryPiece(scratch, -2 - i32[LINK + side], check) && any
  }
  const stack = scratch.walkStack(tree.nodes + 2)
  const enters = scratch.walkEnters
  const ox = line[0]
  const oy = line[1]
  const oz = line[2]
  const ix = reciprocal(line[3])
  const iy = reciprocal(line[4])
  const iz = reciprocal(line[5])
  // Where the bound of the near side stands among a child's six numbers.
  const nearX = ix < 0 ? 3 : 0
  const farX = 3 - nearX
  const nearY = iy < 0 ? 4 : 1
  const farY = 5 - nearY
  const nearZ = iz < 0 ? 5 : 2
  const farZ = 7 - nearZ
  // As much wider as the rounding of what a test finds: of two hits at one place neither must hide the other.
  const slack =
    SLACK * (Math.abs(ox) + Math.abs(oy) + Math.abs(oz) + Math.abs(line[3]) + Math.abs(line[4]) + Math.abs(line[5]))
  const inX = ix < 0 ? ox - slack : ox + slack
  const outX = ix < 0 ? ox + slack : ox - slack
  const inY = iy < 0 ? oy - slack : oy + slack
  const outY = iy < 0 ? oy + slack : oy - slack
  const inZ = iz < 0 ? oz - slack : oz + slack
  const outZ = iz < 0 ? oz + slack : oz - slack
  const masked = mask !== -1 || tree.blank > 0
  let limit = best[FRACTION]
  stack[0] = 0
  enters[0] = 0
  let height = 1
  while (height > 0) {
    height = (height - 1) | 0
    if (enters[height] > limit) continue
    const link = stack[height]
    if (link < 0) {
      if (modes.tryPiece(scratch, -2 - link, check)) {
        if (any) return true
        limit = best[FRACTION]
      }
      continue
    }
    const base = (link * NODE) | 0
    const x00 = (f32[(base + nearX) | 0] - inX) * ix
    const x01 = (f32[(base + farX) | 0] - outX) * ix
    const y00 = (f32[(base + nearY) | 0] - inY) * iy
    const y01 = (f32[(base + farY) | 0] - outY) * iy
    const z00 = (f32[(base + nearZ) | 0] - inZ) * iz
    const z01 = (f32[(base + farZ) | 0] - outZ) * iz
    const x10 = (f32[(base + nearX + 6) | 0] - inX) * ix
    const x11 = (f32[(base + farX + 6) | 0] - outX) * ix
    const y10 = (f32[(base + nearY + 6) | 0] - inY) * iy
    const y11 = (f32[(base + farY + 6) | 0] - outY) * iy
    const z10 = (f32[(base + nearZ + 6) | 0] - inZ) * iz
    const z11 = (f32[(base + farZ + 6) | 0] - outZ) * iz
    const enter0 = x00 > y00 ? (x00 > z00 ? x00 : z00) : y00 > z00 ? y00 : z00
    const enter1 = x10 > y10 ? (x10 > z10 ? x10 : z10) : y10 > z10 ? y10 : z10
    let hit0 =
      +(x00 <= y01) &
      +(x00 <= z01) &
      +(y00 <= x01) &
      +(y00 <= z01) &
      +(z00 <= x01) &
      +(z00 <= y01) &
      +(x00 <= limit) &
      +(y00 <= limit) &
      +(z00 <= limit) &
      +(x01 >= 0) &
      +(y01 >= 0) &
      +(z01 >= 0)
    let hit1 =
      +(x10 <= y11) &
      +(x10 <= z11) &
      +(y10 <= x11) &
      +(y10 <= z11) &
      +(z10 <= x11) &
      +(z10 <= y11) &
      +(x10 <= limit) &
      +(y10 <= limit) &
      +(z10 <= limit) &
      +(x11 >= 0) &
      +(y11 >= 0) &
      +(z11 >= 0)
    if (masked) {
      hit0 &= +((i32[(base + BITS) | 0] & mask) !== 0)
      hit1 &= +((i32[(base + BITS + 1) | 0] & mask) !== 0)
    }
    // The farther child goes below the nearer. Which are hit is unpredictable, so both are written and the height grows by 0 to 2.
    const both = hit0 & hit1
    const first = (hit1 & (1 - hit0)) | (both & +(enter1 < enter0))
    stack[height] = i32[(base + LINK + 1 - first) | 0]
    enters[height] = first === 1 ? enter0 : enter1
    height = (height + both) | 0
    stack[height] = i32[(base + LINK + first) | 0]
    enters[height] = first === 1 ? enter1 : enter0
    height = (height + (hit0 | hit1)) | 0
  }
  return false
}

/**
 * Whether a ray meets the bounds of one slot of a tree before a part of its motion: the test of {@link walkTree}, to the bit. Bounds
 * above hold those below, so it comes to the leaves that pass this, and to no others.
 */
export function meetsSlot(f32: Float32Array, at: number, line: Float64Array, limit: Float64Array): boolean {
  let slack = 0
  for (let i = 0; i < 6; i++) slack += Math.abs(line[i])
  slack *= SLACK
  let enter = -Infinity
  let leave = Infinity
  for (let axis = 0; axis < 3; axis++) {
    const per = reciprocal(line[3 + axis])
    const near = f32[at + axis + (per < 0 ? 3 : 0)]
    const far = f32[at + axis + (per < 0 ? 0 : 3)]
    const first = (near - (per < 0 ? line[axis] - slack : line[axis] + slack)) * per
    const last = (far - (per < 0 ? line[axis] + slack : line[axis] - slack)) * per
    if (first > enter) enter = first
    if (last < leave) leave = last
  }
  return enter <= leave && enter <= limit[FRACTION] && leave >= 0
}
