import assert from 'node:assert/strict'
import { test } from 'node:test'
import {
  type Body3,
  box,
  capsule,
  createWorld,
  cylinder,
  defineLayers,
  distance,
  heightfield,
  hull,
  mesh,
  rotationAbout,
  type Shape3,
  sphere,
} from '../../src/3d/index.ts'
import { runs } from '../helpers/arbitrary3.ts'
import { Random } from '../helpers/random.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], {
  pairs: [
    ['zone', '*', 'sense'],
    ['craft', 'craft', 'pass'],
  ],
})

test('a zone of 3D tells who comes and goes, and why', () => {
  const world = createWorld({ layers, rate: 10 })
  const zone = world.add({ type: 'static', name: 'zone', colliders: [{ shape: sphere(2), layer: 'zone' }] })
  const craft = world.add({
    type: 'kinematic',
    name: 'craft',
    at: { x: -4, y: 0.5, z: 0 },
    velocity: { x: 5, y: 0, z: 0 },
    colliders: [
      { shape: box(0.5, 0.5, 0.5), layer: 'craft' },
      { shape: sphere(0.25), layer: 'craft', at: { x: 0.4, y: 0, z: 0 } },
    ],
  })
  const told: string[] = []
  world.watch('craft', 'zone', {
    begin: (e) => told.push(`${e.tick} begin ${e.a} ${e.b} ${e.cause}`),
    end: (e) => told.push(`${e.tick} end ${e.cause}`),
  })
  for (let tick = 0; tick < 30; tick++) world.step()
  assert.deepEqual(told, ['3 begin craft zone moved', '13 end moved'])
  craft.teleport({ x: 0, y: 0, z: 0 })
  craft.velocity = { x: 0, y: 0, z: 0 }
  world.step()
  zone.enabled = false
  world.step()
  zone.enabled = true
  world.step()
  craft.remove()
  world.step()
  assert.deepEqual(told.slice(2), [
    '31 begin craft zone teleported',
    '32 end disabled',
    '33 begin craft zone enabled',
    '34 end removed',
  ])
})

test('what touches in 3D is told with the normal, and hooks can let it through', () => {
  const world = createWorld({ layers, rate: 10 })
  const floor = heightfield({ columns: 3, rows: 3, heights: new Array(9).fill(0), cell: 4 })
  world.add({ type: 'static', name: 'floor', colliders: [{ shape: floor, layer: 'rock' }] })
  const craft = world.add({
    type: 'kinematic',
    name: 'craft',
    at: { x: 0.3, y: 0.5, z: 0.2 },
    colliders: [{ shape: cylinder(1, 0.5), layer: 'craft' }],
  })
  const normals: unknown[] = []
  world.watch('craft', 'rock', {
    begin(e) {
      normals.push({ ...e.normal })
      assert.equal(e.points.length, 4, 'of the rim of its base, over all the triangles below')
      for (const point of e.points) assert.ok(Math.abs(point.y) < 1e-9, 'it touches at the floor')
    },
  })
  world.step()
  assert.deepEqual(normals, [{ x: 0, y: -1, z: 0 }])
  const [touch] = craft.touching()
  assert.deepEqual(touch.normal, { x: 0, y: 1, z: 0 })
  assert.equal(touch.body.name, 'floor')
  const hook = world.decide('craft', 'rock', () => 'pass')
  craft.teleport({ x: 0, y: 5, z: 0 })
  world.step()
  craft.teleport({ x: 0, y: 0.5, z: 0 })
  world.step()
  assert.equal(craft.touching().length, 0)
  assert.match(String(world.explain(craft, world.find('floor')!)), /decide/)
  hook.stop()
})

test('explain tells of a teleport over what it asks about, triangles included', () => {
  const world = createWorld({ layers, rate: 10 })
  const wall = heightfield({ columns: 2, rows: 2, heights: [0, 0, 0, 0], cell: 4 })
  world.add({ type: 'static', name: 'sheet', colliders: [{ shape: wall, layer: 'zone' }] })
  world.add({
    type: 'static',
    name: 'pool',
    at: { x: 9, y: 0, z: 0 },
    colliders: [{ shape: sphere(1), layer: 'zone' }],
  })
  const craft = world.add({
    type: 'kinematic',
    name: 'craft',
    at: { x: 0, y: 5, z: 0 },
    colliders: [{ shape: box(1, 1, 1), layer: 'craft' }],
  })
  world.watch('craft', 'zone')
  world.step()
  craft.teleport({ x: 0, y: -5, z: 0 })
  world.step()
  assert.match(String(world.explain(craft, world.find('sheet')!)), /before tick 2 craft was teleported over it/)
  assert.doesNotMatch(String(world.explain(craft, world.find('pool')!)), /teleported over/)
})

/** Shapes for bodies that move about. */
function shapeOf(random: Random): Shape3 {
  switch (random.below(6)) {
    case 0:
      return sphere(random.between(0.2, 1.5))
    case 1:
      return box(random.between(0.2, 2), random.between(0.2, 2), random.between(0.2, 2))
    case 2:
      return capsule({ x: 0, y: -1, z: 0 }, { x: 0, y: 1, z: 0.5 }, 0.4)
    case 3:
      return hull(Array.from({ length: 8 }, () => vec(random, 1)))
    case 4:
      return mesh({ positions: Array.from({ length: 27 }, () => random.between(-1.5, 1.5)) })
    default:
      return cylinder(random.between(0.2, 2), random.between(0.2, 1.5))
  }
}

