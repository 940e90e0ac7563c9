import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  type AskingShape3,
  box,
  capsule,
  castHit,
  compound,
  cone,
  createWorld,
  cylinder,
  defineLayers,
  distance,
  halfspace,
  heightfield,
  hull,
  mesh,
  nearestHit,
  overlapHit,
  overlaps,
  raycast,
  rayHit,
  rotationAbout,
  type Shape3,
  shapecast,
  sphere,
} from '../../src/3d/index.ts'
import { aim, aimedAt, Tally } from '../helpers/aim.ts'
import { askingShape, cases, direction, type Placed3, placedAny, point, rotation } from '../helpers/arbitrary3.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'
import { add, dot, norm, type P, product, scale, sub } from '../oracle/solid.ts'

const UPRIGHT = { x: 0, y: 0, z: 0, w: 1 }
const layers = defineLayers(['rock', 'craft', 'pod', 'zone'], { pairs: [['zone', '*', 'sense']] })
const pose = ({ at, rotation }: Placed3<Shape3>): { at: P; rotation: typeof UPRIGHT } => ({ at, rotation })

function worldOf(
  placed: readonly Placed3<Shape3>[],
): ReturnType<typeof createWorld<'rock' | 'craft' | 'pod' | 'zone'>> {
  const world = createWorld({ layers })
  placed.forEach(({ shape, at, rotation }, index) => {
    const type = shape.kind === 'halfspace' || index % 2 === 0 ? 'static' : 'kinematic'
    world.add({ type, at, rotation, name: `${index}`, colliders: [{ shape, layer: 'rock' }] })
  })
  return world
}

const scene = fc.array(placedAny(5), { minLength: 1, maxLength: 8 })

/** What happens before this many seconds of rounding. */
const NEAR = 1e-6

test('a ray in a world meets what the ray meets of each shape alone, by every mode', () => {
  fc.assert(
    fc.property(scene, point(6), point(6), (placed, from, to) => {
      const world = worldOf(placed)
      const alone = placed
        .map((each, index) => ({ index, hit: raycast(each.shape, pose(each), { from, to }) }))
        .filter((each) => each.hit !== null)
        .sort((a, b) => a.hit!.fraction - b.hit!.fraction || a.index - b.index)
      const all = world.raycast.all({ from, to })
      assert.deepEqual(
        all.map(({ body, fraction }) => [body.name, fraction]),
        alone.map(({ index, hit }) => [`${index}`, hit!.fraction]),
      )
      const first = world.raycast.first({ from, to })
      assert.equal(first?.body.name, all[0]?.body.name)
      assert.equal(first?.fraction, all[0]?.fraction)
      assert.equal(world.raycast.any({ from, to }), all.length > 0)
      const seen = new Set<string | null>()
      world.raycast.each({ from, to }, (hit) => seen.add(hit.body.name))
      assert.deepEqual([...seen].sort(), all.map(({ body }) => body.name).sort())
    }),
    cases(1500),
  )
})

test('what a ray meets lies on the shape, and nothing of it before', () => {
  const tally = new Tally()
  fc.assert(
    fc.property(placedAny(2), aim(3, 6), (target, aimed) => {
      const { from, to } = aimedAt(target.at, aimed)
      const length = norm(sub(to, from))
      if (length < 0.01) return
      tally.run()
      const apart = (fraction: number): number =>
        distance(
          sphere(1e-9),
          { at: add(from, sub(to, from), fraction), rotation: UPRIGHT },
          target.shape,
          pose(target),
        ).distance + 1e-9
      const hit = raycast(target.shape, pose(target), { from, to })
      if (hit?.startedInside === true) {
        assert.ok(apart(0) < 1e-9, `${apart(0)} outside, but told it starts inside`)
        tally.say('a start inside')
        return
      }
      const until = hit === null ? 1 : hit.fraction
      for (let i = 0; i < 12; i++) {
        const t = (i / 12) * until
        assert.ok(apart(t) > -NEAR, `inside by ${-apart(t)} at ${t}, before ${until}`)
      }
      if (hit === null) {
        tally.say('a miss')
        return
      }
      tally.say('the surface')
      assert.ok(Math.abs(apart(hit.fraction)) < NEAR, `${apart(hit.fraction)} from the surface`)
      assert.ok(Math.abs(norm(hit.normal) - 1) < 1e-9, 'the normal is unit')
      assert.ok(dot(hit.normal, sub(to, from)) <= 1e-9 * length, 'the normal is against the motion')
    }),
    cases(1200),
  )
  tally.expect({ 'the surface': 0.4, 'a miss': 0.05, 'a start inside': 0.02 })
})

