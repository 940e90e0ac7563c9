/**
 * The walks through the trees. Boxes are met by slabs (Williams et al., 2005), written so that an axis without motion,
 * whose reciprocal is infinite, says nothing instead of something wrong.
 */
import type { Kinds } from '../../core/handle.ts'
import { FRACTION, HIT, INSIDE, MISS, rayAgainstPiece } from '../narrow/ray.ts'
import { CONVEX } from '../shapes/shape.ts'
import { MOVERS, RESTING_SENSORS, type Space2, STATICS } from '../space.ts'
import { BITS, LINK, NODE, type Tree } from '../tree/tree.ts'
import type { Scratch } from './scratch.ts'

/** A piece that the walk came to; false ends the walk. */
export type Visit = (piece: number) => boolean

/**
 * The nearest hit of the ray in `scratch.line`, into `best`, `bestPiece` and `bestInside`.
 * @param any content with any hit
 * @returns whether there is one
 */
export function nearestOnRay<K extends Kinds>(space: Space2, scratch: Scratch<K>, any: boolean): boolean {
  scratch.bestPiece = -1
  scratch.best[FRACTION] = Infinity
  for (let i = 0; i < space.planes.length; i++) tryPiece(space, scratch, space.planes.data[i])
  if (any && scratch.bestPiece >= 0) return true
  if (rayTree(space, space.trees[STATICS], scratch, any)) return true
  if (rayTree(space, space.trees[MOVERS], scratch, any)) return true
  if (scratch.asking.sensors) rayTree(space, space.trees[RESTING_SENSORS], scratch, any)
  return scratch.bestPiece >= 0
}

/** One tree, the near child first; true when the walk is over. */
function rayTree<K extends Kinds>(space: Space2, tree: Tree, scratch: Scratch<K>, any: boolean): boolean {
  if (tree.count === 0) return false
  const { f32, i32 } = tree
  const { line, asking, stack, best } = scratch
  const mask = asking.mask
  const ox = line[0]
  const oy = line[1]
  const ix = 1 / line[2]
  const iy = 1 / line[3]
  // Where the bound of the near side stands among a child's four numbers.
  const nearX = ix < 0 ? 2 : 0
  const farX = 2 - nearX
  const nearY = iy < 0 ? 3 : 1
  const farY = 4 - nearY
  const bottom = stack.length
  let limit = best[FRACTION] < 1 ? best[FRACTION] : 1
  let node = 0
  for (;;) {
    const base = (node * NODE) | 0
    let enter0 = 2
    let enter1 = 2
    if ((i32[base + BITS] & mask) !== 0) {
      let enter = 0
      let leave = limit
      const t0 = (f32[base + nearX] - ox) * ix
      const t1 = (f32[base + farX] - ox) * ix
      const t2 = (f32[base + nearY] - oy) * iy
      const t3 = (f32[base + farY] - oy) * iy
      if (t0 > enter) enter = t0
      if (t2 > enter) enter = t2
      if (t1 < leave) leave = t1
      if (t3 < leave) leave = t3
      if (enter <= leave) enter0 = enter
    }
    if ((i32[base + BITS + 1] & mask) !== 0) {
      let enter = 0
      let leave = limit
      const t0 = (f32[base + 4 + nearX] - ox) * ix
      const t1 = (f32[base + 4 + farX] - ox) * ix
      const t2 = (f32[base + 4 + nearY] - oy) * iy
      const t3 = (f32[base + 4 + farY] - oy) * iy
      if (t0 > enter) enter = t0
      if (t2 > enter) enter = t2
      if (t1 < leave) leave = t1
      if (t3 < leave) leave = t3
      if (enter <= leave) enter1 = enter
    }
    const first = enter1 < enter0 ? 1 : 0
    const nearest = first === 1 ? enter1 : enter0
    const other = first === 1 ? enter0 : enter1
    node = -1
    if (nearest <= 1) {
      const link = i32[base + LINK + first]
      if (link >= 0) node = link
      else if (tryPiece(space, scratch, -2 - link)) {
        if (any) {
          stack.length = bottom
          return true
        }
        limit = best[FRACTION]
      }
      if (other <= limit) {
        const far = i32[base + LINK + (1 - first)]
        if (far < 0) {
          if (tryPiece(space, scratch, -2 - far)) {
            if (any) {
              stack.length = bottom
              return true
            }
            limit = best[FRACTION]
          }
        } else if (node >= 0) stack.push(far)
        else node = far
      }
    }
    if (node >= 0) continue
    if (stack.length === bottom) return false
    node = stack.pop()
  }
}

