/** The nodes of a tree to be looked at: for pictures and measurements. Cold, and apart, so that nobody else carries it. */
import { type BoundsTree, EMPTY } from './boundsTree.ts'

/** The bounds of every node and leaf, the least coordinates first, and how deep it lies: 1 for what hangs on the root. */
export function* boxesOf(tree: BoundsTree): Generator<{ readonly box: readonly number[]; readonly depth: number }> {
  const { f32, i32, stride, link: links, boxSize } = tree
  const open: [number, number][] = [[0, 1]]
  for (let top = open.pop(); top !== undefined; top = open.pop()) {
    const [node, depth] = top
    for (let side = 0; side < 2; side++) {
      const link = i32[node * stride + links + side]
      if (link === EMPTY) continue
      const from = node * stride + side * boxSize
      yield { box: [...f32.subarray(from, from + boxSize)], depth }
      if (link >= 0) open.push([link, depth + 1])
    }
  }
}

/** The depth of the deepest leaf. */
export function depthOf(tree: BoundsTree): number {
  let deepest = 0
  for (const { depth } of boxesOf(tree)) if (depth > deepest) deepest = depth
  return deepest
}