const motion = fc.record({
  shape: askingShape,
  from: point(5),
  to: point(5),
  rotation,
  turn: fc.oneof({ weight: 3, arbitrary: fc.constant(undefined) }, { weight: 1, arbitrary: direction }),
})

/** Where the asker is at a part of a motion, and how it is turned there. */
const partly = (
  asked: { from: P; to: P; rotation: typeof UPRIGHT; turn?: P | undefined },
  t: number,
): { at: P; rotation: typeof UPRIGHT } => ({
  at: add(asked.from, sub(asked.to, asked.from), t),
  rotation:
    asked.turn === undefined || norm(asked.turn) === 0
      ? asked.rotation
      : product(rotationAbout(asked.turn, t * norm(asked.turn)), asked.rotation),
})

test('what a cast meets is touched there, and not before', () => {
  const tally = new Tally()
  fc.assert(
    fc.property(motion, placedAny(2), aim(3, 5), ({ turn: _, ...how }, target, aimed) => {
      const asked = { ...how, ...aimedAt(target.at, aimed) }
      if (norm(sub(asked.to, asked.from)) < 0.01) return
      tally.run()
      const apart = (t: number): number => distance(asked.shape, partly(asked, t), target.shape, pose(target)).distance
      const hit = shapecast(asked, target.shape, pose(target))
      if (hit?.startedInside === true) {
        assert.ok(apart(0) < 0, `${apart(0)} apart, but told it starts inside`)
        assert.ok(Math.abs(hit.depth + apart(0)) < NEAR, `${hit.depth} deep, but ${-apart(0)} by the distance`)
        tally.say('a start inside')
        return
      }
      const until = hit === null ? 1 : hit.fraction
      for (let i = 1; i <= 10; i++) {
        const t = (i / 11) * until
        assert.ok(apart(t) > -NEAR, `${-apart(t)} deep at ${t}, before ${until}`)
      }
      tally.say(hit === null ? 'a miss' : 'the surface')
      if (hit !== null) assert.ok(Math.abs(apart(hit.fraction)) < NEAR, `${apart(hit.fraction)} apart at the hit`)
    }),
    cases(1500),
  )
  tally.expect({ 'the surface': 0.4, 'a miss': 0.05, 'a start inside': 0.1 })
})

test('what a turning cast meets is nearly touched there, and not before', () => {
  // Slow turns, whole ones, and turns about an axis that the shape is round about.
  const turn = fc.oneof(
    direction,
    fc.tuple(direction, fc.integer({ min: 1, max: 9 })).map(([v, k]) => scale(v, k)),
  )
  const tally = new Tally()
  fc.assert(
    fc.property(motion, turn, placedAny(2), aim(3, 5), (straight, turn, target, aimed) => {
      tally.run()
      const asked = { ...straight, ...aimedAt(target.at, aimed), turn }
      const apart = (t: number): number => distance(asked.shape, partly(asked, t), target.shape, pose(target)).distance
      const hit = shapecast(asked, target.shape, pose(target))
      if (hit?.startedInside === true) {
        assert.ok(Math.abs(hit.depth + apart(0)) < NEAR, `${hit.depth} deep, but ${-apart(0)} by the distance`)
        return
      }
      const until = hit === null ? 1 : hit.fraction
      for (let i = 1; i <= 30; i++) {
        const t = (i / 31) * until
        assert.ok(apart(t) > -NEAR, `${-apart(t)} deep at ${t}, before ${until}`)
      }
      tally.say(hit === null ? 'a miss' : 'the surface')
      if (hit !== null) assert.ok(Math.abs(apart(hit.fraction)) < 2 * NEAR, `${apart(hit.fraction)} apart at the hit`)
    }),
    cases(700),
  )
  tally.expect({ 'the surface': 0.4, 'a miss': 0.05 })
})

