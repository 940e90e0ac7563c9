/** The four questions over every shape, against references that know no tree and no closed form. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  type AskingShape2,
  box,
  capsule,
  castHit,
  circle,
  compound,
  createWorld,
  defineLayers,
  halfspace,
  nearestHit,
  overlapHit,
  polygon,
  polyline,
  rayHit,
  rayResults,
  type Shape2,
  segment,
} from '../../src/2d/index.ts'
import { aim, aimedAt, Tally } from '../helpers/aim.ts'
import { angle, askingShape, placedAny, point, runs } from '../helpers/arbitrary.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'
import { gapOfShapes, movedPieces, piecesOf } from '../oracle/pieces.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })
interface Placed {
  shape: Shape2
  at: { x: number; y: number }
  angle: number
}

function worldOf(...shapes: Placed[]) {
  const world = createWorld({ layers })
  for (const each of shapes)
    world.add({ type: 'static', at: each.at, angle: each.angle, colliders: [{ shape: each.shape, layer: 'rock' }] })
  return world
}

const CLOSE = 1e-8
const scene = fc.array(placedAny(4), { minLength: 1, maxLength: 8 })

test('overlap finds what the references find, in the order of age, and its normal leads out', () => {
  fc.assert(
    fc.property(scene, askingShape, point(4), angle, (shapes, shape, at, turn) => {
      const world = worldOf(...shapes)
      const asker = piecesOf(shape, at, turn)
      const gaps = shapes.map((each) => gapOfShapes(asker, piecesOf(each.shape, each.at, each.angle)))
      const hits = world.overlap.all({ shape, at, angle: turn, depth: true })
      const found = new Set(hits.map((hit) => hit.body.serial - 1))
      for (const [index, gap] of gaps.entries())
        if (Math.abs(gap) > CLOSE) assert.equal(found.has(index), gap < 0, `shape ${index}, gap ${gap}`)
      assert.deepEqual(
        [...found],
        [...found].sort((a, b) => a - b),
      )
      for (const hit of hits) {
        assert.ok(Math.abs(hit.depth + gaps[hit.body.serial - 1]) < CLOSE)
        const target = shapes[hit.body.serial - 1]
        if (target.shape.pieces.length > 1 || shape.pieces.length > 1) continue
        const out = movedPieces(asker, { x: hit.normal!.x * hit.depth, y: hit.normal!.y * hit.depth })
        assert.ok(
          Math.abs(gapOfShapes(out, piecesOf(target.shape, target.at, target.angle))) < CLOSE,
          'moved out, they touch',
        )
      }
      assert.equal(world.overlap.any({ shape, at, angle: turn }), hits.length > 0)
      assert.equal(world.overlap.first({ shape, at, angle: turn })?.body, hits[0]?.body)
      let visited = 0
      world.overlap.each({ shape, at, angle: turn }, () => {
        visited++
      })
      assert.equal(visited, hits.length)
    }),
    { numRuns: runs(1200) },
  )
})

test('of two that touch to rounding, every mode says the same, with the depth and without', () => {
  const world = worldOf(
    { shape: segment({ x: 0, y: 0 }, { x: 0.25, y: 0 }), at: { x: 0, y: 0.25 }, angle: 0 },
    { shape: halfspace({ x: -1, y: 0 }, 0), at: { x: 0, y: 0 }, angle: 0 },
  )
  const place = { shape: segment({ x: 0, y: 0 }, { x: -0.25, y: 1.75 }), at: { x: 0, y: 0.25 }, angle: Math.PI / 2 }
  const deep = world.overlap.all({ ...place, depth: true })
  assert.deepEqual(
    world.overlap.all(place).map((hit) => hit.body),
    deep.map((hit) => hit.body),
  )
  assert.equal(world.overlap.first(place)?.body, deep[0]?.body)
})

test('a box that touches a disc to the last bit says the same with the depth and without', () => {
  const random = new Random(12)
  for (let i = 0; i < 3000; i++) {
    const height = i === 0 ? 1.47224816153952 : 0.5 + random.between(0, 2)
    const radius = i % 2 === 0 ? 2.75 : random.below(12) / 4 + 0.25
    const target: Placed = { shape: circle(radius), at: { x: -0.5 - radius, y: 0 }, angle: Math.PI / 2 }
    const world = worldOf(target)
    const place = { shape: box(1, height), at: { x: 0, y: 0 } }
    assert.equal(world.overlap.any(place), world.overlap.any({ ...place, depth: true }), `${height} high, ${radius}`)
  }
})

test('a motion of the least numbers is none: no cast and no ray meets by it what is far away', () => {
  const world = worldOf({ shape: box(0.25, 0.25), at: { x: 0.25, y: -0.25 }, angle: 0 })
  for (const x of [5e-324, 1e-323, 1e-200, 1e-160]) {
    const from = { x: 0, y: -0.75 }
    for (const to of [
      { x, y: -0.75 },
      { x: -x, y: -0.75 },
    ]) {
      assert.equal(world.shapecast.first({ shape: box(0.25, 0.25), from: { x: 0, y: 0.5 }, to: { x, y: 0.5 } }), null)
      assert.equal(world.shapecast.first({ shape: box(0.25, 0.25), from, to }), null)
      assert.equal(world.raycast.first({ from, to }), null)
    }
  }
})

test('nearest is sorted by the distances of the references, within reach', () => {
  fc.assert(
    fc.property(
      scene,
      askingShape,
      point(6),
      angle,
      fc.double({ min: 0.1, max: 8, noNaN: true }),
      (shapes, shape, at, turn, reach) => {
        const world = worldOf(...shapes)
        const asker = piecesOf(shape, at, turn)
        const gaps = shapes.map((each) => gapOfShapes(asker, piecesOf(each.shape, each.at, each.angle)))
        const all = world.nearest.all({ shape, at, angle: turn })
        assert.equal(all.length, shapes.length)
        for (const hit of all) assert.ok(Math.abs(hit.distance - gaps[hit.body.serial - 1]) < CLOSE)
        const first = world.nearest.first({ shape, at, angle: turn })!
        assert.ok(Math.abs(first.distance - Math.min(...gaps)) < CLOSE)
        const within = world.nearest.all({ shape, at, angle: turn, reach })
        for (const [index, gap] of gaps.entries()) {
          if (Math.abs(gap - reach) > CLOSE)
            assert.equal(
              within.some((hit) => hit.body.serial - 1 === index),
              gap < reach,
            )
        }
        for (let i = 1; i < all.length; i++) assert.ok(all[i - 1].distance <= all[i].distance)
      },
    ),
    { numRuns: runs(1200) },
  )
})

/** Along a motion: nothing is entered before the hit, at the hit they touch, and a miss enters nothing. */
function checkCast(
  target: Placed,
  shape: AskingShape2,
  from: { x: number; y: number },
  to: { x: number; y: number },
  turnFrom: number,
  turn: number,
  slack: number,
): string {
  const world = worldOf(target)
  const still = piecesOf(target.shape, target.at, target.angle)
  const hit = world.shapecast.first({ shape, from, to, angle: turnFrom, turn })
  const gapAt = (t: number): number =>
    gapOfShapes(
      piecesOf(shape, { x: from.x + (to.x - from.x) * t, y: from.y + (to.y - from.y) * t }, turnFrom + turn * t),
      still,
    )
  if (hit?.startedInside) {
    assert.ok(gapAt(0) < slack, 'it starts inside')
    assert.equal(hit.fraction, 0)
    assert.ok(Math.abs(hit.depth + gapAt(0)) < slack)
    return 'a start inside'
  }
  const end = hit === null ? 1 : hit.fraction
  for (let i = 0; i <= 48; i++)
    assert.ok(gapAt((end * i) / 48) > -slack, `passed through: ${gapAt((end * i) / 48)} at ${(end * i) / 48}`)
  if (hit === null) return 'a miss'
  assert.ok(Math.abs(gapAt(hit.fraction)) < slack, `at the hit they are ${gapAt(hit.fraction)} apart`)
  const contact = piecesOf(circle(1e-12), hit.point, 0)
  assert.ok(Math.abs(gapOfShapes(contact, still)) < slack, 'the point is on the target')
  assert.ok(hit.normal.x * (to.x - from.x) + hit.normal.y * (to.y - from.y) <= slack || turn !== 0)
  return 'the surface'
}

