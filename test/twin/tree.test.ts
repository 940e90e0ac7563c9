/** The trees of both dimensions, and the walks through them, against plain loops over the boxes. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { Tree as Tree2 } from '../../src/2d/tree/tree.ts'
import { LineWalk2 } from '../../src/2d/tree/walk.ts'
import { Tree as Tree3 } from '../../src/3d/tree/tree.ts'
import { LineWalk3 } from '../../src/3d/tree/walk.ts'
import { IntList } from '../../src/core/state/table.ts'
import { depthOf } from '../../src/core/tree/boxes.ts'
import { BoxWalk, DONE } from '../../src/core/tree/walk.ts'
import { Random } from '../helpers/random.ts'

interface Leaf {
  /** The least of each axis, then the greatest. */
  box: number[]
  bits: number
}

const DIMENSIONS = [
  { axes: 2, Tree: Tree2, LineWalk: LineWalk2 },
  { axes: 3, Tree: Tree3, LineWalk: LineWalk3 },
] as const

const numbers = (count: number, make: (axis: number) => number): number[] =>
  Array.from({ length: count }, (_, k) => make(k))

function boxOf(random: Random, axes: number, spread: number, size: number): number[] {
  // Half of the time on whole numbers, so that boxes touch and lie in one plane.
  const whole = random.chance(0.5)
  const place = (): number => {
    const value = random.between(-spread, spread)
    return whole ? Math.round(value) : value
  }
  const low = numbers(axes, place)
  return [...low, ...low.map((value) => value + (whole ? random.below(3) : random.between(0, size)))]
}

const meet = (a: readonly number[], b: readonly number[], axes: number, slack = 0): boolean =>
  numbers(axes, (k) => k).every((k) => a[k] <= b[axes + k] + slack && b[k] <= a[axes + k] + slack)

/** Random inserts, moves, removals and changes of bits; after some of them `look` compares the tree with the plain list. */
function exercise(
  { axes, Tree }: (typeof DIMENSIONS)[number],
  seed: number,
  look: (tree: Tree2 | Tree3, plain: Map<number, Leaf>, random: Random, spread: number) => void,
): void {
  const random = new Random(seed)
  const tree = new Tree()
  const plain = new Map<number, Leaf>()
  const spread = random.pick([1, 30, 1e6])
  const someBits = (): number => (random.chance(0.05) ? 0 : 1 << random.below(32))
  for (let i = 0; i < 500; i++) {
    const proxy = random.below(60)
    const leaf = plain.get(proxy)
    if (leaf === undefined) {
      const fresh = { box: boxOf(random, axes, spread, 2), bits: someBits() }
      tree.insert(proxy, Float64Array.from(fresh.box), 0, fresh.bits)
      plain.set(proxy, fresh)
    } else if (random.chance(0.2)) {
      tree.remove(proxy)
      plain.delete(proxy)
    } else if (random.chance(0.25)) {
      leaf.bits = someBits()
      tree.setBits(proxy, leaf.bits)
    } else {
      leaf.box = boxOf(random, axes, spread, 2)
      tree.move(proxy, Float64Array.from(leaf.box), 0)
    }
    assert.equal(tree.count, plain.size)
    if (i % 10 === 0) look(tree, plain, random, spread)
  }
}

/** What bounds are rounded outward by, and a little more. */
const slackOf = (spread: number): number => 2e-6 * (spread + 4)