const vec = (random: Random, reach: number): { x: number; y: number; z: number } => ({
  x: random.between(-reach, reach),
  y: random.between(-reach, reach),
  z: random.between(-reach, reach),
})

test('after every step a watch holds exactly those that overlap, and begins and ends come in turn', () => {
  const seed = 20261123
  for (let run = 0; run < runs(12); run++) {
    const random = new Random(seed + run)
    const world = createWorld({ layers })
    const bodies: Body3[] = []
    const make = (): void => {
      const still = random.chance(0.4)
      const turned = rotationAbout(vec(random, 1), random.between(-3, 3))
      const body = world.add({
        type: still ? 'static' : 'kinematic',
        at: vec(random, 4),
        rotation: turned,
        colliders: [
          { shape: shapeOf(random), layer: still || random.chance(0.3) ? 'zone' : 'craft', at: vec(random, 0.5) },
        ],
        ...(still ? {} : { velocity: vec(random, 6), spin: vec(random, 3) }),
      })
      bodies.push(body as never)
    }
    // From 65 newcomers on a tree is built in bulk.
    for (let i = 0; i < (run % 3 === 0 ? 90 : 12); i++) make()
    const open = new Set<string>()
    const key = (e: { a: unknown; b: unknown }): string =>
      [(e.a as Body3).serial, (e.b as Body3).serial].sort((p, q) => p - q).join(',')
    const watch = world.watch('*', 'zone', {
      begin(e) {
        assert.ok(!open.has(key(e)), `${key(e)} begins twice (seed ${seed + run})`)
        open.add(key(e))
      },
      end(e) {
        assert.ok(open.delete(key(e)), `${key(e)} ends without a begin (seed ${seed + run})`)
      },
    })
    for (let tick = 0; tick < 25; tick++) {
      const body = random.pick(bodies)
      const dice = random.next()
      if (dice < 0.1) {
        body.remove()
        bodies.splice(bodies.indexOf(body), 1)
        make()
      } else if (dice < 0.3) body.teleport({ at: vec(random, 4), rotation: rotationAbout(vec(random, 1), 2) })
      else if (dice < 0.4) body.colliders[0].shape = shapeOf(random)
      else if (dice < 0.5) body.enabled = !body.enabled
      world.step()
      const expected = new Set<string>()
      bodies.forEach((one, i) => {
        for (const other of bodies.slice(i + 1)) {
          if (!one.enabled || !other.enabled || (one.type === 'static' && other.type === 'static')) continue
          const [a, b] = [one.colliders[0], other.colliders[0]]
          if (a.layer !== 'zone' && b.layer !== 'zone') continue
          if (gapOf(one, other) <= 0) expected.add(key({ a: one, b: other }))
        }
      })
      for (const each of new Set([...expected, ...open])) {
        if (expected.has(each) === open.has(each)) continue
        const [p, q] = each.split(',').map((serial) => bodies.find((body) => body.serial === Number(serial))!)
        assert.ok(
          Math.abs(gapOf(p, q)) < 1e-9,
          `${each}: ${gapOf(p, q)} apart, told ${open.has(each)} (seed ${seed + run})`,
        )
      }
      assert.equal(watch.pairs().length, open.size)
    }
  }
})

/** The distance of two bodies of one collider each, by the plain function. */
function gapOf(one: Body3, other: Body3): number {
  const placed = (body: Body3): { at: Body3['at']; rotation: Body3['rotation'] } => {
    const [collider] = body.colliders
    const { x, y, z, w } = body.rotation
    const p = collider.at
    // The place of the collider, turned with its body.
    const t = { x: 2 * (y * p.z - z * p.y), y: 2 * (z * p.x - x * p.z), z: 2 * (x * p.y - y * p.x) }
    return {
      at: {
        x: body.at.x + p.x + w * t.x + (y * t.z - z * t.y),
        y: body.at.y + p.y + w * t.y + (z * t.x - x * t.z),
        z: body.at.z + p.z + w * t.z + (x * t.y - y * t.x),
      },
      rotation: body.rotation,
    }
  }
  return distance(one.colliders[0].shape, placed(one), other.colliders[0].shape, placed(other)).distance
}

test('two runs of the same give the same bits', () => {
  const play = (): unknown => {
    const random = new Random(3)
    const world = createWorld({ layers })
    const log: unknown[] = []
    world.watch('craft', 'zone', {
      begin: (e) => log.push([e.tick, e.a.serial, e.b.serial]),
      end: (e) => log.push(e.tick),
    })
    for (let i = 0; i < 40; i++) {
      const spec = { at: vec(random, 5), velocity: vec(random, 4), spin: vec(random, 2) }
      world.add({
        type: 'kinematic',
        ...spec,
        colliders: [{ shape: shapeOf(random), layer: i % 2 ? 'craft' : 'zone' }],
      })
    }
    for (let tick = 0; tick < 60; tick++) world.step()
    return [
      log,
      world.bodies().map((body) => body.pose),
      world.raycast.all({ from: vec(random, 6), to: vec(random, 6) }).length,
    ]
  }
  assert.deepEqual(play(), play())
})
