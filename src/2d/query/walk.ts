/**
 * The walks through the trees. Boxes are met by slabs (Williams et al., 2005).
 */
import { SENSOR } from '../../core/filter.ts'
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
  for (let i = 0; i < space.planes.length; i++) {
    const piece = space.planes.data[i]
    if (scratch.asking.accepts(space.geometry.owner.data[piece])) tryPiece(space, scratch, piece)
  }
  if (any && scratch.bestPiece >= 0) return true
  if (rayTree(space, space.trees[STATICS], scratch, any)) return true
  if (rayTree(space, space.trees[MOVERS], scratch, any)) return true
  if (scratch.asking.sensors) rayTree(space, space.trees[RESTING_SENSORS], scratch, any)
  return scratch.bestPiece >= 0
}

/**
 * One tree, the near child first; true when the walk is over. A child is met when every entry comes before every exit:
 * written as one condition, most misses are known after a comparison or two.
 */
function rayTree<K extends Kinds>(space: Space2, tree: Tree, scratch: Scratch<K>, any: boolean): boolean {
  if (tree.count === 0) return false
  const { f32, i32 } = tree
  const { line, best } = scratch
  const mask = scratch.asking.mask
  const stack = scratch.walkStack(tree.nodes)
  const ox = line[0]
  const oy = line[1]
  const ix = reciprocal(line[2])
  const iy = reciprocal(line[3])
  // Where the bound of the near side stands among a child's four numbers.
  const nearX = ix < 0 ? 2 : 0
  const farX = 2 - nearX
  const nearY = iy < 0 ? 3 : 1
  const farY = 4 - nearY
  let limit = best[FRACTION] < 1 ? best[FRACTION] : 1
  let height = 0
  let node = 0
  for (;;) {
    const base = (node * NODE) | 0
    let enter0 = BEYOND
    let enter1 = BEYOND
    if ((i32[base + BITS] & mask) !== 0) {
      const x0 = (f32[base + nearX] - ox) * ix
      const y1 = (f32[base + farY] - oy) * iy
      const y0 = (f32[base + nearY] - oy) * iy
      const x1 = (f32[base + farX] - ox) * ix
      if (x0 <= y1 && y0 <= x1 && x0 <= limit && y0 <= limit && x1 >= 0 && y1 >= 0) enter0 = x0 > y0 ? x0 : y0
    }
    if ((i32[base + BITS + 1] & mask) !== 0) {
      const x0 = (f32[base + 4 + nearX] - ox) * ix
      const y1 = (f32[base + 4 + farY] - oy) * iy
      const y0 = (f32[base + 4 + nearY] - oy) * iy
      const x1 = (f32[base + 4 + farX] - ox) * ix
      if (x0 <= y1 && y0 <= x1 && x0 <= limit && y0 <= limit && x1 >= 0 && y1 >= 0) enter1 = x0 > y0 ? x0 : y0
    }
    const first = enter1 < enter0 ? 1 : 0
    node = -1
    if ((first === 1 ? enter1 : enter0) <= limit) {
      const near = i32[base + LINK + first]
      if (near >= 0) node = near
      else if (tryPiece(space, scratch, -2 - near)) {
        if (any) return true
        limit = best[FRACTION]
      }
      if ((first === 1 ? enter0 : enter1) <= limit) {
        const far = i32[base + LINK + 1 - first]
        if (far < 0) {
          if (tryPiece(space, scratch, -2 - far)) {
            if (any) return true
            limit = best[FRACTION]
          }
        } else if (node >= 0) stack[height++] = far
        else node = far
      }
    }
    if (node >= 0) continue
    if (height === 0) return false
    node = stack[--height]
  }
}

/** More than any fraction. */
const BEYOND = 2.5
/** Stands for an infinite reciprocal: times a distance of 0 it is 0 and not a number that is none. */
const STEEP = 1e300

function reciprocal(motion: number): number {
  const value = 1 / motion
  return motion === 0 || value > STEEP ? STEEP : value < -STEEP ? -STEEP : value
}

/** Tests one piece; true when it is the new best. */
function tryPiece<K extends Kinds>(space: Space2, scratch: Scratch<K>, piece: number): boolean {
  const { geometry } = space
  const { asking, record, best } = scratch
  const c = geometry.owner.data[piece]
  // The walk has seen to the mask by then.
  if (asking.plain ? asking.noSensors && (scratch.flags.data[c] & SENSOR) !== 0 : !asking.accepts(c)) return false
  record[FRACTION] = best[FRACTION] < 1 ? best[FRACTION] : 1
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
    scratch.gap[FRACTION] = 1
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
  const ix = reciprocal(line[2])
  const iy = reciprocal(line[3])
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
      const limit = best[0] < 1 ? best[0] : 1
      const x0 = (f32[at + nearX] + growX - ox) * ix
      const y1 = (f32[at + 4 - nearY] - growY - oy) * iy
      const y0 = (f32[at + nearY] + growY - oy) * iy
      const x1 = (f32[at + 2 - nearX] - growX - ox) * ix
      if (!(x0 <= y1 && y0 <= x1 && x0 <= limit && y0 <= limit && x1 >= 0 && y1 >= 0)) continue
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
