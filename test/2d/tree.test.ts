import assert from 'node:assert/strict'
import { test } from 'node:test'
import { Tree } from '../../src/2d/tree/tree.ts'
import { IntList } from '../../src/core/table.ts'
import { Random } from '../helpers/random.ts'

interface Leaf {
  box: [number, number, number, number]
  bits: number
}

/** Random inserts, moves, removals and changes of bits; after some of them a search is compared with a plain loop. */
function exercise(seed: number, operations: number, most: number): Tree {
  const random = new Random(seed)
  const tree = new Tree()
  const plain = new Map<number, Leaf>()
  const found = new IntList()
  const stack = new IntList()
  const spread = random.pick([1, 30, 1e6])
  const box = (size: number): Leaf['box'] => {
    const x = random.between(-spread, spread)
    const y = random.between(-spread, spread)
    return [x, y, x + random.between(0, size), y + random.between(0, size)]
  }
  const someBits = (): number => (random.chance(0.05) ? 0 : 1 << random.below(32))
  for (let i = 0; i < operations; i++) {
    const proxy = random.below(most)
    const leaf = plain.get(proxy)
    if (leaf === undefined) {
      const fresh = { box: box(2), bits: someBits() }
      tree.insert(proxy, Float64Array.from(fresh.box), 0, fresh.bits)
      plain.set(proxy, fresh)
    } else if (random.chance(0.25)) {
      tree.remove(proxy)
      plain.delete(proxy)
    } else if (random.chance(0.2)) {
      leaf.bits = someBits()
      tree.setBits(proxy, leaf.bits)
    } else {
      const [x, y, right, top] = leaf.box
      const step = random.chance(0.2) ? spread : 0.3
      const dx = random.between(-step, step)
      const dy = random.between(-step, step)
      leaf.box = [x + dx, y + dy, right + dx, top + dy]
      tree.move(proxy, Float64Array.from(leaf.box), 0)
    }
    assert.equal(tree.count, plain.size)
    if (i % 16 !== 0) continue
    const asked = box(random.pick([0, 3, spread]))
    const mask = random.chance(0.5) ? -1 : 1 << random.below(32)
    found.clear()
    tree.search(Float64Array.from(asked), 0, mask, found, stack)
    assert.equal(stack.length, 0)
    const got = new Set(found.data.subarray(0, found.length))
    assert.equal(got.size, found.length, 'a proxy was found twice')
    for (const [each, { box: b, bits }] of plain) {
      const meets = b[0] <= asked[2] && b[2] >= asked[0] && b[1] <= asked[3] && b[3] >= asked[1] && (bits & mask) !== 0
      if (meets) assert.ok(got.has(each), `proxy ${each} was missed`)
    }
    for (const each of got) {
      const { box: b, bits } = plain.get(each)!
      assert.ok((bits & mask) !== 0)
      // Bounds are rounded outward, by less than a part in a million of where they lie.
      const slack = 1e-6 * (Math.abs(b[0]) + Math.abs(b[1]) + Math.abs(b[2]) + Math.abs(b[3]))
      assert.ok(
        b[0] <= asked[2] + slack && b[2] >= asked[0] - slack && b[1] <= asked[3] + slack && b[3] >= asked[1] - slack,
      )
    }
  }
  return tree
}

test('a search finds what a plain loop finds, through inserts, moves, removals and changed bits', () => {
  for (let seed = 1; seed <= 30; seed++) exercise(seed, 600, 60)
})

test('the tree stays shallow under many operations', () => {
  const tree = exercise(99, process.env['KEEN_LONG'] === '1' ? 1_000_000 : 20_000, 1000)
  const { depth } = tree.quality()
  assert.ok(depth < 40, `depth ${depth} for ${tree.count} proxies`)
})

test('emptied, the tree can be filled again', () => {
  const tree = new Tree()
  for (let round = 0; round < 3; round++) {
    for (let i = 0; i < 50; i++) tree.insert(i, Float64Array.of(i, 0, i + 0.5, 1), 0, 1)
    for (let i = 0; i < 50; i++) tree.remove((i * 7) % 50)
    assert.equal(tree.count, 0)
  }
})