test('a bar that swings past a ball at less than a hair does not meet it', () => {
  const nowhere = { x: 0, y: 0, z: 0 }
  const swing = { from: nowhere, to: nowhere, turn: { x: 0, y: Math.PI, z: 0 } }
  const bars: [AskingShape3, number][] = [
    [capsule({ x: -2, y: 0, z: 0 }, { x: 2, y: 0, z: 0 }, 0.25), 2.25],
    [box(4, 0.5, 0.5), Math.hypot(2, 0.25)],
    [cylinder(0.5, 2), 2],
  ]
  for (const [shape, length] of bars) {
    for (const gap of [1e-2, 1e-4, 1e-6, 1e-7, -1e-7, -1e-4, -1e-2]) {
      const ball = { at: { x: 0, y: 0, z: -length - 0.5 - gap }, rotation: UPRIGHT }
      const hit = shapecast({ shape, ...swing }, sphere(0.5), ball)
      assert.equal(hit === null, gap > 0, `${shape.kind}, ${gap} beside: ${hit?.fraction}`)
    }
  }
})

test('what rolls along a floor is not held by it, however it turns', () => {
  const still = { at: { x: 0, y: 0, z: 0 }, rotation: UPRIGHT }
  const floors: Shape3[] = [
    halfspace({ x: 0, y: 1, z: 0 }, 0),
    heightfield({ columns: 20, rows: 20, heights: new Array(400).fill(0), cell: 1 }),
  ]
  const lying = rotationAbout({ x: 1, y: 0, z: 0 }, Math.PI / 2)
  const rollers: [AskingShape3, typeof UPRIGHT][] = [
    [sphere(0.5), UPRIGHT],
    [cylinder(1, 0.5), lying],
    [capsule({ x: 0, y: -1, z: 0 }, { x: 0, y: 1, z: 0 }, 0.5), lying],
  ]
  for (const floor of floors) {
    for (const [shape, rotation] of rollers) {
      const roll = { shape, rotation, turn: { x: 0, y: 0, z: -16 } }
      // Lying, it is turned by a quarter that is rounded.
      const y = rotation === lying ? 0.5 + 1e-12 : 0.5
      const along = shapecast({ ...roll, from: { x: -4, y, z: 0.3 }, to: { x: 4, y, z: 0.3 } }, floor, still)
      assert.equal(along, null, `${shape.kind} on a ${floor.kind}: ${along?.fraction}`)
      const down = shapecast({ ...roll, from: { x: -4, y: 0.7, z: 0.3 }, to: { x: 4, y: 0.3, z: 0.3 } }, floor, still)
      assert.ok(Math.abs(down!.fraction - 0.5) < 1e-9, `${shape.kind} on a ${floor.kind}: ${down?.fraction}`)
      assert.ok(down!.normal.y > 1 - 1e-9, `${shape.kind}: ${JSON.stringify(down?.normal)}`)
    }
  }
})

test('a cast in a world meets what it meets of each shape alone, turning or not', () => {
  fc.assert(
    fc.property(fc.array(placedAny(4), { minLength: 1, maxLength: 5 }), motion, (placed, asked) => {
      const world = worldOf(placed)
      const alone = placed
        .map((each, index) => ({ index, hit: shapecast(asked, each.shape, pose(each)) }))
        .filter((each) => each.hit !== null)
      const all = world.shapecast.all(asked)
      assert.deepEqual(all.map(({ body }) => body.name).sort(), alone.map(({ index }) => `${index}`).sort())
      for (const hit of all) {
        const { hit: same } = alone.find(({ index }) => `${index}` === hit.body.name)!
        assert.equal(hit.fraction, same!.fraction)
        assert.equal(hit.startedInside, same!.startedInside)
        assert.equal(hit.depth, same!.depth)
      }
      assert.ok(
        all.every((hit, i) => i === 0 || all[i - 1].fraction <= hit.fraction),
        'sorted along the way',
      )
      const first = world.shapecast.first(asked)
      assert.equal(first?.body.name, all[0]?.body.name)
      assert.equal(world.shapecast.any(asked), all.length > 0)
    }),
    cases(250),
  )
})

