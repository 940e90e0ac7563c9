/** Travel in 3D, where it is more than that of 2D: creases, corners, meshes, turning platforms. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  box,
  capsule,
  createWorld,
  defineLayers,
  distance,
  heightfield,
  mesh,
  rotationAbout,
  sphere,
  travelResult,
  type Vec3,
} from '../../src/3d/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft'], { otherwise: 'solid' })
const diver = { shape: capsule({ x: 0, y: -0.5, z: 0 }, { x: 0, y: 0.5, z: 0 }, 0.4), layer: 'craft' } as const
const walk = { onHit: 'slide', up: { x: 0, y: 1, z: 0 }, stepHeight: 0.3, snap: 0.3 } as const
/** Where the feet of a diver that stands on a floor at 0 are from its origin. */
const STANDING = 0.9
/** Metres that are no more than rounding, among coordinates up to 60. */
const ROUNDING = 1e-12

function near(value: number, wanted: number, most: number, what = ''): void {
  assert.ok(Math.abs(value - wanted) <= most, `${what} ${value} is not ${wanted} within ${most}`)
}

function wallAt(world: ReturnType<typeof roomless>, x: number, z: number, angle: number) {
  return world.add({
    type: 'static',
    at: { x, y: 0, z },
    rotation: rotationAbout({ x: 0, y: 1, z: 0 }, angle),
    colliders: [{ shape: box(1, 20, 40), layer: 'rock' }],
  })
}

function roomless() {
  return createWorld({ layers })
}

test('along the crease of two walls it goes, in the corner of three it stops, and neither trembles', () => {
  const world = roomless()
  // Two walls that meet in an upright crease, and a ceiling.
  wallAt(world, 5, 0, 0.6)
  wallAt(world, 5, 0, -0.6)
  world.add({ type: 'static', at: { x: 0, y: 9, z: 0 }, colliders: [{ shape: box(40, 2, 40), layer: 'rock' }] })
  const ball = world.add({
    type: 'kinematic',
    at: { x: 0, y: 0, z: 0.2 },
    colliders: [{ shape: sphere(0.5), layer: 'craft' }],
  })
  const into = ball.travel({ x: 9, y: 3, z: 0 }, { onHit: 'slide' })
  assert.ok(into.hits.length <= 3, `it takes ${into.hits.length} hits to the crease`)
  near(into.moved.y, 3, 1e-9, 'along the crease nothing is lost')
  const before = ball.at
  for (let i = 0; i < 50; i++) {
    const { moved, hits } = ball.travel({ x: 0.1, y: 0.02, z: 0.001 }, { onHit: 'slide' })
    near(moved.y, 0.02, 1e-9, 'up the crease')
    assert.ok(hits.length <= 3)
  }
  near(ball.at.x, before.x, 1e-9)
  near(ball.at.z, before.z, 1e-9)
  ball.travel({ x: 9, y: 9, z: 0 }, { onHit: 'slide', maxHits: 20 })
  const corner = ball.at
  near(corner.y, 7.5, 1e-9)
  for (let i = 0; i < 50; i++) {
    const { remainder } = ball.travel({ x: 0.3, y: 0.3, z: 0.01 }, { onHit: 'slide' })
    assert.deepEqual(remainder, { x: 0, y: 0, z: 0 })
  }
  assert.ok(Math.abs(ball.at.x - corner.x) + Math.abs(ball.at.y - corner.y) + Math.abs(ball.at.z - corner.z) < 1e-9)
  assert.deepEqual(ball.overlapping(), [])
})

test('in closed rooms of turned walls it bounces thousands of times and never leaves', () => {
  const world = roomless()
  const normals: Vec3[] = []
  for (let i = 0; i < 14; i++) {
    // Directions spread over a sphere: of each a wall with its face at 4.
    const y = 1 - (2 * i + 1) / 14
    const r = Math.sqrt(1 - y * y)
    const angle = i * 2.39996
    const n = { x: r * Math.cos(angle), y, z: r * Math.sin(angle) }
    normals.push(n)
    // The turn that brings z to the normal.
    const rotation = rotationAbout({ x: -n.y, y: n.x, z: 0 }, Math.acos(n.z))
    world.add({
      type: 'static',
      at: { x: 4.5 * n.x, y: 4.5 * n.y, z: 4.5 * n.z },
      rotation,
      colliders: [{ shape: box(14, 14, 1), layer: 'rock' }],
    })
  }
  for (const shape of [sphere(0.4), box(0.5, 0.6, 0.4)]) {
    const body = world.add({
      type: 'kinematic',
      at: { x: 0.1, y: 0.2, z: -0.1 },
      colliders: [{ shape, layer: 'craft' }],
    })
    let heading = { x: 0.48, y: 0.6, z: 0.64 }
    const out = travelResult()
    const far = 10_000 / 60
    let [hits, way, travels] = [0, 0, 0]
    while (hits < 5000) {
      const by = { x: heading.x * far, y: heading.y * far, z: heading.z * far }
      const from = body.at
      const result = body.travel(by, { onHit: 'bounce', maxHits: 1000, out })
      const points = [from, ...result.hits.map((hit) => hit.at), body.at]
      for (let i = 1; i < points.length; i++) {
        way += Math.hypot(points[i].x - points[i - 1].x, points[i].y - points[i - 1].y, points[i].z - points[i - 1].z)
      }
      hits += result.hits.length
      travels++
      heading = { ...result.heading }
      for (const n of normals) {
        assert.ok(n.x * body.at.x + n.y * body.at.y + n.z * body.at.z < 4 - 0.15, `it is out after ${hits}`)
      }
    }
    near(way / (travels * far), 1, 1e-9, 'the way')
    body.remove()
  }
})

