/** What falls, slides, bounces and strikes does so alike in both dimensions: 3D thick along z, and locked to the plane z = 0. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { defineLayers } from '../../src/core/index.ts'
import { DIMENSIONS, type Dimension } from '../helpers/dimensions.ts'

const layers = defineLayers(['rock', 'crate'])

interface Thing {
  readonly at: { readonly x: number; readonly y: number }
  readonly velocity: { readonly x: number; readonly y: number }
  readonly spin: number | { readonly z: number }
}

/** A world of a dimension and what moves in it. */
function play(
  dimension: Dimension,
  build: (stage: {
    still: (shape: object, x: number, y: number, angle?: number, more?: object) => void
    move: (shape: object, x: number, y: number, more?: object, body?: object) => Thing
    dimension: Dimension
  }) => Thing[],
  gravity: number,
  ticks: number,
): number[][] {
  const { createWorld, at, turned } = dimension
  const world = createWorld({ layers, gravity: at(0, -gravity) })
  const flat = dimension.name === '2D'
  const things = build({
    dimension,
    still(shape, x, y, angle = 0, more = {}) {
      const pose = turned(x, y, angle)
      world.add({ type: 'static', ...pose, colliders: [{ shape: shape as never, layer: 'rock', ...more }] })
    },
    move(shape, x, y, more = {}, body = {}) {
      const locks = flat ? {} : { locks: { z: true, turn: { x: true, y: true } } as never }
      const colliders = [{ shape: shape as never, layer: 'crate' as const, ...more }]
      return world.add({ type: 'dynamic', at: at(x, y), ...locks, ...body, colliders }) as unknown as Thing
    },
  })
  const tracks: number[][] = []
  for (let tick = 0; tick < ticks; tick++) {
    world.step()
    if (tick % 10 !== 9) continue
    tracks.push(
      things.flatMap(({ at: { x, y }, velocity, spin }) => [
        x,
        y,
        velocity.x,
        velocity.y,
        typeof spin === 'number' ? spin : spin.z,
      ]),
    )
  }
  return tracks
}

type Build = Parameters<typeof play>[1]

const SCENES: readonly [string, Build, number, number, number][] = [
  [
    'a box slides down a ramp, out onto the floor, and stops',
    ({ still, move, dimension: { box } }) => {
      still(box(12, 1), -4, 2, -0.5, { friction: 0.2 })
      still(box(40, 2), 10, -1, 0, { friction: 0.5 })
      return [move(box(1, 0.6), -6, 4.2, { friction: 0.2 })]
    },
    9.8,
    300,
    // It comes to the floor at a corner, six millimetres apart: for a tick or two it spins at another speed.
    0.25,
  ],
  [
    'a box tips over an edge and falls',
    ({ still, move, dimension: { box } }) => {
      still(box(4, 1), 0, 2.5, 0)
      still(box(40, 2), 0, -1, 0)
      return [move(box(1.4, 0.5), 1.9, 3.25)]
    },
    9.8,
    50,
    0.05,
  ],
  [
    'a ball rolls down and bounces off a wall',
    ({ still, move, dimension: { box, circle, name } }) => {
      still(box(12, 1), -4, 2, -0.3, { friction: 1 })
      still(box(40, 2), 10, -1, 0, { friction: 1 })
      still(box(1, 6), 9, 2, 0, { restitution: 0.7 })
      // A disc has half its mass times the radius squared, a ball two fifths of it.
      const inertia = name === '3D' ? { mass: 1, inertia: { x: 0.125, y: 0.125, z: 0.125 } } : { mass: 1 }
      return [move(circle(0.5), -6, 4, { friction: 1 }, inertia)]
    },
    9.8,
    200,
    0.05,
  ],
  [
    'a stack of five stands',
    ({ still, move, dimension: { box } }) => {
      still(box(40, 2), 0, -1, 0)
      return Array.from({ length: 5 }, (_, i) => move(box(1, 1), 0, 0.5 + i))
    },
    9.8,
    240,
    0.03,
  ],
  [
    'a ball bounces ten times',
    ({ still, move, dimension: { box, circle } }) => {
      still(box(40, 2), 0, -1, 0)
      return [move(circle(0.5), 0, 3, { restitution: 0.9, friction: 0 })]
    },
    9.8,
    400,
    1e-6,
  ],
  [
    'five balls in a row pass an impact on',
    ({ move, dimension: { circle, at } }) => {
      const surface = { restitution: 1, friction: 0 }
      const row = Array.from({ length: 5 }, (_, i) => move(circle(0.5), i, 0, surface))
      return [move(circle(0.5), -3, 0, surface, { velocity: at(5, 0) }), ...row]
    },
    0,
    120,
    1e-9,
  ],
]

for (const [name, build, gravity, ticks, within] of SCENES) {
  test(`${name}, alike in 2D and 3D`, () => {
    const [flat, space] = DIMENSIONS.map((dimension) => play(dimension, build, gravity, ticks))
    for (const [i, track] of flat.entries()) {
      for (const [k, value] of track.entries()) {
        assert.ok(
          Math.abs(value - space[i][k]) <= within,
          `after ${10 * i + 10} ticks, number ${k}: ${value} in 2D, ${space[i][k]} in 3D`,
        )
      }
    }
  })
}