test('a straight cast of every shape against every shape stops exactly at the surface', () => {
  const tally = new Tally()
  fc.assert(
    fc.property(placedAny(3), askingShape, aim(2, 6), angle, (target, shape, aimed, turn) => {
      tally.run()
      const { from, to } = aimedAt(target.at, aimed)
      tally.say(checkCast(target, shape, from, to, turn, 0, CLOSE))
    }),
    { numRuns: runs(2500) },
  )
  tally.expect({ 'the surface': 0.4, 'a miss': 0.05, 'a start inside': 0.1 })
})

test('a cast of a line that is level but for the least number there is', () => {
  for (const shape of [box(0.01, 0.02, { radius: 0.0025 }), box(1, 1), circle(0.5)]) {
    for (const x of [-0.25, 0.25]) {
      for (const y of [5e-324, -5e-324, 1e-320, 0]) {
        const world = worldOf({ shape, at: { x: 0, y: 0 }, angle: 0 })
        for (const line of [segment({ x: 0, y: 0 }, { x, y }), segment({ x, y }, { x: 0, y: 0 })]) {
          const hit = world.shapecast.first({ shape: line, from: { x: 0, y: 0 }, to: { x, y: 0 } })
          assert.deepEqual([hit?.fraction, hit?.startedInside], [0, true])
          const far = world.shapecast.first({ shape: line, from: { x: 0, y: 9 }, to: { x: 0, y: -9 } })
          assert.ok(far !== null && far.fraction > 0.4 && far.fraction < 0.5)
        }
      }
    }
  }
})

