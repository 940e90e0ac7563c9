/** What a console and `JSON.stringify` make of handles: one line, and what a reader wants to know, in both dimensions. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { inspect } from 'node:util'
import * as flat from '../../src/2d/index.ts'
import * as solid from '../../src/3d/index.ts'

const layers = flat.defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

test('2d: a console shows one line of a world, a body, a collider, a watch, a hook and an event', () => {
  const world = flat.createWorld({ layers, tags: ['lamp'] })
  const body = world.add({
    type: 'dynamic',
    name: 'crate',
    at: { x: 1 / 3, y: 0 },
    colliders: [{ shape: flat.box(1, 1), layer: 'craft', tags: ['lamp'] }],
  })
  world.add({ type: 'static', colliders: [{ shape: flat.box(1, 1), layer: 'zone', sensor: true }] })
  const [collider] = body.colliders
  const watch = world.watch('craft', 'zone')
  const hook = world.decide('craft', 'zone', () => 'sense')
  world.step()
  const [event] = world.events()
  assert.equal(inspect(world), 'world at tick 1: bodies 2, colliders 2, watches 1')
  assert.match(inspect(body), /^crate: dynamic on craft at \(0\.333333, -0\.00\d+\)$/)
  assert.equal(inspect(collider), 'collider 0 of crate: on craft, tags lamp')
  assert.equal(inspect(world.bodies()[1]), 'body #2: static on zone at (0, 0)')
  assert.equal(inspect(world.bodies()[1].colliders[0]), 'collider 0 of body #2: sensor on zone')
  assert.equal(inspect(watch), 'watch craft:zone: meeting now 1')
  assert.equal(inspect(hook), 'hook craft:zone')
  assert.equal(inspect(event), 'begin of crate and body #2 (added) in tick 1, watch craft:zone')
  assert.deepEqual(JSON.parse(JSON.stringify(collider)), {
    body: 'crate',
    index: 0,
    layers: ['craft'],
    tags: ['lamp'],
    sensor: false,
    enabled: true,
  })
  assert.deepEqual(JSON.parse(JSON.stringify({ watch, hook })), {
    watch: { key: 'craft:zone', count: 1, stopped: false },
    hook: { key: 'craft:zone' },
  })
  const written = JSON.parse(JSON.stringify(event))
  assert.deepEqual([written.kind, written.a, written.b, written.watch], ['begin', 'crate', 'body #2', 'craft:zone'])
  const whole = JSON.parse(JSON.stringify(world))
  assert.deepEqual(
    [whole.stats.tick, whole.bodies.map(({ name }: { name: string | null }) => name)],
    [1, ['crate', null]],
  )
  body.enabled = false
  assert.match(inspect(body), /, disabled$/)
  watch.stop()
  assert.equal(inspect(watch), 'watch craft:zone: stopped')
  body.remove()
  assert.match(inspect(body), /^crate: dynamic on craft at \(0\.333333, -0\.00\d+\), removed$/)
  assert.equal(inspect(collider), 'a removed collider of crate: on craft, tags lamp')
  assert.deepEqual(JSON.parse(JSON.stringify(body)), {
    name: 'crate',
    serial: 1,
    type: 'dynamic',
    alive: false,
    pose: body.pose,
    layers: ['craft'],
  })
})

test('3d: a console shows one line of a body, and JSON gives name, type, pose and layers', () => {
  const world = solid.createWorld({ layers })
  const body = world.add({
    type: 'kinematic',
    at: { x: 1e7, y: 0, z: -2.5 },
    colliders: [
      { shape: solid.sphere(1), layer: 'zone' },
      { shape: solid.sphere(2), layer: ['rock', 'zone'] },
    ],
  })
  assert.equal(inspect(body), 'body #1: kinematic on rock, zone at (10000000, 0, -2.5)')
  assert.equal(inspect(world.add({ type: 'static' })), 'body #2: static without colliders at (0, 0, 0)')
  assert.deepEqual(JSON.parse(JSON.stringify([body])), [
    {
      name: null,
      serial: 1,
      type: 'kinematic',
      alive: true,
      pose: { at: { x: 1e7, y: 0, z: -2.5 }, rotation: { x: 0, y: 0, z: 0, w: 1 } },
      layers: ['rock', 'zone'],
    },
  ])
})

test("'data' of a world that is no type is refused", () => {
  // @ts-expect-error a value instead of a type
  assert.throws(() => flat.createWorld({ layers, data: { oxygen: 1 } }), /stands for the type of its bodies' data/)
})
