/** The plain functions keep shapes where they were placed last: no order of calls changes an answer. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import * as two from '../../src/2d/index.ts'
import * as three from '../../src/3d/index.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'

type Distance = three.Distance3

const tried = (call: () => unknown): unknown => {
  try {
    return call()
  } catch (error) {
    return (error as Error).message
  }
}

test('2D: any order of calls with few shapes gives what shapes give that are asked once', () => {
  const random = new Random(1)
  const make = [
    () => two.box(1, 2),
    () => two.circle(0.7),
    () => two.compound([{ shape: two.box(1, 1) }, { shape: two.circle(0.5), at: { x: 1, y: 0 } }]),
    () => two.halfspace({ x: 0, y: 1 }, 0),
    () => two.polyline([...Array(70)].map((_, i) => ({ x: i - 35, y: i % 2 }))),
    () => null as never,
  ]
  const kept = make.map((each) => each())
  const pose = { at: { x: 0, y: 0 }, angle: 0 }
  for (let i = 0; i < 4000; i++) {
    const [a, b] = [random.below(make.length), random.below(make.length)]
    // Few poses, so that they come again; one object that changes, and poses that are none.
    pose.at.x = random.below(3)
    pose.angle = random.below(2)
    const others = [
      pose,
      { at: { x: 0.5, y: 0 }, angle: 0 },
      { at: { x: Number.NaN, y: 0 }, angle: 0 },
      undefined as never,
    ]
    const p = others[random.below(20) < 18 ? random.below(2) : random.below(4)]
    const q = others[random.below(2)]
    const ask = (one: two.Shape2, other: two.Shape2) => [
      tried(() => two.distance(one, p, other, q)),
      tried(() => two.overlaps(one, p, other, q)),
      tried(() => two.manifold(one, p, other, q, 0.2)),
      tried(() => two.raycast(one, p, { from: { x: -5, y: 0.2 }, to: { x: 5, y: 0.3 } })),
      tried(() => two.closestPoint(one, p, { x: 3, y: 3 })),
      tried(() =>
        two.shapecast({ shape: other as two.AskingShape2, from: { x: -5, y: 0 }, to: { x: 4, y: 0 } }, one, p),
      ),
    ]
    assert.deepEqual(ask(kept[a], kept[b]), ask(make[a](), make[b]()))
  }
})

test('3D: the same', () => {
  const random = new Random(2)
  const make = [
    () => three.box(1, 2, 1),
    () => three.sphere(0.7),
    () => three.hull([...Array(9)].map((_, i) => ({ x: Math.sin(i), y: Math.cos(2 * i), z: Math.sin(3 * i) }))),
    () => three.compound([{ shape: three.box(1, 1, 1) }, { shape: three.cone(0.5, 1), at: { x: 1, y: 0, z: 0 } }]),
    () => three.halfspace({ x: 0, y: 1, z: 0 }, 0),
    () => three.heightfield({ columns: 3, rows: 3, heights: [0, 1, 0, 1, 0, 1, 0, 1, 0], cell: 2 }),
  ]
  const kept = make.map((each) => each())
  const pose = { at: { x: 0, y: 0, z: 0 }, rotation: three.rotationAbout({ x: 0, y: 1, z: 0 }, 0.3) }
  const unturned = { at: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }
  for (let i = 0; i < 1500; i++) {
    const [a, b] = [random.below(make.length), random.below(make.length)]
    pose.at.x = random.below(3)
    const p = random.below(3) === 0 ? unturned : pose
    const q = random.below(2) === 0 ? unturned : { at: { x: 0, y: 0.5, z: 0 }, rotation: pose.rotation }
    const ask = (one: three.Shape3, other: three.Shape3) => [
      tried(() => three.distance(one, p, other, q)),
      tried(() => three.overlaps(one, p, other, q)),
      tried(() => three.manifold(one, p, other, q, 0.2)),
      tried(() => three.raycast(one, p, { from: { x: -5, y: 0.2, z: 0 }, to: { x: 5, y: 0.3, z: 0.1 } })),
      tried(() => three.closestPoint(one, p, { x: 3, y: 3, z: 1 })),
    ]
    assert.deepEqual(ask(kept[a], kept[b]), ask(make[a](), make[b]()))
  }
})

for (const [dimension, { box, distance, distanceResult, poses }] of [
  ['2D', { ...two, box: () => two.box(1, 2), poses: (x: number) => ({ at: { x, y: 0.5 }, angle: 0.3 }) }],
  [
    '3D',
    {
      ...three,
      box: () => three.box(1, 2, 1),
      poses: (x: number) => ({ at: { x, y: 0.5, z: 0 }, rotation: three.rotationAbout({ x: 0, y: 0, z: 1 }, 0.3) }),
    },
  ],
] as const) {
  test(`${dimension}: a distance that is given one to write into says the same, and makes nothing`, () => {
    const ask = distance as (a: unknown, p: unknown, b: unknown, q: unknown, out?: unknown) => Distance
    const out = distanceResult() as Distance
    const { pointA, pointB, normal } = out
    const [one, other] = [box(), box()]
    for (let x = -3; x <= 3; x += 0.5) {
      const fresh = ask(one, poses(0), other, poses(x))
      assert.equal(ask(one, poses(0), other, poses(x), out), out)
      assert.deepEqual(out, fresh)
      assert.ok(out.pointA === pointA && out.pointB === pointB && out.normal === normal, 'its vectors are its own')
    }
    for (const wrong of [null, 3, {}, { distance: 0 }, Object.freeze(distanceResult())]) {
      throwsKeen('bad-argument', /must come from distanceResult\(\)/, () => ask(one, poses(0), other, poses(1), wrong))
    }
  })
}