test('of shapes met at one place, first and all name the same, rays and turning casts', () => {
  const random = new Random(8)
  const world = createWorld({ layers })
  const add = (shape: Shape3, at: P): void => {
    world.add({ type: 'static', at, colliders: [{ shape, layer: 'rock' }] })
  }
  add(halfspace({ x: 0, y: 1, z: 0 }, 0), { x: 0, y: 0, z: 0 })
  add(heightfield({ columns: 4, rows: 4, heights: new Array(16).fill(0), cell: 3 }), { x: 0, y: 0, z: 0 })
  add(halfspace({ x: 1e-17, y: 3, z: 0 }, 0), { x: 0, y: 0, z: 0 })
  add(box(9, 2, 9), { x: 0, y: -1, z: 0 })
  const place = (y: number): P => ({ x: random.between(-4, 4), y, z: random.between(-4, 4) })
  for (let i = 0; i < 2000; i++) {
    const way = { from: place(random.between(0.5, 3)), to: place(random.between(-3, -0.5)) }
    const rays = world.raycast.all(way)
    const ray = world.raycast.first(way)
    assert.ok(rays.length === 4 && ray !== null)
    assert.ok(ray.body === rays[0].body && ray.fraction === rays[0].fraction, `ray ${i}: ${ray.fraction}`)
    if (i % 10 !== 0) continue
    const cast = { shape: box(0.25, 0.25, 0.25), ...way, turn: place(1) }
    const casts = world.shapecast.all(cast)
    const first = world.shapecast.first(cast)
    assert.ok(casts.length > 0 && first !== null)
    assert.ok(first.body === casts[0].body && first.fraction === casts[0].fraction, `cast ${i}: ${first.fraction}`)
  }
})

test('overlap and nearest agree with the distance to each shape', () => {
  fc.assert(
    fc.property(scene, askingShape, point(4), rotation, (placed, shape, at, turn) => {
      const world = worldOf(placed)
      const apart = placed.map((each) => distance(shape, { at, rotation: turn }, each.shape, pose(each)).distance)
      const names = (list: readonly { body: { name: string | null } }[]): number[] =>
        list.map(({ body }) => Number(body.name))
      const met = names(world.overlap.all({ shape, at, rotation: turn }))
      apart.forEach((gap, index) => {
        if (Math.abs(gap) > 1e-9) assert.equal(met.includes(index), gap < 0, `${index} is ${gap} apart`)
      })
      assert.ok(
        met.every((each, i) => i === 0 || met[i - 1] < each),
        'by age',
      )
      for (const hit of world.overlap.all({ shape, at, rotation: turn, depth: true })) {
        assert.ok(Math.abs(hit.depth + apart[Number(hit.body.name)]) < 1e-9, `${hit.depth} deep`)
      }
      assert.equal(world.overlap.any({ shape, at, rotation: turn }), met.length > 0)
      const near = world.nearest.all({ shape, at, rotation: turn, reach: 3 })
      near.forEach((hit, i) => {
        const gap = apart[Number(hit.body.name)]
        assert.ok(Math.abs(hit.distance - gap) < 1e-9, `${hit.distance} against ${gap}`)
        assert.ok(i === 0 || near[i - 1].distance <= hit.distance, 'nearest first')
      })
      assert.equal(near.length, apart.filter((gap) => gap <= 3).length)
      const first = world.nearest.first({ shape, at, rotation: turn })
      assert.ok(Math.abs(first!.distance - Math.min(...apart)) < 1e-9, 'the nearest of all')
    }),
    cases(250),
  )
})

test('a cast over ten kilometres never misses a wall of a centimetre', () => {
  const random = (seed: number): number => Math.abs(Math.sin(seed * 12.9898) * 43758.5453) % 1
  const shapes: AskingShape3[] = [
    sphere(0.01),
    box(0.02, 0.02, 0.02),
    capsule({ x: 0, y: -1, z: 0 }, { x: 0, y: 1, z: 0 }, 0.1),
    cone(0.1, 0.1),
  ]
  for (let i = 0; i < 400; i++) {
    const wall = {
      at: { x: 1e4 * random(i), y: 0, z: 0 },
      rotation: rotationAbout({ x: 0, y: 1, z: 1 }, random(i + 0.5)),
    }
    const asked = {
      shape: shapes[i % 4],
      from: { x: -10, y: 0.3, z: 0.1 },
      to: { x: 1e4 + 10, y: random(i + 0.2), z: 0 },
    }
    const hit = shapecast(asked, box(0.01, 60, 60), wall)
    assert.ok(hit !== null && !hit.startedInside, `shot ${i} went through`)
    const thin = shapecast(asked, mesh({ positions: [0, -50, -50, 0, -50, 50, 0, 50, 0] }), wall)
    assert.ok(thin !== null, `shot ${i} went through a triangle`)
    assert.ok(Math.abs(thin.fraction - hit.fraction) < 1e-4, 'both at the same place')
  }
})

