/**
 * A copy of a tree with four boxes in a node, in the memory of a WebAssembly module that goes through it with SIMD. The walk finds
 * leaves, rather too many and in 32-bit floats; each is then tested by the bounds that the tree itself has, in double precision, so
 * what a ray is tried against is what it is tried against without.
 */
import { reciprocal } from '../../core/tree/walk.ts'
import type * as layout from '../tree/layout.ts'
import type { Tree } from '../tree/tree.ts'
import { BYTES } from './bytes.ts'

const NODE: typeof layout.NODE = 16
const LINK: typeof layout.LINK = 12
const BITS: typeof layout.BITS = 14

/** What is used of WebAssembly. A dimension knows neither a browser nor Node. */
interface Kernel {
  begin(x: number, y: number, z: number, px: number, py: number, pz: number, slack: number, mask: number): void
  next(limit: number): number
  readonly memory: { readonly buffer: ArrayBuffer; grow(pages: number): number }
}
interface Engine {
  readonly Module: new (bytes: Uint8Array) => object
  readonly Instance: new (module: object) => { readonly exports: unknown }
}

/** Where the nodes begin, and the pages of memory. */
const NODES = 65536
const PAGE = 65536
/** Words and bytes of a node; where in it the links and the bits of its four boxes stand. */
const WIDE = 32
const WIDE_BYTES = 128
const WIDE_LINK = 24
const WIDE_BITS = 28
/** Links that can wait on the stack. */
const ROOM = 7000
/** Nodes of a tree above which no copy is made: a quarter of a gigabyte. */
const MANY = 4_000_000

/** A copy pays when as many rays have been asked since the last change as the tree has nodes, over this. */
const PAYS = 8
/** A tree as small as that is walked as fast without. */
const SMALL = 16

/** Part of the coordinates by which the 32-bit walk takes boxes as wider: more than it rounds by. */
const COARSE = 1e-6
/** More than nothing, where all coordinates are 0. */
const LEAST = 1e-20
/** One over a motion, at most: a ray that leads less far along an axis stays within the slack there. */
const STEEP = 1e30

let compiled: object | null | undefined

/** The module, or null where the engine has no SIMD, or a page forbids to compile. Compiled once. */
function moduleOf(): object | null {
  if (compiled !== undefined) return compiled
  compiled = null
  const engine = (globalThis as { WebAssembly?: Engine }).WebAssembly
  if (engine === undefined) return null
  const bytes = new Uint8Array(BYTES.length / 2)
  for (let i = 0; i < bytes.length; i++) bytes[i] = Number.parseInt(BYTES.slice(2 * i, 2 * i + 2), 16)
  try {
    compiled = new engine.Module(bytes)
  } catch {
    // It goes on without.
  }
  return compiled
}

/** Whether this engine can. */
export function hasSimd(): boolean {
  return moduleOf() !== null
}

const limited = (per: number): number => (per > STEEP ? STEEP : per < -STEEP ? -STEEP : per)

export class WideTree {
  readonly tree: Tree
  private kernel: Kernel | null = null
  /** The changes of the tree when it was copied, and rays since it has had others. */
  private copied = -1
  private seen = -1
  private rays = 0
  /** Whether the tree is too deep or too large. */
  private refused = false

  constructor(tree: Tree) {
    this.tree = tree
  }

  /** Whether the copy is that of the tree as it is; makes it where that pays by now. Asked once a ray. */
  ready(): boolean {
    const { tree } = this
    const { edits } = tree
    if (edits === this.copied) return !this.refused
    if (edits !== this.seen) {
      this.seen = edits
      this.rays = 0
    }
    this.rays++
    if (tree.count < SMALL || this.rays * PAYS < tree.nodes) return false
    this.copied = edits
    this.refused = !this.copy()
    return !this.refused
  }

  /** @param line start and motion */
  begin(line: Float64Array, mask: number): void {
    let size = 0
    for (let i = 0; i < 6; i++) size += Math.abs(line[i])
    this.kernel!.begin(
      line[0],
      line[1],
      line[2],
      limited(reciprocal(line[3])),
      limited(reciprocal(line[4])),
      limited(reciprocal(line[5])),
      COARSE * size + LEAST,
      mask,
    )
  }