test('over a mesh and a heightfield it slides and walks as over one piece', () => {
  const cells = 40
  const positions: number[] = []
  const indices: number[] = []
  for (let z = 0; z <= cells; z++) for (let x = 0; x <= cells; x++) positions.push(x - 5, 0, z - 5)
  for (let z = 0; z < cells; z++) {
    for (let x = 0; x < cells; x++) {
      const at = z * (cells + 1) + x
      indices.push(at, at + cells + 1, at + 1, at + 1, at + cells + 1, at + cells + 2)
    }
  }
  const flat = mesh({ positions, indices })
  for (const shape of [sphere(0.5), box(1, 1, 1)]) {
    const world = roomless()
    world.add({ type: 'static', colliders: [{ shape: flat, layer: 'rock' }] })
    const body = world.add({
      type: 'kinematic',
      at: { x: 0.3, y: 0.8, z: 0.2 },
      colliders: [{ shape, layer: 'craft' }],
    })
    body.travel({ x: 0, y: -1, z: 0 }, { onHit: 'slide' })
    const height = body.at.y
    const result = body.travel({ x: 20, y: -0.5, z: 13 }, { onHit: 'slide' })
    near(result.moved.x, 20, 1e-7, 'along')
    near(result.moved.z, 13, 1e-7, 'across')
    near(body.at.y, height, 1e-9, 'its height')
  }
  const heights = Array.from(
    { length: 31 * 31 },
    (_, i) => 0.6 * Math.sin((i % 31) / 3) * Math.cos(Math.floor(i / 31) / 4),
  )
  const dunes = heightfield({ columns: 31, rows: 31, heights, cell: 1 })
  const world = roomless()
  world.add({ type: 'static', colliders: [{ shape: dunes, layer: 'rock' }] })
  const body = world.add({ type: 'kinematic', at: { x: -10, y: 4, z: -8 }, colliders: [diver] })
  body.travel({ x: 0, y: -9, z: 0 }, walk)
  let stood = 0
  for (let i = 0; i < 300; i++) {
    const { ground } = body.travel({ x: 0.06, y: 0, z: 0.04 }, walk)
    if (ground !== null) stood++
    assert.deepEqual(body.overlapping(), [])
  }
  assert.equal(stood, 300, 'it stands all the way')
  near(body.at.x, 8, 1e-6, 'and the dunes cost nothing of its way')
  near(body.at.z, 4, 1e-6)
})

test('what stands on a turning platform goes and turns with it', () => {
  const world = roomless()
  const table = world.add({
    type: 'kinematic',
    at: { x: 0, y: -0.5, z: 0 },
    spin: { x: 0, y: 1, z: 0 },
    colliders: [{ shape: box(12, 1, 12), layer: 'rock' }],
  })
  const body = world.add({ type: 'kinematic', at: { x: 3, y: STANDING, z: 0 }, colliders: [diver] })
  body.travel({ x: 0, y: -0.01, z: 0 }, { ...walk, ride: true })
  for (let i = 0; i < 60; i++) {
    world.step()
    body.travel({ x: 0, y: 0, z: 0 }, { ...walk, ride: true })
  }
  // A radian about y: from x towards -z.
  near(body.at.x, 3 * Math.cos(1), 1e-6)
  near(body.at.z, -3 * Math.sin(1), 1e-6)
  near(body.rotation.y, table.rotation.y, 1e-9)
  near(body.rotation.w, table.rotation.w, 1e-9)
  near(body.spin.y, 1, 1e-6, 'its spin is what it did')
})

