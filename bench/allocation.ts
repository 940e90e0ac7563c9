/**
 * Bytes allocated by a tick in its steady state and by a question, and bytes a body: `npm run bench:allocation`. The heap is read before and after many
 * ticks without a collection between; what a single reading costs is taken off by an empty loop of the same kind.
 */
import { readFileSync } from 'node:fs'
import { playScene, readScene } from '../scenes-package/src/scene/index.ts'
import { box, castHit, circle, createWorld, defineLayers, nearestHit, rayHit, rayResults } from '../src/2d/index.ts'
import * as three from '../src/3d/index.ts'

const collect = (globalThis as { gc?: () => void }).gc
if (collect === undefined) throw new Error('run it with node --expose-gc, as `npm run bench:allocation` does')

function bytesPer(calls: number, call: () => void): number {
  for (let i = 0; i < calls; i++) call()
  let least = Number.POSITIVE_INFINITY
  for (let round = 0; round < 7; round++) {
    collect!()
    const before = process.memoryUsage().heapUsed
    for (let i = 0; i < calls; i++) call()
    least = Math.min(least, process.memoryUsage().heapUsed - before)
  }
  return Math.max(0, least) / calls
}

/** The demo while the craft lies in the air pocket: nothing begins or ends, two watches hear `during`. */
function demo(): () => void {
  const scene = readScene(
    JSON.parse(readFileSync(new URL('../scenes/lantern-reef.json', import.meta.url), 'utf8')),
    '2d',
  )
  const player = playScene(scene)
  while (player.world.time < 9.6) player.step()
  // A sum in a plain variable of a closure would be boxed at every write: that would be the handler's own cost.
  const seconds = new Float64Array(2)
  player.world.watch('craft', 'zone', {
    during(event) {
      seconds[0] += event.dt
    },
  })
  player.world.watch(
    { tag: 'player' },
    '*',
    {
      during(event) {
        seconds[1] += event.dwell
      },
    },
    { per: 'collider' },
  )
  return () => player.world.step()
}

/** 200 movers that dwell in 20 zones and keep moving within them. */
function crowd(): () => void {
  const layers = defineLayers(['craft', 'zone'], {
    pairs: [
      ['zone', '*', 'sense'],
      ['craft', 'craft', 'pass'],
    ],
  })
  const world = createWorld({ layers })
  for (let i = 0; i < 20; i++)
    world.add({ type: 'static', at: { x: 100 * i, y: 0 }, colliders: [{ shape: box(80, 80), layer: 'zone' }] })
  const movers = Array.from({ length: 200 }, (_, i) =>
    world.add({
      type: 'kinematic',
      at: { x: 100 * (i % 20), y: (i % 7) - 3 },
      spin: 1,
      colliders: [{ shape: circle(0.5), layer: 'craft' }],
    }),
  )
  let sign = 1
  const velocity = { x: 0, y: 0 }
  let told = 0
  world.watch('craft', 'zone', { during: () => told++ })
  return () => {
    if (world.tick % 60 === 0) {
      sign = -sign
      velocity.x = 5 * sign
      for (const mover of movers) mover.velocity = velocity
    }
    world.step()
  }
}

/** A pyramid that is kept awake, with watches that hear of everything. */
function pile(): () => void {
  const world = createWorld({ layers: defineLayers(['rock', 'crate']) })
  world.add({ type: 'static', at: { x: 0, y: -1 }, colliders: [{ shape: box(100, 2), layer: 'rock' }] })
  for (let r = 0; r < 12; r++) {
    for (let i = 0; i < 12 - r; i++) {
      const at = { x: (i - (12 - r) / 2) * 1.05, y: 0.5 + r }
      world.add({ type: 'dynamic', sleeps: false, at, colliders: [{ shape: box(1, 1), layer: 'crate' }] })
    }
  }
  const sums = new Float64Array(1)
  const during = (e: { impulse: number }): void => {
    sums[0] += e.impulse
  }
  world.watch('crate', '*', { during, impact() {} }, { over: { impulse: 1e6 } })
  for (let i = 0; i < 240; i++) world.step()
  return () => world.step()
}

/** The same in 3D, on a heightfield, with a ball and a cylinder that roll beside it. */
function pile3(): () => void {
  const world = three.createWorld({ layers: defineLayers(['rock', 'crate']) })
  const field = three.heightfield({ columns: 41, rows: 5, heights: new Array(205).fill(0), cell: 2 })
  world.add({ type: 'static', colliders: [{ shape: field, layer: 'rock' }] })
  for (let r = 0; r < 12; r++) {
    for (let i = 0; i < 12 - r; i++) {
      const at = { x: (i - (12 - r) / 2) * 1.05, y: 0.5 + r, z: 0 }
      world.add({ type: 'dynamic', sleeps: false, at, colliders: [{ shape: three.box(1, 1, 1), layer: 'crate' }] })
    }
  }
  for (const [x, shape] of [
    [-12, three.sphere(0.5)],
    [12, three.cylinder(1, 0.5)],
  ] as const) {
    world.add({ type: 'dynamic', sleeps: false, at: { x, y: 0.5, z: 0 }, colliders: [{ shape, layer: 'crate' }] })
  }
  const sums = new Float64Array(1)
  const during = (e: { impulse: number }): void => {
    sums[0] += e.impulse
  }
  world.watch('crate', '*', { during, impact() {} }, { over: { impulse: 1e6 } })
  for (let i = 0; i < 3000; i++) world.step()
  return () => world.step()
}

