/**
 * Whatever rolls or slides over flush pieces of ground keeps its speed and height as on one piece, and no impact is told: within 1 mm and
 * half a hundredth of the speed over 40 pieces.
 */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  box,
  capsule,
  circle,
  compound,
  createWorld,
  defineLayers,
  polygon,
  polyline,
  type Shape2,
  segment,
  type Vec2,
} from '../../src/2d/index.ts'
import { runs } from '../helpers/arbitrary.ts'

const layers = defineLayers(['rock', 'craft'])
const PIECES = 40
const HOP = 0.001
const LOSS = 0.005

/** A piece of ground whose upper side goes from (0, 0) to (length, 0), `deep` below that. */
function ground(kind: string, length: number, deep: number): { shape: Shape2; at: Vec2 }[] {
  const here = { x: 0, y: 0 }
  switch (kind) {
    case 'box':
      return [{ shape: box(length, deep), at: { x: length / 2, y: -deep / 2 } }]
    case 'polygon':
      return [
        {
          shape: polygon([
            { x: 0, y: 0 },
            { x: 0, y: -deep },
            { x: length, y: -0.7 * deep },
            { x: length, y: 0 },
          ]),
          at: here,
        },
      ]
    case 'wedge':
      return [
        {
          shape: polygon([
            { x: 0, y: 0 },
            { x: length / 2, y: -deep },
            { x: length, y: 0 },
          ]),
          at: here,
        },
      ]
    case 'segment':
      return [{ shape: segment({ x: 0, y: 0 }, { x: length, y: 0 }), at: here }]
    case 'polyline':
      return [
        {
          shape: polyline([
            { x: 0, y: 0 },
            { x: 0.3 * length, y: 0 },
            { x: length, y: 0 },
          ]),
          at: here,
        },
      ]
    default: {
      const half = box(length / 2, deep)
      const parts = [length / 4, (3 * length) / 4].map((x) => ({ shape: half, at: { x, y: -deep / 2 } }))
      return [{ shape: compound(parts), at: here }]
    }
  }
}

const hexagon = polygon(
  Array.from({ length: 6 }, (_, i) => ({ x: 0.3 * Math.cos((i * Math.PI) / 3), y: 0.3 * Math.sin((i * Math.PI) / 3) })),
)
/** What slides, and how high its origin is above the ground. */
const SLIDERS: Record<string, { shapes: { shape: Shape2; at?: Vec2 }[]; height: number }> = {
  ball: { shapes: [{ shape: circle(0.3) }], height: 0.3 },
  box: { shapes: [{ shape: box(0.5, 0.5) }], height: 0.25 },
  tall: { shapes: [{ shape: box(0.4, 1) }], height: 0.5 },
  capsule: { shapes: [{ shape: capsule({ x: -0.3, y: 0 }, { x: 0.3, y: 0 }, 0.3) }], height: 0.3 },
  hexagon: { shapes: [{ shape: hexagon }], height: 0.3 * Math.sin(Math.PI / 3) },
  rounded: { shapes: [{ shape: box(0.6, 0.4, { radius: 0.1 }) }], height: 0.2 },
  several: {
    shapes: [
      { shape: box(0.3, 0.3), at: { x: -0.3, y: 0 } },
      { shape: circle(0.15), at: { x: 0.3, y: 0 } },
      { shape: box(0.6, 0.1), at: { x: 0, y: 0.1 } },
    ],
    height: 0.15,
  },
}

const kinds = ['box', 'polygon', 'wedge', 'segment', 'polyline', 'compound']

test('floors, slopes and walls of any mix of flush pieces are slid and rolled over as if they were one', () => {
  let rolled = 0
  fc.assert(
    fc.property(
      fc.record({
        slider: fc.constantFrom(...Object.keys(SLIDERS)),
        pieces: fc.array(fc.tuple(fc.constantFrom(...kinds), fc.double({ min: 0.3, max: 1.3, noNaN: true })), {
          minLength: PIECES,
          maxLength: PIECES,
        }),
        speed: fc.constantFrom(1, 2, 4, 6, 7.5, 8, 10, 15, 20, 30, 45, 60),
        length: fc.constantFrom(0.2, 0.5, 1, 2),
        angle: fc.oneof(fc.constantFrom(0, Math.PI / 2, Math.PI, -0.3), fc.double({ min: 0, max: 6.3, noNaN: true })),
        x: fc.constantFrom(0, 50, -1000, 1e4),
        y: fc.constantFrom(0, -20, 333),
        moving: fc.boolean(),
      }),
      ({ slider, pieces, speed, length, angle, x, y, moving }) => {
        const { shapes, height } = SLIDERS[slider]
        const rolls = slider === 'ball' && speed <= 45
        const friction = rolls ? 0.6 : 0
        const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
        const place = (p: Vec2): Vec2 => ({ x: x + cos * p.x - sin * p.y, y: y + sin * p.x + cos * p.y })
        const world = createWorld({ layers, gravity: { x: 9.8 * sin, y: -9.8 * cos } })
        const type = moving ? 'kinematic' : 'static'
        const put = (kind: string, from: number, long: number, deep: number): void => {
          for (const { shape, at } of ground(kind, long, deep)) {
            const body = world.add({ type, at: place({ x: from + at.x, y: at.y }), angle })
            body.attach({ shape, layer: 'rock', friction })
            // All of it moves alike, across the way of what slides along.
            if (moving) body.velocity = { x: 0.5 * cos, y: 0.5 * sin }
          }
        }
        put('box', -10, 10, 1)
        for (const [i, [kind, deep]] of pieces.entries()) put(kind, i * length, length, deep)
        put('box', PIECES * length, 100, 1)
        const body = world.add({ type: 'dynamic', at: place({ x: -2, y: height }), angle })
        for (const { shape, at } of shapes) body.attach({ shape, at, layer: 'craft', friction })
        const drift = moving ? 0.5 : 0
        for (let i = 0; i < 40; i++) world.step()
        body.velocity = { x: (speed + drift) * cos, y: (speed + drift) * sin }
        if (rolls) body.spin = -speed / 0.3
        world.step()
        let impacts = 0
        world.watch(body, 'rock', { impact: () => impacts++ }, { over: { speed: 0.15 } })
        const along = (): number => (body.at.x - x) * cos + (body.at.y - y) * sin - drift * world.time
        while (along() < PIECES * length) {
          world.step()
          const high = (body.at.y - y) * cos - (body.at.x - x) * sin - height
          assert.ok(Math.abs(high) < HOP, `it stands ${high} m above the ground at ${along()}`)
          const pace = body.velocity.x * cos + body.velocity.y * sin - drift
          assert.ok(Math.abs(pace / speed - 1) < LOSS, `it goes ${pace} m/s at ${along()}`)
          assert.equal(impacts, 0, `an impact was told at ${along()}`)
        }
        if (rolls) rolled++
      },
    ),
    { numRuns: runs(60) },
  )
  // Few cases may have none.
  if (process.env['KEEN_LONG'] === '1') assert.ok(rolled > 0, `only ${rolled} balls rolled`)
})