test('a turning cast stops on the near side of the surface', () => {
  const tally = new Tally()
  const turning = fc.double({ min: -7, max: 7, noNaN: true })
  fc.assert(
    fc.property(placedAny(3), askingShape, aim(2, 6), angle, turning, (target, shape, aimed, start, turn) => {
      tally.run()
      const { from, to } = aimedAt(target.at, aimed)
      // What turns very near for long can count as met from a millionth on.
      tally.say(checkCast(target, shape, from, to, start, turn, 1.1e-6))
    }),
    { numRuns: runs(800) },
  )
  tally.expect({ 'the surface': 0.4, 'a miss': 0.05, 'a start inside': 0.1 })
})

test('a bar that swings past a disc at less than a hair does not meet it', () => {
  const nowhere = { x: 0, y: 0 }
  const bars: [AskingShape2, number][] = [
    [capsule({ x: -2, y: 0 }, { x: 2, y: 0 }, 0.25), 2.25],
    [box(4, 0.5), Math.hypot(2, 0.25)],
  ]
  for (const [shape, length] of bars) {
    for (const gap of [1e-2, 1e-4, 1e-6, 1e-7, -1e-7, -1e-4, -1e-2]) {
      const world = worldOf({ shape: circle(0.5), at: { x: 0, y: length + 0.5 + gap }, angle: 0 })
      const hit = world.shapecast.first({ shape, from: nowhere, to: nowhere, turn: Math.PI })
      assert.equal(hit === null, gap > 0, `${shape.kind}, ${gap} beside: ${hit?.fraction}`)
    }
  }
})

test('a disc that rolls is cast as one that slides', () => {
  const floors: Shape2[] = [
    halfspace({ x: 0, y: 1 }, 0),
    box(20, 2),
    polyline([
      { x: -9, y: 0 },
      { x: 0, y: 0 },
      { x: 9, y: 0 },
    ]),
  ]
  for (const shape of floors) {
    const world = worldOf({ shape, at: { x: 0, y: shape.kind === 'box' ? -1 : 0 }, angle: 0 })
    for (const turn of [0, -16, 3]) {
      const roll = { shape: circle(0.5), turn }
      assert.equal(world.shapecast.first({ ...roll, from: { x: -4, y: 0.5 }, to: { x: 4, y: 0.5 } }), null, shape.kind)
      const down = world.shapecast.first({ ...roll, from: { x: -4, y: 0.7 }, to: { x: 4, y: 0.3 } })
      assert.ok(Math.abs(down!.fraction - 0.5) < 1e-12, `${shape.kind}: ${down?.fraction}`)
      assert.equal(down!.normal.y, 1, shape.kind)
    }
  }
})