test('the edges of meaning: on the surface, along it, no motion, inside', () => {
  const still = { at: { x: 0, y: 0, z: 0 }, rotation: UPRIGHT }
  const solids: Shape3[] = [
    box(2, 2, 2),
    cylinder(2, 1),
    hull([-1, 1].flatMap((x) => [-1, 1].flatMap((y) => [-1, 1].map((z) => ({ x, y, z }))))),
    capsule({ x: -1, y: 0, z: 0 }, { x: 1, y: 0, z: 0 }, 1),
    sphere(1),
    halfspace({ x: 0, y: 1, z: 0 }, 1),
  ]
  for (const shape of solids) {
    const on = { x: 0, y: 1, z: 0 }
    const ray = (from: P, to: P): ReturnType<typeof raycast> => raycast(shape, still, { from, to })
    const into = ray(on, { x: 0, y: -3, z: 0 })
    assert.equal(into?.fraction, 0, `${shape.kind}: a start on the surface and in is a hit at 0`)
    assert.equal(into?.startedInside, false, shape.kind)
    assert.deepEqual(into?.normal, { x: 0, y: 1, z: 0 }, shape.kind)
    assert.equal(ray(on, { x: 0, y: 3, z: 0 }), null, `${shape.kind}: off the surface is none`)
    assert.equal(ray(on, { x: 5, y: 1, z: 0 }), null, `${shape.kind}: along the surface is none`)
    const within = ray({ x: 0, y: 0.5, z: 0 }, { x: 0, y: 4, z: 0 })
    assert.equal(within?.fraction, 0, shape.kind)
    assert.equal(within?.startedInside, true, shape.kind)
    assert.deepEqual(within?.normal, { x: 0, y: -1, z: 0 }, `${shape.kind}: against the motion`)
    assert.equal(ray(on, on)?.startedInside, false, `${shape.kind}: a point on it is met`)
    assert.equal(ray({ x: 0, y: 0.5, z: 0 }, { x: 0, y: 0.5, z: 0 })?.startedInside, true, shape.kind)
    assert.equal(ray({ x: 0, y: 1.5, z: 0 }, { x: 0, y: 1.5, z: 0 }), null, shape.kind)
    // The same for a shape that lies on it.
    const cast = (from: P, to: P): ReturnType<typeof shapecast> =>
      shapecast({ shape: box(0.5, 0.5, 0.5), from, to }, shape, still)
    const resting = { x: 0, y: 1.25, z: 0 }
    assert.equal(cast(resting, { x: 0, y: 0, z: 0 })?.fraction, 0, `${shape.kind}: pressed down it is met at 0`)
    assert.equal(cast(resting, { x: 0, y: 3, z: 0 }), null, `${shape.kind}: lifted it is free`)
    assert.equal(cast(resting, { x: 3, y: 1.25, z: 0 }), null, `${shape.kind}: slid along it is free`)
    assert.equal(cast(resting, resting)?.startedInside, false, shape.kind)
    const inside = cast({ x: 0, y: 1, z: 0 }, { x: 0, y: 5, z: 0 })
    assert.equal(inside?.startedInside, true, shape.kind)
    assert.ok(Math.abs(inside!.depth - 0.25) < 1e-12, `${shape.kind}: ${inside!.depth} deep`)
    assert.ok(Math.abs(inside!.normal.y - 1) < 1e-12, shape.kind)
  }
})