test('what is pressed into a wall of separate boxes falls along it as along one', () => {
  for (const [name, shape] of [
    ['a box', box(0.5, 0.5)],
    ['a ball', circle(0.25)],
    ['a capsule', capsule({ x: 0, y: -0.25 }, { x: 0, y: 0.25 }, 0.25)],
  ] as const) {
    for (const start of [0, 7, 15, 30]) {
      const world = createWorld({ layers })
      for (let i = 0; i < 70; i++) {
        world.add({
          type: 'static',
          at: { x: 110.5, y: -(i + 0.5) },
          colliders: [{ shape: box(1, 1), layer: 'rock', friction: 0 }],
        })
      }
      const body = world.add({
        type: 'dynamic',
        at: { x: 109.75, y: -2 },
        velocity: { x: 0, y: -start },
        colliders: [{ shape, layer: 'craft', friction: 0 }],
      })
      let impacts = 0
      world.watch(body, 'rock', { impact: () => impacts++ }, { over: { speed: 0.3 } })
      while (body.at.y > -60) {
        body.applyForce({ x: 30, y: 0 })
        world.step()
        const free = Math.sqrt(start * start + 2 * 9.8 * (-2 - body.at.y))
        // What a step adds is added before the way of it, so that a fall is ahead by a part of a tick.
        assert.ok(body.velocity.y < -0.99 * free + 0.2, `${name} from ${start} m/s: ${body.velocity.y} at ${body.at.y}`)
        assert.ok(Math.abs(body.at.x - 109.75) < HOP, `${name} from ${start} m/s: ${body.at.x}`)
      }
      assert.equal(impacts, 0)
    }
  }
})

test('a step of two millimetres still trips a box at any speed, a wall stops it, and a third of a millimetre is none', () => {
  for (const speed of [1, 5, 8, 15, 30, 60]) {
    for (const [step, stops] of [
      [0.0003, false],
      [0.002, true],
      [0.01, true],
      [0.5, true],
    ] as const) {
      const world = createWorld({ layers })
      const put = (x: number, y: number): unknown =>
        world.add({ type: 'static', at: { x, y }, colliders: [{ shape: box(20, 1), layer: 'rock', friction: 0 }] })
      put(0, -0.5)
      put(20, -0.5 + step)
      const body = world.add({
        type: 'dynamic',
        at: { x: 0, y: 0.25 },
        colliders: [{ shape: box(0.5, 0.5), layer: 'craft', friction: 0 }],
      })
      for (let i = 0; i < 20; i++) world.step()
      body.velocity = { x: speed, y: 0 }
      let struck = 0
      world.watch(
        body,
        'rock',
        { impact: (e) => (struck = Math.max(struck, e.closingSpeed)) },
        { over: { speed: 0.3 } },
      )
      let least = speed
      for (let i = 0; i < 900 && body.at.x < 14; i++) {
        world.step()
        least = Math.min(least, body.velocity.x)
      }
      if (stops) {
        assert.ok(least < 0.6 * speed, `a step of ${step} m at ${speed} m/s: it kept ${least} m/s`)
        assert.ok(struck > 0.9 * speed)
      } else {
        assert.ok(least > (1 - LOSS) * speed, `a step of ${step} m at ${speed} m/s: it kept ${least} m/s`)
        assert.equal(struck, 0)
      }
    }
  }
})

test('a ball rolls on for long: its spin does not sink it into the floor', () => {
  const world = createWorld({ layers })
  world.add({ type: 'static', at: { x: 0, y: -1 }, colliders: [{ shape: box(2000, 2), layer: 'rock' }] })
  const ball = world.add({
    type: 'dynamic',
    at: { x: -900, y: 0.3 },
    velocity: { x: 40, y: 0 },
    spin: -40 / 0.3,
    colliders: [{ shape: circle(0.3), layer: 'craft' }],
  })
  for (let i = 0; i < 2400; i++) {
    world.step()
    assert.ok(Math.abs(ball.at.y - 0.3) < HOP, `at ${ball.at.y}`)
  }
  assert.ok(ball.velocity.x > 39.9)
})