test('stairs, up and down, round and square, straight and aslant', () => {
  for (const collider of [diver, { shape: box(0.7, 1.8, 0.7), layer: 'craft' } as const]) {
    for (const aslant of [0, 0.03]) {
      const world = roomless()
      world.add({ type: 'static', at: { x: 0, y: -0.5, z: 0 }, colliders: [{ shape: box(40, 1, 40), layer: 'rock' }] })
      for (let i = 0; i < 10; i++) {
        const high = 0.25 * (i + 1)
        const at = { x: 3 + 0.5 * i + 5, y: high / 2, z: 0 }
        world.add({ type: 'static', at, colliders: [{ shape: box(10, high, 40), layer: 'rock' }] })
      }
      const body = world.add({ type: 'kinematic', at: { x: 0, y: STANDING, z: 0 }, colliders: [collider] })
      body.travel({ x: 0, y: -0.01, z: 0 }, walk)
      for (let i = 0; i < 90; i++) assert.notEqual(body.travel({ x: 0.1, y: 0, z: aslant }, walk).ground, null)
      near(body.at.x, 9, 1e-6, 'up')
      near(body.at.y, STANDING + 2.5, 1e-6)
      near(body.at.z, 90 * aslant, 1e-6)
      for (let i = 0; i < 90; i++) assert.notEqual(body.travel({ x: -0.1, y: 0, z: aslant }, walk).ground, null)
      near(body.at.x, 0, 1e-6, 'and down')
      near(body.at.y, STANDING, 1e-6)
    }
  }
})

test('along a wall on a floor it slides as fast as the wall lets it', () => {
  const world = roomless()
  world.add({ type: 'static', at: { x: 0, y: -0.5, z: 0 }, colliders: [{ shape: box(60, 1, 60), layer: 'rock' }] })
  wallAt(world, 4, 0, 0.4)
  const body = world.add({ type: 'kinematic', at: { x: 0, y: STANDING, z: 0 }, colliders: [diver] })
  for (let i = 0; i < 80; i++) body.travel({ x: 0.1, y: -0.1, z: 0 }, walk)
  const from = body.at
  for (let i = 0; i < 20; i++) body.travel({ x: 0.1, y: -0.1, z: 0 }, walk)
  const along = Math.hypot(body.at.x - from.x, body.at.z - from.z)
  near(along, 2 * Math.sin(0.4), 1e-9)
  near(body.at.y, STANDING, 1e-9)
})

test('through random rooms of tilted boxes it overlaps nothing and keeps still when told nothing', () => {
  let hits = 0
  fc.assert(
    fc.property(fc.integer(), (seed) => {
      const random = new Random(seed)
      const anywhere = (far: number): Vec3 => ({
        x: random.between(-far, far),
        y: random.between(-far, far),
        z: random.between(-far, far),
      })
      const world = roomless()
      const count = 4 + random.below(9)
      for (let i = 0; i < count; i++) {
        const size = random.between(-1, 1)
        world.add({
          type: 'static',
          at: anywhere(4),
          rotation: rotationAbout({ ...anywhere(1), z: 1 }, random.chance(0.3) ? 0 : 3 * size),
          colliders: [{ shape: size > 0.3 ? sphere(0.5 + size) : box(1.5 + size, 2, 1.5 - size / 2), layer: 'rock' }],
        })
      }
      const shape = random.pick([diver.shape, box(0.7, 1, 0.5), sphere(0.5)])
      const body = world.add({ type: 'kinematic', at: anywhere(0.5), colliders: [{ shape, layer: 'craft' }] })
      body.travel({ x: 0, y: 0, z: 0 })
      if (body.overlapping().length > 0) return
      for (let i = 0; i < 8; i++) {
        const by = anywhere(random.pick([1e-12, 0.1, 3, 3, 60]))
        const options = random.pick([{ onHit: 'slide' }, { onHit: 'bounce' }, walk] as const)
        hits += body.travel(by, options).hits.length
        const told = JSON.stringify({ by, options })
        // Pinched between two boxes, or told to go a picometre, it may be in one of them by rounding: a room in ten thousand.
        for (const { other } of body.overlapping()) {
          const deep = distance(other.shape, other.body, shape, body).distance
          assert.ok(deep > -ROUNDING, `${told}: ${deep}`)
        }
        const { x, y, z } = body.at
        if (options !== walk) body.travel({ x: 0, y: 0, z: 0 }, options)
        near(body.at.x, x, ROUNDING, told)
        near(body.at.y, y, ROUNDING, told)
        near(body.at.z, z, ROUNDING, told)
      }
    }),
    { numRuns: runs(400) },
  )
  assert.ok(hits > 120, `too few hits: ${hits}`)
})

test('a body with a mesh has no way', () => {
  const world = roomless()
  const shape = mesh({ positions: [0, 0, 0, 1, 0, 0, 0, 0, 1], indices: [0, 1, 2] })
  const body = world.add({ type: 'kinematic', name: 'reef', colliders: [{ shape, layer: 'rock' }] })
  throwsKeen('bad-shape', /reef.*arriveAt/, () => body.travel({ x: 1, y: 0, z: 0 }))
})