/** A bin of hulls, capsules, balls and cylinders: every pair of shapes that press. */
function bin3(): () => void {
  const world = three.createWorld({ layers: defineLayers(['rock', 'crate']) })
  const add = (at: three.Vec3, shape: three.Shape3, type: 'static' | 'dynamic') =>
    world.add(
      type === 'static'
        ? { type, at, colliders: [{ shape, layer: 'rock' }] }
        : { type, at, sleeps: false, colliders: [{ shape, layer: 'crate' }] },
    )
  for (const side of [-3, 3]) {
    add({ x: side, y: 10, z: 0 }, three.box(1, 40, 7), 'static')
    add({ x: 0, y: 10, z: side }, three.box(7, 40, 1), 'static')
  }
  add({ x: 0, y: 0, z: 0 }, three.halfspace({ x: 0, y: 1, z: 0 }, 0), 'static')
  const corner = (i: number) => ({ x: (i & 1) * 0.6 - 0.3, y: (i & 2) * 0.25 - 0.25, z: (i & 4) * 0.1 - 0.2 })
  const shapes = [
    three.hull([...[0, 1, 2, 3, 4, 5, 6, 7].map(corner), { x: 0, y: 0.4, z: 0 }]),
    three.capsule({ x: -0.2, y: 0, z: 0 }, { x: 0.2, y: 0, z: 0 }, 0.2),
    three.sphere(0.3),
    three.cylinder(0.5, 0.3),
    three.box(0.5, 0.5, 0.5),
  ]
  for (let i = 0; i < 150; i++) {
    const at = { x: (i % 5) * 0.9 - 1.9, y: 0.5 + 0.8 * Math.floor(i / 25), z: (Math.floor(i / 5) % 5) * 0.9 - 1.9 }
    add(at, shapes[i % 5], 'dynamic')
  }
  for (let i = 0; i < 3000; i++) world.step()
  return () => world.step()
}

/** Bytes of the tables of a contact: of a pair with a contact of two points. */
function contactBytes(): string {
  const world = createWorld({ layers: defineLayers(['rock']) })
  const { contacts } = world.kernel.forces!.motion
  const of = (table: { bytes: number }, slots: number): number => table.bytes / slots
  const capacity = contacts.pair.data.length
  return `${of(contacts.table, capacity).toFixed(0)} bytes, and ${of(world.pairs.table, world.pairs.a.data.length).toFixed(0)} of its pair of colliders`
}

/** Questions with everything of the caller's: nothing is left to make. */
function questions(): [string, () => void][] {
  const layers = defineLayers(['rock', 'craft'])
  const world = createWorld({ layers })
  for (let i = 0; i < 1000; i++) {
    const at = { x: (i * 37) % 200, y: (i * 91) % 190 }
    world.add({ type: 'static', at, colliders: [{ shape: i % 2 === 0 ? circle(1) : box(2, 1), layer: 'rock' }] })
  }
  const ray = { from: { x: 0, y: 0 }, to: { x: 200, y: 190 } }
  const filter = { layers: 'rock' as const }
  const rays = Float64Array.from({ length: 400 }, (_, i) => (i * 53) % 190)
  const results = rayResults(100)
  const [onRay, onCast, near] = [rayHit(), castHit(), nearestHit()]
  const motion = { shape: circle(0.5), from: ray.from, to: ray.to }
  const point = { point: { x: 50.5, y: 51.5 } }
  return [
    ['raycast.batch, 100 rays', () => world.raycast.batch(rays, results, filter)],
    ['raycast.first with out', () => world.raycast.first(ray, filter, onRay as never)],
    ['shapecast.first with out', () => world.shapecast.first(motion, filter, onCast as never)],
    ['nearest.first with out', () => world.nearest.first(point, filter, near as never)],
  ]
}

/** Bytes of the tables, trees and handles of many bodies with one collider each. */
function footprint(count: number): string {
  const layers = defineLayers(['rock'])
  collect!()
  const before = process.memoryUsage()
  const world = createWorld({ layers })
  const shape = circle(0.5)
  for (let i = 0; i < count; i++) {
    world.add({ type: 'static', at: { x: i % 300, y: Math.floor(i / 300) }, colliders: [{ shape, layer: 'rock' }] })
  }
  world.step()
  collect!()
  const after = process.memoryUsage()
  const tables = (after.arrayBuffers - before.arrayBuffers) / count
  const handles = (after.heapUsed - before.heapUsed) / count
  return `${tables.toFixed(0)} bytes of tables and trees, ${handles.toFixed(0)} of handles (${world.stats.bodies} bodies)`
}

const calls = 2000
const empty = bytesPer(calls, () => {})
for (const [name, make] of [
  ['demo, craft at rest in the air pocket', demo],
  ['200 movers dwelling in 20 zones', crowd],
  ['pyramid of 78 boxes, awake, every contact watched', pile],
  ['the same in 3D, on a heightfield, with a ball and a cylinder', pile3],
  ['a bin of 150 hulls, capsules, balls, cylinders and boxes', bin3],
] as const) {
  // Few ticks of what is large: a collection on the way would hide what they make.
  const bytes = bytesPer(make === bin3 ? 200 : calls, make()) - empty
  process.stdout.write(`${name}: ${bytes.toFixed(1)} bytes a tick\n`)
}
for (const [name, call] of questions()) {
  process.stdout.write(`${name}: ${(bytesPer(calls, call) - empty).toFixed(1)} bytes a call\n`)
}
process.stdout.write(`a body with one collider: ${footprint(65_536)}\n`)
process.stdout.write(`a contact: ${contactBytes()}\n`)