test('of five balls in a row the last flies off, and of an uneven row hardly any energy is lost', () => {
  for (const dimension of DIMENSIONS) {
    const last = play(dimension, SCENES[5][1], 0, 120)
    const speeds = last[last.length - 1].filter((_, k) => k % 5 === 2)
    assert.deepEqual(
      speeds.map((speed) => Number(speed.toFixed(9)) + 0),
      [0, 0, 0, 0, 0, 5],
      dimension.name,
    )
    const masses = [3, 1, 2, 0.5, 4]
    const build: Build = ({ move, dimension: { circle, at } }) => {
      const surface = { restitution: 1, friction: 0 }
      const row = masses.map((mass, i) => move(circle(0.5), i, 0, surface, { mass }))
      return [move(circle(0.5), -3, 0, surface, { mass: 2, velocity: at(5, 0) }), ...row]
    }
    const tracks = play(dimension, build, 0, 150)
    const end = tracks[tracks.length - 1].filter((_, k) => k % 5 === 2)
    const energy = [2, ...masses].reduce((sum, mass, i) => sum + mass * end[i] * end[i], 0)
    const momentum = [2, ...masses].reduce((sum, mass, i) => sum + mass * end[i], 0)
    // What closes at less than half a metre a second does not bounce.
    assert.ok(energy > 49.5 && energy < 50 + 1e-9, `${dimension.name}: energy ${energy} of 50`)
    assert.ok(Math.abs(momentum - 10) < 1e-9, `${dimension.name}: momentum ${momentum} of 10`)
  }
})

test('what was dynamic and is static now is ground for what lies on it, whoever else moves', () => {
  for (const { name, createWorld, box, at } of DIMENSIONS) {
    const layers = defineLayers(['rock', 'crate'])
    const world = createWorld({ layers, gravity: at(0, -10) })
    world.add({ type: 'static', at: at(0, -0.5), colliders: [{ shape: box(20, 1), layer: 'rock' }] })
    const crate = (x: number, y: number) =>
      world.add({ type: 'dynamic', at: at(x, y), sleeps: false, colliders: [{ shape: box(1, 1), layer: 'crate' }] })
    const lower = crate(0, 0.5)
    const upper = crate(0, 1.5)
    for (let i = 0; i < 30; i++) world.step()
    lower.type = 'static'
    upper.velocity = at(0.2, 0)
    for (let i = 0; i < 120; i++) world.step()
    assert.ok(Math.abs(upper.at.y - 1.5) < 0.01, `${name}: the upper crate is at ${upper.at.y}`)
    assert.ok(Math.abs(upper.velocity.x) < 1e-3, `${name}: and rubs to a stop, not on at ${upper.velocity.x}`)
  }
})

test('bodies that begin at exactly one place leave it slowly and to all sides, as far as they are free', () => {
  for (const { name, createWorld, box, circle, at } of DIMENSIONS) {
    for (const [shape, x] of [
      [circle(0.5), 0],
      [box(1, 1), 0],
      [circle(0.5), 1e6],
    ] as const) {
      const crowd = (locks: object) => {
        const world = createWorld({ layers, gravity: at(0, 0) })
        const spec = { type: 'dynamic', at: at(x, 5), locks, colliders: [{ shape, layer: 'crate' }] } as const
        const bodies = Array.from({ length: 20 }, () => world.add(spec))
        let fastest = 0
        for (let i = 0; i < 90; i++) {
          world.step()
          for (const { velocity } of bodies) fastest = Math.max(fastest, Math.abs(velocity.x), Math.abs(velocity.y))
        }
        return { world, bodies, fastest }
      }
      const { world, bodies, fastest } = crowd({})
      const what = `${name}, ${shape.kind} at ${x}`
      assert.ok(fastest < 5, `${what}: ${fastest} m/s`)
      for (const axis of ['x', 'y'] as const) {
        const start = axis === 'x' ? x : 5
        const low = bodies.filter((body) => body.at[axis] < start - 0.2).length
        const high = bodies.filter((body) => body.at[axis] > start + 0.2).length
        assert.ok(low >= 4 && high >= 4, `${what}: ${low} and ${high} to the two sides of ${axis}`)
      }
      if (x !== 0) assert.equal(world.hash(), crowd({}).world.hash(), what)
      const rail = crowd(name === '2D' ? { y: true } : { y: true, z: true }).bodies
      assert.ok(
        rail.every((body) => body.at.y === 5),
        `${what}: off its rail`,
      )
      assert.ok(rail.some((body) => body.at.x < x - 2) && rail.some((body) => body.at.x > x + 2), `${what} on a rail`)
    }
  }
})

test('what is pressed half its width deep is not held there, to the last bit of that depth', () => {
  for (const { name, createWorld, box, at } of DIMENSIONS) {
    for (const hair of [-2e-9, -4e-10, 0, 4e-10, 9e-10, 2e-9]) {
      const world = createWorld({ layers, gravity: at(0, 0) })
      world.add({ type: 'static', at: at(0, -1), colliders: [{ shape: box(100, 2), layer: 'rock', friction: 0 }] })
      const plate = world.add({
        type: 'dynamic',
        at: at(0, 0.1 + hair),
        velocity: at(8, 0),
        colliders: [{ shape: box(1, 0.4), layer: 'crate', friction: 0 }],
      })
      for (let i = 0; i < 30; i++) world.step()
      assert.ok(plate.at.x > 3.9, `${name}, a hair of ${hair}: it came to ${plate.at.x} instead of 4`)
      assert.ok(plate.at.y > 0.19, `${name}, a hair of ${hair}: it is still ${0.2 - plate.at.y} deep`)
    }
  }
})