test('a ray that leads off an axis by less than can be squared runs along it', () => {
  const solids: Shape3[] = [
    cylinder(4, 0.02),
    cylinder(4, 0.5),
    capsule({ x: 0, y: -1.5, z: 0 }, { x: 0, y: 1.5, z: 0 }, 0.5),
    cone(4, 0.5),
    box(1, 4, 1),
  ]
  for (const shape of solids) {
    for (const beside of [0, -2.5e-22, 1e-9]) {
      const still = { at: { x: 0, y: 0, z: beside }, rotation: UPRIGHT }
      for (const off of [0, 1e-30, 1e-120, 1e-155, 3e-162, 9e-162, -1e-170, 5e-324]) {
        const what = `${shape.kind} ${beside} beside, ${off} off`
        const down = raycast(shape, still, { from: { x: off, y: 6, z: 0 }, to: { x: 0, y: -6, z: -off } })
        assert.ok(down !== null && Math.abs(down.fraction - 1 / 3) < 1e-8, `${what}: ${down?.fraction}`)
        assert.ok(down.normal.y > 0.1, `${what}: ${JSON.stringify(down.normal)}`)
        const within = raycast(shape, still, { from: { x: off, y: 0, z: 0 }, to: { x: 0, y: 5.5, z: off } })
        assert.equal(within?.startedInside, true, `${what}: starts inside`)
      }
    }
  }
})

test('what slides over a floor of triangles is not held by its seams', () => {
  const columns = 30
  const floor = heightfield({ columns, rows: columns, heights: new Array(columns * columns).fill(0), cell: 1 })
  const still = { at: { x: 0, y: 0, z: 0 }, rotation: UPRIGHT }
  const shapes: AskingShape3[] = [
    box(1, 1, 1),
    sphere(0.5),
    cylinder(1, 0.5),
    capsule({ x: 0, y: -0.2, z: 0 }, { x: 0, y: 0.2, z: 0 }, 0.3),
  ]
  for (const shape of shapes) {
    for (const [x, z] of [
      [10, 0],
      [9.3, 4.1],
      [-7.7, 9.1],
      [0, -8.25],
    ]) {
      const asked = { shape, from: { x: 0.13, y: 0.5, z: 0.21 }, to: { x, y: 0.5, z } }
      assert.equal(shapecast(asked, floor, still), null, `${shape.kind} towards ${x}, ${z}`)
      // A little down: met as the plane would be.
      const down = shapecast({ ...asked, from: { x: 0.13, y: 0.7, z: 0.21 }, to: { x, y: 0.3, z } }, floor, still)
      assert.ok(Math.abs(down!.fraction - 0.5) < 1e-9, `${shape.kind}: ${down?.fraction}`)
      assert.ok(
        Math.abs(down!.normal.y - 1) < 1e-9,
        `${shape.kind}: the normal ${JSON.stringify(down!.normal)} is the floor's`,
      )
    }
  }
})

test('what slides over a floor of boxes is not held by its seams, and runs into what stands out', () => {
  const world = createWorld({ layers })
  for (let x = -5; x < 5; x++) {
    for (let z = -2; z < 2; z++) {
      world.add({
        type: 'static',
        at: { x: x + 0.5, y: -0.5, z: z + 0.5 },
        colliders: [{ shape: box(1, 1, 1), layer: 'rock' }],
      })
    }
  }
  const step = world.add({
    type: 'static',
    at: { x: 3, y: -0.495, z: 0 },
    colliders: [{ shape: box(1, 1, 4), layer: 'rock' }],
  })
  const shapes: AskingShape3[] = [
    sphere(0.5),
    box(1, 1, 1),
    box(1, 1, 1, { radius: 0.125 }),
    cylinder(1, 0.5),
    capsule({ x: -0.25, y: 0, z: 0 }, { x: 0.25, y: 0, z: 0 }, 0.5),
  ]
  for (const shape of shapes) {
    for (const y of [0.5, 0.5 + 1e-14, 0.5 + 1e-9]) {
      for (const [from, to] of [
        [0.3, 0.3],
        [0, 0],
        [-1.2, 1.1],
      ]) {
        const motion = { shape, from: { x: -4.05, y, z: from }, to: { x: 1.5, y, z: to } }
        const held = world.shapecast.first(motion)
        assert.equal(held?.fraction, undefined, `a ${shape.kind} at ${y} is held`)
        // A step of five millimetres is one.
        const further = world.shapecast.first({ ...motion, to: { x: 3, y, z: to } })
        assert.ok(further?.body === step && further.normal.x < -0.1, `a ${shape.kind} at ${y} passes the step`)
      }
    }
  }
})