for (const dimension of DIMENSIONS) {
  const { axes } = dimension

  test(`${axes}D: a search finds what a plain loop finds`, () => {
    const [found, stack] = [new IntList(), new IntList()]
    for (let seed = 1; seed <= 30; seed++) {
      exercise(dimension, seed, (tree, plain, random, spread) => {
        const asked = boxOf(random, axes, spread, random.pick([0, 3, spread]))
        const mask = random.chance(0.5) ? -1 : 1 << random.below(32)
        found.clear()
        tree.search(Float64Array.from(asked), 0, mask, found, stack)
        const got = new Set(found.data.subarray(0, found.length))
        assert.equal(got.size, found.length, 'a proxy was found twice')
        for (const [proxy, { box, bits }] of plain) {
          if ((bits & mask) !== 0 && meet(box, asked, axes)) assert.ok(got.has(proxy), `${proxy} was missed`)
          if (!got.has(proxy)) continue
          assert.ok((bits & mask) !== 0, 'its layers are asked for')
          assert.ok(meet(box, asked, axes, slackOf(spread)), 'it is there')
        }
      })
    }
  })

  test(`${axes}D: a walk along a line comes to every box that a moving box meets, once, and ends with the nearest`, () => {
    const walk = new dimension.LineWalk()
    for (let seed = 31; seed <= 60; seed++) {
      exercise(dimension, seed, (tree, plain, random, spread) => {
        const from = numbers(axes, () => Math.round(random.between(-spread, spread)))
        // Often along an axis, sometimes not at all.
        const along = numbers(axes, () => (random.chance(0.4) ? 0 : random.between(-2 * spread, 2 * spread)))
        const half = numbers(axes, () => (random.chance(0.4) ? 0 : random.below(4) / 2))
        const mask = random.chance(0.7) ? -1 : 1 << random.below(32)
        /** Where the moving box comes to another, or Infinity: axis by axis. */
        const entry = (box: number[], slack: number): number => {
          let [enter, exit] = [0, 1]
          for (let k = 0; k < axes; k++) {
            const low = box[k] - half[k] - slack - from[k]
            const high = box[axes + k] + half[k] + slack - from[k]
            if (along[k] === 0) {
              if (low > 0 || high < 0) return Infinity
              continue
            }
            enter = Math.max(enter, Math.min(low / along[k], high / along[k]))
            exit = Math.min(exit, Math.max(low / along[k], high / along[k]))
          }
          return enter <= exit ? enter : Infinity
        }
        for (const shrinking of [false, true]) {
          const limit = Float64Array.of(1)
          walk.begin(Float64Array.from([...from, ...along]), Float64Array.from(half), limit)
          walk.enter(tree.f32, tree.i32, mask, tree.nodes)
          const got = new Set<number>()
          let best = Infinity
          for (let link = walk.next(); link !== DONE; link = walk.next()) {
            const proxy = -2 - link
            const leaf = plain.get(proxy)
            assert.ok(leaf !== undefined && !got.has(proxy), `${proxy} is there, and comes once`)
            assert.ok((leaf.bits & mask) !== 0, 'its layers are asked for')
            assert.ok(entry(leaf.box, slackOf(spread)) < Infinity, 'it is met')
            got.add(proxy)
            best = Math.min(best, entry(leaf.box, 0))
            if (shrinking && best < limit[0]) limit[0] = best
          }
          const met = [...plain].filter(([, { box, bits }]) => (bits & mask) !== 0 && entry(box, 0) < Infinity)
          if (!shrinking) for (const [proxy] of met) assert.ok(got.has(proxy), `${proxy} was missed`)
          assert.equal(
            best,
            Math.min(Infinity, ...met.map(([, { box }]) => entry(box, 0))),
            'the nearest is among them',
          )
        }
      })
    }
  })

  test(`${axes}D: a walk around a box comes to all within reach, once, and ends with the nearest`, () => {
    const walk = new BoxWalk(dimension.axes)
    for (let seed = 61; seed <= 90; seed++) {
      exercise(dimension, seed, (tree, plain, random, spread) => {
        const asked = boxOf(random, axes, spread, 1)
        const mask = random.chance(0.7) ? -1 : 1 << random.below(32)
        const reach = random.pick([0, spread / 3, Infinity])
        const apart = (box: number[]): number =>
          Math.hypot(...numbers(axes, (k) => Math.max(0, box[k] - asked[axes + k], asked[k] - box[axes + k])))
        for (const shrinking of [false, true]) {
          const limit = Float64Array.of(reach)
          walk.begin(Float64Array.from(asked), limit)
          walk.enter(tree.f32, tree.i32, mask, tree.nodes)
          const got = new Set<number>()
          let best = Infinity
          for (let link = walk.next(); link !== DONE; link = walk.next()) {
            const proxy = -2 - link
            const leaf = plain.get(proxy)
            assert.ok(leaf !== undefined && !got.has(proxy), `${proxy} is there, and comes once`)
            assert.ok((leaf.bits & mask) !== 0, 'its layers are asked for')
            assert.ok(apart(leaf.box) <= reach + slackOf(spread), 'it is within reach')
            got.add(proxy)
            best = Math.min(best, apart(leaf.box))
            if (shrinking && best < limit[0]) limit[0] = best
          }
          const near = [...plain].filter(([, { box, bits }]) => (bits & mask) !== 0 && apart(box) <= reach)
          if (!shrinking) for (const [proxy] of near) assert.ok(got.has(proxy), `${proxy} was missed`)
          if (near.length > 0) assert.equal(best, Math.min(...near.map(([, { box }]) => apart(box))))
        }
      })
    }
  })

  test(`${axes}D: emptied, a tree can be filled again, and stays shallow`, () => {
    const random = new Random(99)
    const tree = new dimension.Tree()
    for (let round = 0; round < 3; round++) {
      for (let i = 0; i < 400; i++) tree.insert(i, Float64Array.from(boxOf(random, axes, 30, 1)), 0, 1)
      for (let i = 0; i < 4000; i++) tree.move(random.below(400), Float64Array.from(boxOf(random, axes, 30, 1)), 0)
      assert.ok(depthOf(tree) < 40, `depth ${depthOf(tree)}`)
      for (let i = 0; i < 400; i++) tree.remove((i * 7) % 400)
      assert.equal(tree.count, 0)
    }
  })
}