  /** A slot of the tree with a leaf that may be met before a part of the motion, nearer ones earlier; below 0 when there is none. */
  next(limit: number): number {
    return ~this.kernel!.next(limit * (1 + COARSE) + LEAST)
  }

  /** Copies the tree, two levels of it into one. False where it is too large or too deep. */
  private copy(): boolean {
    const { tree } = this
    if (tree.nodes > MANY) return false
    const memory = this.reserve((5 * tree.nodes) >> 3)
    if (memory === null) return false
    let f32 = new Float32Array(memory.buffer, NODES)
    let i32 = new Int32Array(memory.buffer, NODES)
    // Nodes of the tree that become wide ones, by their numbers; how deep each stands.
    const from = new Int32Array(tree.nodes + 1)
    const levels = new Int32Array(tree.nodes + 1)
    const slots = new Int32Array(4)
    let count = 1
    for (let wide = 0; wide < count; wide++) {
      const used = this.children(from[wide], slots)
      const base = WIDE * wide
      if (base + WIDE > f32.length) {
        if (this.reserve(wide + (wide >> 2)) === null) return false
        f32 = new Float32Array(memory.buffer, NODES)
        i32 = new Int32Array(memory.buffer, NODES)
      }
      for (let k = 0; k < 4; k++) {
        const slot = slots[k]
        const at = (slot >> 1) * NODE
        for (let i = 0; i < 3; i++) {
          f32[base + 4 * i + k] = k < used ? tree.f32[at + 6 * (slot & 1) + i] : Infinity
          f32[base + 4 * i + 12 + k] = k < used ? tree.f32[at + 6 * (slot & 1) + 3 + i] : -Infinity
        }
        i32[base + WIDE_BITS + k] = k < used ? tree.i32[at + BITS + (slot & 1)] : 0
        if (k >= used) continue
        const link = tree.i32[at + LINK + (slot & 1)]
        i32[base + WIDE_LINK + k] = link < 0 ? ~slot : count
        if (link < 0) continue
        levels[count] = levels[wide] + 1
        if (3 * levels[count] + 4 > ROOM) return false
        from[count++] = link
      }
    }
    return true
  }

  /** The two to four slots that stand for a node: of its children the larger are opened. Returns how many. */
  private children(node: number, slots: Int32Array): number {
    const { f32, i32 } = this.tree
    slots[0] = 2 * node
    slots[1] = 2 * node + 1
    let count = 2
    while (count < 4) {
      let best = -1
      let most = -1
      for (let k = 0; k < count; k++) {
        const at = (slots[k] >> 1) * NODE
        if (i32[at + LINK + (slots[k] & 1)] < 0) continue
        const box = at + 6 * (slots[k] & 1)
        const x = f32[box + 3] - f32[box]
        const y = f32[box + 4] - f32[box + 1]
        const z = f32[box + 5] - f32[box + 2]
        const area = x * y + y * z + z * x
        if (area <= most) continue
        best = k
        most = area
      }
      if (best < 0) break
      const link = i32[(slots[best] >> 1) * NODE + LINK + (slots[best] & 1)]
      slots[best] = 2 * link
      slots[count++] = 2 * link + 1
    }
    return count
  }

  /** The memory, with room for so many nodes; null where there is none. */
  private reserve(nodes: number): Kernel['memory'] | null {
    if (this.kernel === null) {
      const { Instance } = (globalThis as unknown as { WebAssembly: Engine }).WebAssembly
      this.kernel = new Instance(moduleOf()!).exports as Kernel
    }
    const { memory } = this.kernel
    const missing = NODES + WIDE_BYTES * nodes - memory.buffer.byteLength
    try {
      if (missing > 0) memory.grow(Math.ceil(missing / PAGE))
    } catch (error) {
      if (error instanceof RangeError) return null
      throw error
    }
    return memory
  }
}