test('what slides over a row of boxes or segments is not held by their seams, and runs into what stands out', () => {
  const shapes: AskingShape2[] = [circle(0.5), box(1, 1), capsule({ x: -0.25, y: 0 }, { x: 0.25, y: 0 }, 0.5)]
  const tiles = Array.from(
    { length: 10 },
    (_, i): Placed => ({ shape: box(1, 1), at: { x: i - 4.5, y: -0.5 }, angle: 0 }),
  )
  const line = polyline([-5, -2.3, 0.1, 0.7, 5].map((x) => ({ x, y: 0 })))
  const step: Placed = { shape: box(1, 1), at: { x: 3, y: -0.495 }, angle: 0 }
  for (const floor of [tiles, [{ shape: line, at: { x: 0, y: 0 }, angle: 0 }]]) {
    const world = worldOf(...floor, step)
    for (const shape of shapes) {
      for (const y of [0.5, 0.5 + 1e-14, 0.5 + 1e-9]) {
        const held = world.shapecast.first({ shape, from: { x: -4.05, y }, to: { x: 1.5, y } })
        assert.equal(held?.fraction, undefined, `a ${shape.kind} at ${y} is held`)
        const further = world.shapecast.first({ shape, from: { x: -4.05, y }, to: { x: 3, y } })
        assert.ok(further !== null && further.normal.x < -0.1, `a ${shape.kind} at ${y} passes the step`)
      }
    }
  }
})

test('all, any and each of a cast agree with asking every shape alone', () => {
  fc.assert(
    fc.property(scene, askingShape, point(6), point(6), (shapes, shape, from, to) => {
      const world = worldOf(...shapes)
      const alone = shapes.flatMap((each, index) => {
        const hit = worldOf(each).shapecast.first({ shape, from, to })
        return hit === null ? [] : [{ index, fraction: hit.fraction }]
      })
      alone.sort((a, b) => a.fraction - b.fraction || a.index - b.index)
      const all = world.shapecast.all({ shape, from, to })
      assert.deepEqual(
        all.map((hit) => ({ index: hit.body.serial - 1, fraction: hit.fraction })),
        alone,
      )
      assert.equal(world.shapecast.any({ shape, from, to }), all.length > 0)
      assert.deepEqual(world.shapecast.first({ shape, from, to }), all[0] ?? null)
    }),
    { numRuns: runs(600) },
  )
})

test('rays against every shape: the same as a very small cast, and batch the same as first', () => {
  fc.assert(
    fc.property(scene, fc.array(fc.tuple(point(6), point(6)), { minLength: 1, maxLength: 6 }), (shapes, rays) => {
      const world = worldOf(...shapes)
      const flat = Float64Array.from(rays.flatMap(([from, to]) => [from.x, from.y, to.x, to.y]))
      const out = rayResults(rays.length)
      const count = world.raycast.batch(flat, out)
      const hits = rays.map(([from, to]) => world.raycast.first({ from, to }))
      assert.equal(count, hits.filter((hit) => hit !== null).length)
      for (const [i, hit] of hits.entries()) {
        assert.equal(out.fraction[i], hit?.fraction ?? -1)
        assert.equal(world.colliderAt(out.collider[i]), hit?.collider ?? null)
        assert.equal(out.part[i], hit?.part ?? -1)
        if (hit === null || hit.startedInside) continue
        const [from, to] = rays[i]
        const before = world.overlap.any({
          shape: circle(1e-9),
          at: { x: from.x + (to.x - from.x) * hit.fraction, y: from.y + (to.y - from.y) * hit.fraction },
        })
        assert.ok(before, 'the hit lies on something')
      }
    }),
    { numRuns: runs(600) },
  )
})

test('no cast of 10 km misses a wall of a centimetre', () => {
  const random = new Random(7)
  for (let i = 0; i < runs(2000); i++) {
    const turn = random.between(-3, 3)
    const wall = {
      shape: box(0.01, 4),
      at: { x: random.between(-5000, 5000), y: random.between(-5000, 5000) },
      angle: turn,
    }
    const world = worldOf(wall)
    const heading = turn + random.between(-1, 1)
    const half = random.between(5000, 5001)
    const by = { x: half * Math.cos(heading), y: half * Math.sin(heading) }
    const from = { x: wall.at.x - by.x, y: wall.at.y - by.y }
    const to = { x: wall.at.x + by.x, y: wall.at.y + by.y }
    assert.notEqual(world.raycast.first({ from, to }), null, `ray ${i}`)
    assert.notEqual(world.shapecast.first({ shape: circle(0.001), from, to }), null, `cast ${i}`)
  }
})