test('the filter: layers, sensors, except, where, as, inside', () => {
  const world = createWorld({ layers })
  const make = (layer: 'rock' | 'craft' | 'zone', x: number): ReturnType<typeof world.add> =>
    world.add({
      type: layer === 'rock' ? 'static' : 'kinematic',
      at: { x, y: 0, z: 0 },
      colliders: [{ shape: sphere(1), layer }],
    })
  const craft = make('craft', 3)
  const zone = world.add({
    type: 'static',
    at: { x: 6, y: 0, z: 0 },
    colliders: [{ shape: box(1, 1, 1), layer: 'zone', sensor: true }],
  })
  const rock = make('rock', 9)
  const ray = { from: { x: 0, y: 0, z: 0 }, direction: { x: 2, y: 0, z: 0 }, reach: 20 }
  const names = (filter?: Parameters<typeof world.raycast.all>[1]): unknown[] =>
    world.raycast.all(ray, filter).map(({ body }) => body)
  assert.deepEqual(names(), [craft, rock])
  assert.deepEqual(names({ sensors: true }), [craft, zone, rock])
  assert.deepEqual(names({ sensors: 'only' }), [zone])
  assert.deepEqual(names({ layers: 'rock' }), [rock])
  assert.deepEqual(names({ layers: [] }), [])
  assert.deepEqual(names({ except: craft }), [rock])
  assert.deepEqual(names({ where: (collider) => collider.body !== rock }), [craft])
  assert.deepEqual(names({ as: 'craft', response: 'sense' }), [zone])
  assert.deepEqual(names({ as: craft.colliders[0], response: 'any' }), [zone, rock])
  const from = { from: { x: 3, y: 0, z: 0 }, to: { x: 20, y: 0, z: 0 } }
  assert.equal(world.raycast.first(from)?.startedInside, true)
  assert.equal(world.raycast.first(from, { inside: 'skip' })?.body, rock)
  craft.enabled = false
  assert.deepEqual(names(), [rock])
})

test('a world: moving, turning, reshaping, removing, overlapping', () => {
  const world = createWorld({ layers, rate: 10 })
  const rock = world.add({ type: 'static', colliders: [{ shape: box(2, 2, 2), layer: 'rock' }], name: 'rock' })
  const craft = world.add({
    type: 'kinematic',
    at: { x: -5, y: 0, z: 0 },
    velocity: { x: 10, y: 0, z: 0 },
    colliders: [{ shape: capsule({ x: 0, y: -2, z: 0 }, { x: 0, y: 2, z: 0 }, 0.5), layer: 'craft' }],
  })
  const down = { from: { x: -4, y: 9, z: 0 }, to: { x: -4, y: -9, z: 0 } }
  assert.equal(world.raycast.first(down), null)
  world.step()
  assert.deepEqual(craft.at, { x: -4, y: 0, z: 0 })
  assert.ok(Math.abs(world.raycast.first(down)!.point.y - 2.5) < 1e-12, 'the query sees it where it is')
  assert.deepEqual(craft.overlapping(), [])
  craft.velocity = { x: 0, y: 0, z: 0 }
  craft.spin = { x: 0, y: 0, z: (Math.PI / 2) * 10 }
  world.step()
  assert.ok(Math.abs(craft.rotation.z - Math.SQRT1_2) < 1e-12, 'a quarter turn')
  assert.ok(Math.abs(world.raycast.first(down)!.point.y - 0.5) < 1e-12, 'it lies across now')
  const half = craft.poseAt(0.5, { at: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } })
  assert.ok(Math.abs(half.rotation.z - Math.sin(Math.PI / 8)) < 1e-12, 'half way between the ticks')
  craft.spin = { x: 0, y: 0, z: 0 }
  const pose = { at: { x: -3, y: 0.25, z: 0 }, rotation: rotationAbout({ x: 0, y: 1, z: 0 }, 0.3) }
  craft.arriveAt(pose)
  world.step()
  assert.deepEqual(craft.at, pose.at)
  assert.deepEqual(craft.rotation, pose.rotation, 'to the bit')
  craft.teleport({ x: 0, y: 1, z: 0 })
  assert.deepEqual(
    craft.overlapping().map(({ body, response }) => [body, response]),
    [[rock, 'solid']],
  )
  const [shell] = rock.colliders
  shell.shape = mesh({ positions: [-1, -1, -1, 1, -1, -1, 0, -1, 1] })
  assert.equal(craft.overlapping().length, 1, 'its foot reaches the triangle')
  craft.teleport({ x: 0, y: 9, z: 0 })
  assert.equal(craft.overlapping().length, 0)
  rock.remove()
  assert.equal(world.raycast.first({ from: { x: 0, y: 0, z: 0 }, to: { x: 0, y: -5, z: 0 } }), null)
  assert.equal(rock.alive, false)
  throwsKeen('dead-handle', /removed/, () => rock.overlapping())
  throwsKeen('bad-argument', /rotation/, () =>
    craft.teleport({ at: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 0 } }),
  )
  throwsKeen('bad-argument', /no field "angle"/, () => world.add({ type: 'static', angle: 1 } as never))
})