/** Tests one piece; true when it is the new best. */
function tryPiece<K extends Kinds>(space: Space2, scratch: Scratch<K>, piece: number): boolean {
  const { geometry } = space
  const { asking, record, best } = scratch
  const c = geometry.owner.data[piece]
  if (!asking.accepts(c)) return false
  const kind = rayAgainstPiece(
    geometry.world,
    geometry.offset.data[piece],
    geometry.count.data[piece],
    geometry.kind.data[piece],
    scratch.line,
    record,
  )
  if (kind === MISS) return false
  if (asking.skipInside && startsInside(space, scratch, c, kind, piece)) return false
  const fraction = record[FRACTION]
  if (fraction > best[FRACTION]) return false
  if (fraction === best[FRACTION]) {
    const kept = geometry.owner.data[scratch.bestPiece]
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
  space: Space2,
  scratch: Scratch<K>,
  c: number,
  kind: number,
  tested: number,
): boolean {
  if (kind === INSIDE) return true
  const { geometry } = space
  if (geometry.pieceCount.data[c] === 1) return false
  const { first, next, offset, count, kind: kinds, world } = geometry
  for (let piece = first.data[c]; piece >= 0; piece = next.data[piece]) {
    if (piece === tested || kinds.data[piece] !== CONVEX) continue
    const other = rayAgainstPiece(world, offset.data[piece], count.data[piece], CONVEX, scratch.line, scratch.gap)
    if (other === INSIDE) return true
  }
  return false
}

/** Every piece whose bounds are met by the box of half sizes `scratch.half` that moves along `scratch.line`. */
export function alongLine<K extends Kinds>(space: Space2, scratch: Scratch<K>, visit: Visit): void {
  for (let i = 0; i < space.planes.length; i++) if (!visit(space.planes.data[i])) return
  if (!alongTree(space.trees[STATICS], scratch, visit)) return
  if (!alongTree(space.trees[MOVERS], scratch, visit)) return
  if (scratch.asking.sensors) alongTree(space.trees[RESTING_SENSORS], scratch, visit)
}

function alongTree<K extends Kinds>(tree: Tree, scratch: Scratch<K>, visit: Visit): boolean {
  if (tree.count === 0) return true
  const { f32, i32 } = tree
  const { line, half, asking, stack, best } = scratch
  const mask = asking.mask
  const ox = line[0]
  const oy = line[1]
  const ix = 1 / line[2]
  const iy = 1 / line[3]
  const nearX = ix < 0 ? 2 : 0
  const nearY = iy < 0 ? 3 : 1
  const growX = ix < 0 ? half[0] : -half[0]
  const growY = iy < 0 ? half[1] : -half[1]
  const bottom = stack.length
  stack.push(0)
  while (stack.length > bottom) {
    const base = stack.pop() * NODE
    for (let child = 1; child >= 0; child--) {
      if ((i32[base + BITS + child] & mask) === 0) continue
      const at = base + 4 * child
      let enter = 0
      let leave = best[0] < 1 ? best[0] : 1
      const t0 = (f32[at + nearX] + growX - ox) * ix
      const t1 = (f32[at + 2 - nearX] - growX - ox) * ix
      const t2 = (f32[at + nearY] + growY - oy) * iy
      const t3 = (f32[at + 4 - nearY] - growY - oy) * iy
      if (t0 > enter) enter = t0
      if (t2 > enter) enter = t2
      if (t1 < leave) leave = t1
      if (t3 < leave) leave = t3
      if (enter > leave) continue
      const link = i32[base + LINK + child]
      if (link >= 0) stack.push(link)
      else if (!visit(-2 - link)) {
        stack.length = bottom
        return false
      }
    }
  }
  return true
}

/**
 * Every piece whose bounds are within `best[0]` of the box, nearer ones earlier. The visitor lowers `best[0]` when only
 * the nearest count.
 */
export function aroundBox<K extends Kinds>(space: Space2, scratch: Scratch<K>, box: Float64Array, visit: Visit): void {
  for (let i = 0; i < space.planes.length; i++) visit(space.planes.data[i])
  aroundTree(space.trees[STATICS], scratch, box, visit)
  aroundTree(space.trees[MOVERS], scratch, box, visit)
  if (scratch.asking.sensors) aroundTree(space.trees[RESTING_SENSORS], scratch, box, visit)
}

function aroundTree<K extends Kinds>(tree: Tree, scratch: Scratch<K>, box: Float64Array, visit: Visit): void {
  if (tree.count === 0) return
  const { f32, i32 } = tree
  const { stack, best, asking } = scratch
  const mask = asking.mask
  const bottom = stack.length
  stack.push(0)
  while (stack.length > bottom) {
    const base = stack.pop() * NODE
    const d0 = (i32[base + BITS] & mask) !== 0 ? squareApart(f32, base, box) : Infinity
    const d1 = (i32[base + BITS + 1] & mask) !== 0 ? squareApart(f32, base + 4, box) : Infinity
    const first = d1 < d0 ? 1 : 0
    // The nearer child is put on the stack last; leaves are looked at at once, the nearer first.
    for (let turn = 0; turn < 2; turn++) {
      const child = turn === 0 ? first : 1 - first
      const link = i32[base + LINK + child]
      if (link < 0 && within(child === 0 ? d0 : d1, best[0])) visit(-2 - link)
    }
    for (let turn = 0; turn < 2; turn++) {
      const child = turn === 0 ? 1 - first : first
      const link = i32[base + LINK + child]
      if (link >= 0 && within(child === 0 ? d0 : d1, best[0])) stack.push(link)
    }
  }
}

/** Whether something at this squared distance can be as near as the best; overlapping bounds always can. */
function within(square: number, best: number): boolean {
  return square === 0 || (best > 0 && square <= best * best * (1 + 1e-12))
}

function squareApart(f32: Float32Array, at: number, box: Float64Array): number {
  let x = f32[at] - box[2]
  if (box[0] - f32[at + 2] > x) x = box[0] - f32[at + 2]
  if (x < 0) x = 0
  let y = f32[at + 1] - box[3]
  if (box[1] - f32[at + 3] > y) y = box[1] - f32[at + 3]
  if (y < 0) y = 0
  return x * x + y * y
}