test('rays aimed at the corners of a polyline never slip between its segments', () => {
  const random = new Random(11)
  for (let i = 0; i < runs(1000); i++) {
    const points = Array.from({ length: 12 }, (_, k) => ({ x: k - 6, y: random.between(-0.5, 0.5) }))
    const world = worldOf({ shape: polyline(points), at: { x: 0, y: 0 }, angle: 0 })
    const corner = points[1 + random.below(10)]
    const from = { x: corner.x + random.between(-3, 3), y: 4 }
    const to = { x: 2 * corner.x - from.x, y: 2 * corner.y - 4 }
    for (const x of [corner.x, random.pick([corner.x + 1e-16, corner.x * (1 + 2e-16)])]) {
      assert.notEqual(world.raycast.first({ from, to: { x: to.x + (x - corner.x), y: to.y } }), null)
      assert.notEqual(world.raycast.first({ from: { x, y: 4 }, to: { x, y: -4 } }), null)
    }
  }
})

test('lines have two sides and no inside; part is the edge in the numbering that was given', () => {
  const square = [
    { x: 0, y: 0 },
    { x: 4, y: 0 },
    { x: 4, y: 0 },
    { x: 4, y: 4 },
    { x: 0, y: 4 },
  ]
  const world = worldOf({ shape: polyline(square, { loop: true }), at: { x: 0, y: 0 }, angle: 0 })
  const inside = world.raycast.first({ from: { x: 2, y: 2 }, by: { x: 10, y: 0 } })
  assert.deepEqual(
    [inside?.startedInside, inside?.part, inside?.point, inside?.normal],
    [false, 2, { x: 4, y: 2 }, { x: -1, y: 0 }],
  )
  const outside = world.raycast.first({ from: { x: 9, y: 2 }, by: { x: -10, y: 0 } })
  assert.deepEqual([outside?.part, outside?.normal], [2, { x: 1, y: 0 }])
  assert.equal(world.overlap.any({ shape: circle(0.5), at: { x: 2, y: 2 } }), false)
  assert.equal(world.overlap.first({ shape: circle(0.5), at: { x: 2, y: 4.2 } })?.part, 3)
  // On the line every way leads off it.
  assert.equal(world.raycast.first({ from: { x: 2, y: 0 }, by: { x: 0, y: -1 } }), null)
  assert.equal(world.nearest.first({ point: { x: 1, y: 2 } })?.part, 4)
})

test('a compound tells the child, once', () => {
  const both = compound([
    { shape: box(1, 1), at: { x: -2, y: 0 } },
    { shape: circle(0.5), at: { x: 2, y: 0 } },
  ])
  const world = worldOf({ shape: both, at: { x: 0, y: 0 }, angle: 0 })
  const hits = world.raycast.all({ from: { x: -9, y: 0 }, to: { x: 9, y: 0 } })
  assert.deepEqual(
    hits.map((hit) => [hit.child, hit.distance]),
    [[0, 6.5]],
  )
  assert.equal(world.raycast.first({ from: { x: 9, y: 0 }, to: { x: -9, y: 0 } })?.child, 1)
  // A ray that starts in one child of a shape that is passed over does not meet the other.
  assert.equal(world.raycast.first({ from: { x: -2, y: 0 }, to: { x: 9, y: 0 } }, { inside: 'skip' }), null)
})

