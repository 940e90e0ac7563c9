/**
 * The walks through the trees. Boxes are met by slabs (Williams et al., 2005).
 */

import { nearestSeam } from '../../core/query/seamHits.ts'
import type { Kinds } from '../../core/state/handle.ts'
import { MOVERS, RESTING_SENSORS, STATICS } from '../../core/step/broadPhase.ts'
import type * as bounds from '../../core/tree/boundsTree.ts'
import { reciprocal } from '../../core/tree/walk.ts'
import type { Kernel3 } from '../kernel.ts'
import { rayAgainst } from '../narrow/ray.ts'
import type * as narrow from '../narrow/records.ts'
import { SURFACE } from '../shapes/layout.ts'
import type * as words from '../tree/layout.ts'
import type { Tree } from '../tree/tree.ts'
import type { Scratch } from './scratch.ts'

const NODE: typeof words.NODE = 16
const LINK: typeof words.LINK = 12
const BITS: typeof words.BITS = 14
const EMPTY: typeof bounds.EMPTY = -1
const MISS: typeof narrow.MISS = 0
const HIT: typeof narrow.HIT = 1
const INSIDE: typeof narrow.INSIDE = 2
const FRACTION: typeof narrow.FRACTION = 0
const RAY_SIZE: typeof narrow.RAY_SIZE = 9

/** Part of the coordinates by which bounds are taken as wider: a touch must not be lost to rounding. */
const SLACK = 2e-15

/**
 * The nearest hit of the ray in `scratch.line`, into `best`, `bestPiece` and `bestInside`.
 * @param any content with any hit
 * @returns whether there is one
 */
export function nearestOnRay<K extends Kinds>(kernel: Kernel3, scratch: Scratch<K>, any: boolean): boolean {
  scratch.grazed = 0
  if (walkRay(kernel, scratch, any) && any) return true
  if (scratch.grazed > 1) nearestSeam(kernel, scratch, scratch.line)
  return scratch.bestPiece >= 0
}

/** The same without a look at what it only grazes. */
function walkRay<K extends Kinds>(kernel: Kernel3, scratch: Scratch<K>, any: boolean): boolean {
  const { planes, trees } = kernel
  const { compiled } = scratch
  scratch.bestPiece = -1
  scratch.best[FRACTION] = 1
  for (let i = 0; i < planes.length; i++) tryPiece(kernel, scratch, planes.data[i], true)
  if (any && scratch.bestPiece >= 0) return true
  const statics = trees[STATICS]
  if (statics.count > 0 && rayTree(kernel, statics, scratch, any, !compiled.plain)) return true
  const movers = trees[MOVERS]
  if (movers.count > 0 && rayTree(kernel, movers, scratch, any, true)) return true
  const sensors = trees[RESTING_SENSORS]
  if (compiled.sensors && sensors.count > 0) rayTree(kernel, sensors, scratch, any, true)
  return scratch.bestPiece >= 0
}

/**
 * One tree, the near child first; true when the walk is over. A child is met when every entry comes before every exit.
 * Which of the two are met cannot be foretold, so the comparisons are put together as numbers, without a branch. A far
 * child waits on the stack with its entry, for by its turn the ray may have become shorter.
 * @param check whether a piece that is met must be asked about: not where nothing but layers are asked, among what is
 *   no sensor
 */
function rayTree<K extends Kinds>(
  kernel: Kernel3,
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
    return (i32[BITS + side] & mask) !== 0 && tryPiece(kernel, scratch, -2 - i32[LINK + side], check) && any
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
      if (tryPiece(kernel, scratch, -2 - link, check)) {
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
    // Of two the farther waits below the nearer. Which are met cannot be foretold: all is written, and the height moves by 0 to 2.
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

/** Tests one piece; true when it is the new best. */
function tryPiece<K extends Kinds>(kernel: Kernel3, scratch: Scratch<K>, piece: number, check: boolean): boolean {
  const { geometry } = kernel
  const { compiled, record, best } = scratch
  const c = geometry.ownerOf(piece)
  if (check && !compiled.accepts(c)) return false
  record[FRACTION] = best[FRACTION]
  const kind = rayAgainst(geometry.world, geometry.offsetOf(piece), geometry.surfaces[piece], scratch.line, record)
  if (kind <= MISS) {
    // NEAR is -1.
    scratch.grazed -= kind
    return false
  }
  if (compiled.skipInside && startsInside(kernel, scratch, c, kind, piece)) return false
  const fraction = record[FRACTION]
  if (fraction > best[FRACTION]) return false
  if (fraction === best[FRACTION] && scratch.bestPiece >= 0) {
    const kept = geometry.ownerOf(scratch.bestPiece)
    if (kept === c ? scratch.bestInside || kind === HIT : scratch.serial.data[kept] < scratch.serial.data[c])
      return false
  }
  for (let i = 0; i < RAY_SIZE; i++) best[i] = record[i]
  scratch.bestPiece = piece
  scratch.bestInside = kind === INSIDE
  return true
}

/** Whether a ray starts in any piece of a collider, one piece of which it was tested against. Keeps the record. */
export function startsInside<K extends Kinds>(
  kernel: Kernel3,
  scratch: Scratch<K>,
  c: number,
  kind: number,
  tested: number,
): boolean {
  if (kind === INSIDE) return true
  const { geometry } = kernel
  if (geometry.pieceCount.data[c] === 1) return false
  const { first, world } = geometry
  for (let piece = first.data[c]; piece >= 0; piece = geometry.after(piece)) {
    if (piece === tested || geometry.kindOf(piece) === SURFACE) continue
    const { inside } = scratch
    inside[FRACTION] = 1
    const other = rayAgainst(world, geometry.offsetOf(piece), null, scratch.line, inside)
    if (other === INSIDE) return true
  }
  return false
}
