/**
 * The walks through the trees. Boxes are met by slabs (Williams et al., 2005).
 */

import { nearestSeam } from '../../core/query/seamHits.ts'
import type { Kinds } from '../../core/state/handle.ts'
import { MOVERS, RESTING_SENSORS, STATICS } from '../../core/step/broadPhase.ts'
import { reciprocal } from '../../core/tree/walk.ts'
import type { Kernel2 } from '../kernel.ts'
import { rayAgainst } from '../narrow/ray.ts'
import type * as narrow from '../narrow/records.ts'
import { CONVEX } from '../shapes/layout.ts'
import type * as words from '../tree/layout.ts'
import type { Tree } from '../tree/tree.ts'
import type { Scratch } from './scratch.ts'

const NODE: typeof words.NODE = 12
const LINK: typeof words.LINK = 8
const BITS: typeof words.BITS = 10
const MISS: typeof narrow.MISS = 0
const HIT: typeof narrow.HIT = 1
const INSIDE: typeof narrow.INSIDE = 2
const FRACTION: typeof narrow.FRACTION = 0

/**
 * The nearest hit of the ray in `scratch.line`, into `best`, `bestPiece` and `bestInside`.
 * @param any content with any hit
 * @returns whether there is one
 */
export function nearestOnRay<K extends Kinds>(kernel: Kernel2, scratch: Scratch<K>, any: boolean): boolean {
  scratch.grazed = 0
  if (walkRay(kernel, scratch, any) && any) return true
  if (scratch.grazed > 1) nearestSeam(kernel, scratch, scratch.line)
  return scratch.bestPiece >= 0
}

/** The same without a look at what it only grazes. */
function walkRay<K extends Kinds>(kernel: Kernel2, scratch: Scratch<K>, any: boolean): boolean {
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
  kernel: Kernel2,
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
        if (tryPiece(kernel, scratch, -2 - leaf, check)) {
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

/** Tests one piece; true when it is the new best. */
function tryPiece<K extends Kinds>(kernel: Kernel2, scratch: Scratch<K>, piece: number, check: boolean): boolean {
  const { geometry } = kernel
  const { compiled, record, best } = scratch
  const c = geometry.ownerOf(piece)
  if (check && !compiled.accepts(c)) return false
  record[FRACTION] = best[FRACTION]
  const kind = rayAgainst(geometry.world, geometry.offsetOf(piece), scratch.line, record)
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
  best[0] = record[0]
  best[1] = record[1]
  best[2] = record[2]
  scratch.bestPiece = piece
  scratch.bestInside = kind === INSIDE
  return true
}

/** Whether a ray starts in any piece of a collider, one piece of which it was tested against. Keeps the record. */
export function startsInside<K extends Kinds>(
  kernel: Kernel2,
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
    if (piece === tested || geometry.kindOf(piece) !== CONVEX) continue
    scratch.gap[FRACTION] = 1
    const other = rayAgainst(world, geometry.offsetOf(piece), scratch.line, scratch.gap)
    if (other === INSIDE) return true
  }
  return false
}