test('a halfspace is met from everywhere, and only on static bodies', () => {
  const world = worldOf({ shape: halfspace({ x: 0, y: 2 }, 1), at: { x: 0, y: -1 }, angle: 0 })
  assert.deepEqual(world.raycast.first({ from: { x: 1e6, y: 5 }, by: { x: 0, y: -10 } })?.fraction, 0.5)
  assert.equal(world.raycast.first({ from: { x: 0, y: -3 }, by: { x: 0, y: 10 } })?.startedInside, true)
  const cast = world.shapecast.first({ shape: box(2, 2), from: { x: 0, y: 5 }, to: { x: 0, y: -5 } })
  assert.deepEqual([cast?.distance, cast?.normal], [4, { x: 0, y: 1 }])
  assert.equal(world.nearest.first({ point: { x: 3, y: 2 } })?.distance, 2)
  throwsKeen('bad-shape', /belongs on a static body/, () =>
    world.add({ type: 'kinematic', colliders: [{ shape: halfspace({ x: 0, y: 1 }, 0), layer: 'rock' }] }),
  )
  throwsKeen('bad-shape', /cannot be a halfspace/, () =>
    world.overlap.any({ shape: halfspace({ x: 0, y: 1 }, 0) as never, at: { x: 0, y: 0 } }),
  )
})

test('a cast that starts touching: moving in is a hit at 0, moving away or along is none', () => {
  const world = worldOf({ shape: box(4, 2), at: { x: 0, y: 0 }, angle: 0 })
  for (const shape of [box(1, 1), circle(0.5), capsule({ x: -1, y: 0 }, { x: 1, y: 0 }, 0.5)]) {
    const from = { x: 0, y: 1.5 }
    const cast = (x: number, y: number, turn?: number) =>
      world.shapecast.first({ shape, from, to: { x, y: 1.5 + y }, turn })
    assert.deepEqual(
      [cast(0, -3)?.fraction, cast(0, -3)?.startedInside, cast(0, -3)?.normal],
      [0, false, { x: 0, y: 1 }],
      shape.kind,
    )
    assert.equal(cast(0, 3), null)
    assert.equal(cast(3, 0), null)
    assert.equal(cast(0, 3, 0.001), null)
    assert.equal(cast(0, -3, 0.001)?.fraction, 0)
    assert.equal(cast(0, 0)?.fraction, 0, 'of no length, it asks whether they touch')
    const inside = world.shapecast.first({ shape, from: { x: 0, y: 1.25 }, to: { x: 5, y: 1.25 } })
    assert.deepEqual([inside?.startedInside, inside?.depth, inside?.normal], [true, 0.25, { x: 0, y: 1 }])
  }
})

test('a spin that sweeps over something thin is seen', () => {
  const world = worldOf({ shape: box(0.02, 0.5), at: { x: 0, y: 2 }, angle: 0 })
  const hit = world.shapecast.first({ shape: box(5, 0.1), from: { x: 0, y: 0 }, to: { x: 0, y: 0 }, turn: Math.PI })
  assert.ok(hit !== null && hit.fraction > 0.4 && hit.fraction < 0.5, String(hit?.fraction))
})

test('two hits at the same place are told in the order of age, whatever the tree', () => {
  for (const order of [
    [0, 1, 2],
    [2, 1, 0],
  ]) {
    const world = createWorld({ layers })
    for (const i of order)
      world.add({
        type: i === 1 ? 'kinematic' : 'static',
        name: `${i}`,
        at: { x: 5, y: 0 },
        colliders: [{ shape: box(2, 2 + i), layer: 'rock' }],
      })
    const names = world.raycast.all({ from: { x: 0, y: 0 }, to: { x: 9, y: 0 } }).map((hit) => hit.body.name)
    assert.deepEqual(names, order.map(String))
    assert.equal(world.raycast.first({ from: { x: 0, y: 0 }, to: { x: 9, y: 0 } })?.body.name, `${order[0]}`)
    assert.equal(
      world.shapecast.first({ shape: circle(0.5), from: { x: 0, y: 0 }, to: { x: 9, y: 0 } })?.body.name,
      `${order[0]}`,
    )
  }
})

