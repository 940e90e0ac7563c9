/**
 * Rays in a 3D world by WebAssembly with SIMD: about twice as fast among many bodies, with the same answers to the bit. It is an import of
 * its own, so that its 3 kB are bundled only where they are used.
 * @module keen-sentry/3d/simd
 */
import type { Kinds } from '../../core/state/handle.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import type { Scratch } from '../query/scratch.ts'
import { type Modes, meetsSlot, type RayWalker, walkTree } from '../query/walk.ts'
import type * as layout from '../tree/layout.ts'
import type { Tree } from '../tree/tree.ts'
import { World3 } from '../world.ts'
import { hasSimd, WideTree } from './wideTree.ts'

const NODE: typeof layout.NODE = 16
const LINK: typeof layout.LINK = 12
const BITS: typeof layout.BITS = 14

/**
 * Makes `raycast.first`, `any` and `batch` of a world find bodies by SIMD, four at a time. The answers stay the same, to the bit: SIMD only
 * finds the candidates, which are then tested as before. It pays off when many rays are cast among many bodies that mostly stand still:
 * after bodies have moved, the tree is copied again once enough rays have been cast. Cost: a copy of the tree, about 85 bytes a body.
 * `all`, `each`, other queries, the triangles of a mesh and `world.past` are not affected.
 * @param on false switches it off
 * @returns whether it is on; false, and nothing changes, where the engine has no SIMD or the page forbids compiling WebAssembly
 * @throws KeenError `bad-argument`
 * @example const world = createWorld({ layers }); simdRays(world)
 */
export function simdRays<K extends Kinds>(world: World3<K>, on = true): boolean {
  if (!(world instanceof World3)) {
    throw new KeenError('bad-argument', `simdRays takes a world of 3D first, got ${show(world)}`)
  }
  if (typeof on !== 'boolean') {
    throw new KeenError('bad-argument', `simdRays takes true or false after the world, got ${show(on)}`)
  }
  const { raycast } = world
  const able = on && hasSimd()
  if (!able) raycast.walker = null
  else if (raycast.walker === null) raycast.walker = new WideWalker()
  return able
}

class WideWalker implements RayWalker {
  private readonly wides: WideTree[] = []
  /** A `where` that casts another ray takes the plain walk. */
  private busy = false

  walk<K extends Kinds>(modes: Modes<K>, tree: Tree, scratch: Scratch<K>, any: boolean, check: boolean): boolean {
    const wide = this.of(tree)
    if (this.busy || !wide.ready()) return walkTree(modes, tree, scratch, any, check)
    this.busy = true
    try {
      return walkWide(modes, tree, wide, scratch, any, check)
    } finally {
      this.busy = false
    }
  }

  /** A world has three trees. */
  private of(tree: Tree): WideTree {
    const { wides } = this
    for (let i = 0; i < wides.length; i++) if (wides[i].tree === tree) return wides[i]
    const wide = new WideTree(tree)
    wides.push(wide)
    return wide
  }
}

function walkWide<K extends Kinds>(
  modes: Modes<K>,
  tree: Tree,
  wide: WideTree,
  scratch: Scratch<K>,
  any: boolean,
  check: boolean,
): boolean {
  const { line, best, compiled } = scratch
  const { f32, i32 } = tree
  const { mask } = compiled
  const masked = mask !== -1 || tree.blank > 0
  wide.begin(line, mask)
  for (let slot = wide.next(best[0]); slot >= 0; slot = wide.next(best[0])) {
    const node = (slot >> 1) * NODE
    const side = slot & 1
    if (masked && (i32[node + BITS + side] & mask) === 0) continue
    if (!meetsSlot(f32, node + 6 * side, line, best)) continue
    if (modes.tryPiece(scratch, -2 - i32[node + LINK + side], check) && any) return true
  }
  return false
}