test('two surfaces overlap where their triangles cross', () => {
  const world = createWorld({ layers })
  const net = (size: number): Shape3 => heightfield({ columns: 8, rows: 8, heights: new Array(64).fill(0), cell: size })
  world.add({ type: 'static', colliders: [{ shape: net(1), layer: 'rock' }] })
  const sail = world.add({
    type: 'kinematic',
    at: { x: 0.2, y: 3, z: 0.1 },
    rotation: rotationAbout({ x: 1, y: 0, z: 0 }, 1),
    colliders: [{ shape: net(0.5), layer: 'craft' }],
  })
  assert.equal(sail.overlapping().length, 0)
  sail.teleport({ x: 0.2, y: 1, z: 0.1 })
  assert.equal(sail.overlapping().length, 1)
  assert.equal(overlaps(net(1), { at: { x: 0, y: 0, z: 0 }, rotation: UPRIGHT }, net(0.5), sail.pose), true)
})

test('hits can be written into, and the child of a compound is told', () => {
  const world = createWorld({ layers })
  const shape = compound([{ shape: sphere(1) }, { shape: box(1, 1, 1), at: { x: 4, y: 0, z: 0 } }])
  world.add({ type: 'static', colliders: [{ shape, layer: 'rock' }] })
  const hit = rayHit()
  assert.equal(
    world.raycast.first({ from: { x: 4, y: 5, z: 0 }, to: { x: 4, y: 0, z: 0 } }, undefined, hit as never),
    hit,
  )
  assert.equal(hit.child, 1)
  assert.equal(hit.part, -1)
  const cast = castHit()
  const moving = { shape: sphere(0.5), from: { x: 0, y: 5, z: 0 }, to: { x: 0, y: 0, z: 0 } }
  assert.equal(world.shapecast.first(moving, undefined, cast as never), cast)
  assert.equal(cast.child, 0)
  const over = overlapHit()
  world.overlap.first({ shape: sphere(0.1), at: { x: 4, y: 0, z: 0 } }, undefined, over as never)
  assert.equal(over.child, 1)
  const near = nearestHit()
  world.nearest.first({ point: { x: 4, y: 3, z: 0 } }, undefined, near as never)
  assert.equal(near.distance, 2.5)
  assert.equal(near.child, 1)
})

test('what cannot ask is refused', () => {
  const world = createWorld({ layers })
  const flat = mesh({ positions: [0, 0, 0, 1, 0, 0, 0, 0, 1] })
  const at = { x: 0, y: 0, z: 0 }
  throwsKeen('bad-shape', /cannot be a mesh/, () => world.overlap.all({ shape: flat as never, at }))
  throwsKeen('bad-shape', /cannot be a compound that holds a surface/, () =>
    world.overlap.all({ shape: compound([{ shape: flat }]) as never, at }),
  )
  throwsKeen('bad-shape', /cannot be a halfspace/, () =>
    world.shapecast.all({ shape: halfspace({ x: 0, y: 1, z: 0 }, 0) as never, from: at, to: at }),
  )
  throwsKeen('bad-argument', /\{ x, y, z \}/, () => world.raycast.any({ from: { x: 0, y: 0 } as never, to: at }))
  throwsKeen('bad-number', /'z' of 'from'/, () => world.raycast.any({ from: { x: 0, y: 0, z: Number.NaN }, to: at }))
})