test('of shapes in the very same place the oldest is first, at every distance and whichever tree it is in', () => {
  const random = new Random(21)
  for (let i = 0; i < runs(300); i++) {
    const shape = random.pick([
      circle(1),
      box(1, 2),
      capsule({ x: -1, y: 0 }, { x: 1, y: 0.3 }, 0.2),
      segment({ x: 0, y: -3 }, { x: 0.5, y: 3 }),
    ])
    const world = createWorld({ layers })
    const at = { x: random.between(-9, 9), y: random.between(-9, 9) }
    const turn = random.between(-3, 3)
    const type = random.pick(['static', 'kinematic'] as const)
    world.add({
      type: type === 'static' ? 'kinematic' : 'static',
      name: 'old',
      at,
      angle: turn,
      colliders: [{ shape, layer: 'rock' }],
    })
    world.add({ type, name: 'young', at, angle: turn, colliders: [{ shape, layer: 'rock' }] })
    const from = { x: random.between(-20, 20), y: random.between(-20, 20) }
    const ray = { from, to: { x: 2 * at.x - from.x, y: 2 * at.y - from.y } }
    const first = world.raycast.first(ray)
    if (first === null) continue
    assert.equal(first.body.name, 'old')
    assert.equal(world.raycast.all(ray).length, 2)
    assert.equal(world.shapecast.first({ shape: circle(0.1), ...ray })?.body.name, 'old')
  }
})

test('results are written into objects of the caller', () => {
  const world = worldOf({ shape: box(2, 2), at: { x: 5, y: 0 }, angle: 0 })
  const [ray, cast, over, near] = [rayHit(), castHit(), overlapHit(), nearestHit()]
  const point = ray.point
  assert.equal(world.raycast.first({ from: { x: 0, y: 0 }, to: { x: 9, y: 0 } }, undefined, ray as never), ray)
  assert.equal(ray.point, point)
  assert.equal(point.x, 4)
  assert.equal(
    world.shapecast.first({ shape: circle(1), from: { x: 0, y: 0 }, to: { x: 9, y: 0 } }, {}, cast as never),
    cast,
  )
  assert.equal(cast.distance, 3)
  assert.equal(world.overlap.first({ shape: circle(1), at: { x: 4, y: 0 }, depth: true }, {}, over as never), over)
  assert.equal(over.depth, 1)
  assert.equal(world.nearest.first({ point: { x: 0, y: 0 } }, {}, near as never), near)
  assert.equal(near.distance, 4)
})

test('far from the origin and very small', () => {
  const far = 1e6
  const world = worldOf({ shape: box(0.001, 0.001), at: { x: far, y: far }, angle: 0 })
  const hit = world.raycast.first({ from: { x: far - 1, y: far }, to: { x: far + 1, y: far } })
  assert.ok(Math.abs(hit!.distance - 0.9995) < 1e-9)
  const cast = world.shapecast.first({
    shape: circle(0.0005),
    from: { x: far, y: far + 1 },
    to: { x: far, y: far - 1 },
  })
  assert.ok(Math.abs(cast!.distance - 0.999) < 1e-9)
  assert.ok(Math.abs(world.nearest.first({ point: { x: far, y: far + 0.01 } })!.distance - 0.0095) < 1e-9)
})

test('many bodies at once are built into the same answers as one by one', () => {
  const random = new Random(3)
  const places = Array.from({ length: 400 }, () => ({
    shape: circle(random.between(0.1, 0.6)),
    at: { x: random.between(-30, 30), y: random.between(-30, 30) },
    angle: 0,
  }))
  const atOnce = worldOf(...places)
  const single = createWorld({ layers })
  for (const each of places) {
    single.add({ type: 'static', at: each.at, colliders: [{ shape: each.shape, layer: 'rock' }] })
    single.raycast.any({ from: { x: 0, y: 0 }, to: { x: 1, y: 0 } })
  }
  for (let i = 0; i < 300; i++) {
    const from = { x: random.between(-30, 30), y: random.between(-30, 30) }
    const to = { x: random.between(-30, 30), y: random.between(-30, 30) }
    const told = [atOnce, single].map((world) =>
      world.raycast.all({ from, to }).map((hit) => [hit.body.serial, hit.fraction]),
    )
    assert.deepEqual(told[0], told[1])
  }
  for (const body of atOnce.bodies().slice(0, 350)) body.remove()
  assert.equal(atOnce.raycast.all({ from: { x: -40, y: -40 }, to: { x: 40, y: 40 } }).length <= 50, true)
})

