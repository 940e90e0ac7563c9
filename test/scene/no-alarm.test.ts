/** What looks like a mistake and is none: `check` has nothing to say. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { check } from '../../scenes-package/src/scene/index.ts'

const head = {
  format: 'keen-sentry-scene',
  version: 1,
  name: 'No alarm',
  dimension: '2d',
  ticks: 300,
  layers: { names: ['rock', 'crate', 'zone'], pairs: [['zone', '*', 'sense']] },
}
const box = (name: string, type: string, at: number[], width: number, height: number, more: object = {}) => ({
  name,
  type,
  at,
  ...more,
  colliders: [{ layer: type === 'dynamic' ? 'crate' : 'rock', shape: { kind: 'box', width, height } }],
})
const floor = box('floor', 'static', [0, -0.5], 20, 1)
const zone = {
  name: 'zone',
  type: 'static',
  at: [0, 1],
  colliders: [{ layer: 'zone', shape: { kind: 'circle', radius: 1 } }],
}

const scenes: Readonly<Record<string, object>> = {
  'two static bodies, one of which becomes kinematic': {
    bodies: [floor, zone],
    watches: [{ a: 'rock', b: 'zone' }],
    actions: [{ time: 1, do: 'type', body: 'zone', type: 'kinematic' }],
  },
  'a crate that is thrown onto a floor elsewhere': {
    bodies: [floor, zone, box('crate', 'dynamic', [-30, 5], 1, 1, { velocity: [15, 8] })],
  },
  'a crate above a lift that comes in time': {
    bodies: [
      floor,
      zone,
      box('lift', 'kinematic', [30, -3], 4, 0.4, {
        path: {
          points: [
            { time: 0, at: [30, -3] },
            { time: 1, at: [40, -3] },
          ],
        },
      }),
      box('crate', 'dynamic', [40, 2], 1, 1),
    ],
  },
  'a floor that is switched on later': {
    bodies: [
      floor,
      zone,
      box('hatch', 'static', [40, 0], 4, 0.4, { enabled: false }),
      box('crate', 'dynamic', [40, 2], 1, 1),
    ],
    actions: [{ time: 0.1, do: 'enable', body: 'hatch' }],
  },
  'a body without a collider that carries a ray': {
    bodies: [
      floor,
      zone,
      { name: 'eye', type: 'kinematic', at: [0, 5], velocity: [1, 0] },
      box('crate', 'dynamic', [5, 0.5], 1, 1),
    ],
    rays: [{ name: 'look', body: 'eye', from: [0, 0], to: [0, -9] }],
  },
  'a crate that starts half a millimetre deep': {
    bodies: [floor, zone, box('crate', 'dynamic', [5, 0.4995], 1, 1)],
  },
  'a turn of a full circle, and one of many in a path': {
    bodies: [
      floor,
      zone,
      box('wheel', 'kinematic', [5, 5], 1, 1, {
        path: {
          points: [
            { time: 0, at: [5, 5], angle: 0 },
            { time: 4, at: [5, 5], angle: 50 },
          ],
        },
      }),
      box('crate', 'dynamic', [5, 0.5], 1, 1, { angle: 6.2831 }),
    ],
  },
  'a large world with a unit, and a large one with something small in it': {
    bodies: [box('floor', 'static', [0, -25], 1000, 50), zone, box('crate', 'dynamic', [0, 30], 50, 50)],
  },
}

for (const [name, scene] of Object.entries(scenes)) {
  test(name, () => assert.deepEqual(check({ ...head, ...scene }), []))
}

test('in 3D the same: gravity upwards and degrees are told, and a crate that is thrown onto a floor is not', () => {
  const cube = (name: string, type: string, at: number[], x: number, y: number, z: number, more: object = {}) => ({
    name,
    type,
    at,
    ...more,
    colliders: [{ layer: type === 'dynamic' ? 'crate' : 'rock', shape: { kind: 'box', x, y, z } }],
  })
  const scene = (more: object, crate: object) => ({
    ...head,
    dimension: '3d',
    layers: { names: ['rock', 'crate'] },
    ...more,
    bodies: [cube('floor', 'static', [0, -0.5, 0], 20, 1, 20), cube('crate', 'dynamic', [-30, 5, 0], 1, 1, 1, crate)],
  })
  const codes = (json: object) => check(json).map(({ code, place }) => `${code} ${place}`)
  assert.deepEqual(codes(scene({}, { velocity: [15, 8, 0] })), [])
  assert.deepEqual(codes(scene({}, { velocity: [0, 8, 0] })), ['no-floor bodies[1]'])
  assert.deepEqual(codes(scene({ gravity: [0, 9.8, 0] }, { at: [0, 3, 0] })), ['gravity-upwards gravity'])
  const turned = { at: [0, 3, 0], rotation: { axis: [0, 1, 0], angle: 90 } }
  assert.deepEqual(codes(scene({}, turned)), ['degrees bodies[1].rotation.angle'])
})

test('a watch that tells in every tick of every pair of many bodies', () => {
  const scene = (count: number) => ({
    ...head,
    layers: { names: ['rock', 'crate'] },
    bodies: [
      floor,
      ...Array.from({ length: count }, (_, i) =>
        box(`crate ${i + 1}`, 'dynamic', [(i % 10) - 4.5, 2 + 2 * i], 0.5, 0.5),
      ),
    ],
    watches: [{ a: '*', b: '*', kinds: ['begin', 'during'] }],
  })
  const codes = (count: number) => check(scene(count)).map(({ code, place }) => `${code} ${place}`)
  assert.deepEqual(codes(120), ['all-during watches[0].kinds'])
  assert.deepEqual(codes(50), [])
})