test('events over shapes of several pieces: a zone of polylines and a mover of polygons', () => {
  const world = createWorld({ layers })
  const ring = polyline(
    [
      { x: -3, y: -3 },
      { x: 3, y: -3 },
      { x: 3, y: 3 },
      { x: -3, y: 3 },
    ],
    { loop: true },
  )
  world.add({ type: 'static', name: 'ring', colliders: [{ shape: ring, layer: 'zone' }] })
  world.add({ type: 'static', name: 'floor', colliders: [{ shape: halfspace({ x: 0, y: 1 }, -9), layer: 'rock' }] })
  const arrow = polygon([
    { x: -1, y: -0.5 },
    { x: 1, y: 0 },
    { x: -1, y: 0.5 },
    { x: -0.5, y: 0 },
  ])
  assert.equal(arrow.pieces.length, 2)
  world.add({
    type: 'kinematic',
    name: 'arrow',
    at: { x: -6, y: 0 },
    velocity: { x: 6, y: -3 },
    spin: 2,
    colliders: [{ shape: arrow, layer: 'craft' }],
  })
  const told: string[] = []
  const note = (e: { kind: string; b: unknown }): void => {
    told.push(`${e.kind} ${String(e.b)}`)
  }
  world.watch('craft', '*', { begin: note, end: note })
  for (let i = 0; i < 240; i++) world.step()
  assert.deepEqual(told, ['begin ring', 'end ring', 'begin floor'])
})

test('wrong questions are named', () => {
  const world = worldOf({ shape: box(1, 1), at: { x: 0, y: 0 }, angle: 0 })
  const at = { x: 0, y: 0 }
  throwsKeen('bad-shape', /'shape' of an overlap must be made by/, () => world.overlap.all({ shape: 3 as never, at }))
  throwsKeen('bad-shape', /cannot be a polyline/, () =>
    world.overlap.all({ shape: polyline([at, { x: 1, y: 0 }]) as never, at }),
  )
  throwsKeen('bad-number', /'angle' of a shape cast/, () =>
    world.shapecast.first({ shape: circle(1), from: at, to: at, angle: Number.NaN }),
  )
  throwsKeen('bad-number', /'reach' of a question for the nearest must not be negative/, () =>
    world.nearest.first({ point: at, reach: -1 }),
  )
  throwsKeen('bad-argument', /needs 'point', or 'shape' and 'at'/, () => world.nearest.first({} as never))
  throwsKeen('bad-argument', /no field "radius"/, () => world.nearest.first({ point: at, radius: 1 } as never))
  throwsKeen('bad-argument', /four numbers a ray/, () => world.raycast.batch(new Float64Array(3), rayResults(1)))
  throwsKeen('bad-argument', /at least 2 numbers, got one of 1/, () =>
    world.raycast.batch(new Float64Array(8), rayResults(1)),
  )
  throwsKeen('bad-number', /ray 0 of a batch must have finite numbers/, () =>
    world.raycast.batch(Float64Array.of(0, 0, Number.NaN, 1), rayResults(1)),
  )
  assert.equal(
    world.raycast.any({ from: { x: -3, y: 0 }, to: { x: 3, y: 0 } }),
    true,
    'a refused question leaves the next in order',
  )
  assert.equal(world.overlap.any({ shape: segment({ x: -1, y: 0 }, { x: 1, y: 0 }), at }), true)
})

test('where two edges touch end to end, the point is where both are', () => {
  const target = compound([{ shape: box(1 / 6, 0.5), at: { x: -0.5, y: 0.25 } }, { shape: circle(0.75) }])
  const shape = segment({ x: 0, y: 0 }, { x: -0.25, y: 0 })
  const hit = worldOf({ shape: target, at: { x: 1.75, y: 0 }, angle: 0 }).shapecast.first({
    shape,
    from: { x: 0, y: 1 },
    to: { x: 5.25, y: -1.25 },
  })!
  assert.ok(Math.abs(hit.point.x - 7 / 6) < 1e-9 && Math.abs(hit.point.y - 0.5) < 1e-9)
})

test('points too near to each other for a length are one', () => {
  const line = polyline([
    { x: 0, y: 0 },
    { x: -2e-307, y: 0 },
    { x: 0, y: 1 },
  ])
  assert.equal(line.pieces.length, 1)
  throwsKeen('bad-shape', /nearer/, () => segment({ x: 0, y: 0 }, { x: 1e-200, y: 0 }))
})
