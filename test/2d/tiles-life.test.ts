/** Grids that move, fall, change their type and shape, are switched off and lose a collider; other units, and far away. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { box, circle, createWorld, defineLayers, halfspace, polyline, tiles } from '../../src/2d/index.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'ball', 'water'], { pairs: [['water', '*', 'sense']] })
const kinds = { '#': {}, '~': { layer: 'water', response: 'sense' }, '%': { friction: 0.9 } } as const
const ROOM = ['##########', '#........#', '#........#', '#...~~...#', '##########']
const DOWN = { x: 0, y: -1 }

function room() {
  const world = createWorld({ layers })
  const body = world.add({ type: 'static', colliders: [{ shape: tiles({ rows: ROOM, kinds }), layer: 'rock' }] })
  return { world, body, rock: body.colliders[0] }
}

test('a room that turns keeps what rolls in it', () => {
  const world = createWorld({ layers })
  const shape = tiles({ rows: ROOM, kinds })
  world.add({
    type: 'kinematic',
    at: { x: 5, y: 5 },
    angle: 0.1,
    spin: 0.2,
    colliders: [{ shape, layer: 'rock', at: { x: -5, y: -2.5 }, angle: 0.3 }],
  })
  const ball = world.add({ type: 'dynamic', at: { x: 5, y: 5 }, colliders: [{ shape: circle(0.4), layer: 'ball' }] })
  let travelled = 0
  for (let i = 0; i < 1500; i++) {
    world.step()
    travelled += Math.abs(ball.spin) * world.dt
    assert.ok(Math.hypot(ball.at.x - 5, ball.at.y - 5) < 8, `step ${i}: ${JSON.stringify(ball.at)}`)
  }
  assert.ok(travelled > 20, 'it rolls')
})

test('bodies of tiles fall, lie on each other and sleep', () => {
  const world = createWorld({ layers })
  world.add({ type: 'static', colliders: [{ shape: halfspace({ x: 0, y: 1 }, 0), layer: 'rock' }] })
  const shape = tiles({ rows: ['#..', '#..', '###'], kinds: { '#': {} } })
  const bodies = Array.from({ length: 8 }, (_, i) =>
    world.add({
      type: 'dynamic',
      at: { x: (i % 2) * 0.5, y: 1 + 3.2 * i },
      angle: 0.1 * i,
      colliders: [{ shape, layer: 'ball' }],
    }),
  )
  for (let i = 0; i < 1500; i++) world.step()
  for (const body of bodies) assert.ok(body.at.y > -3.3 && body.at.y < 30 && body.mass === 5)
  assert.ok(bodies.filter(({ asleep }) => asleep).length >= 6)
})

test('a body of tiles is swept when it is fast, travels, is cast and asks', () => {
  const world = createWorld({ layers })
  const shape = tiles({ rows: ['##', '#.'], kinds: { '#': {} } })
  for (const y of [0, 8])
    world.add({ type: 'static', at: { x: 5, y }, colliders: [{ shape: box(0.1, 4), layer: 'rock' }] })
  const fast = world.add({
    type: 'dynamic',
    at: { x: 0, y: 8 },
    velocity: { x: 4000, y: 0 },
    gravityScale: 0,
    colliders: [{ shape, layer: 'ball' }],
  })
  for (let i = 0; i < 60; i++) world.step()
  assert.ok(fast.at.x < 4, `${fast.at.x}`)
  const slow = world.add({ type: 'kinematic', colliders: [{ shape, layer: 'ball' }] })
  assert.ok(Math.abs(slow.travel({ x: 9, y: 0 }).moved.x - 2.95) < 1e-9)
  const hit = world.shapecast.first({ shape, from: { x: 0, y: -1 }, to: { x: 9, y: -1 } }, { layers: ['rock'] })
  assert.ok(Math.abs(hit!.distance - 2.95) < 1e-9)
  assert.ok(world.overlap.any({ shape, at: { x: 4, y: 0 } }, { layers: ['rock'] }))
})

test('a grid goes on when one of its colliders is removed', () => {
  const { world, body, rock } = room()
  assert.equal(body.colliders.length, 3)
  body.colliders[1].remove()
  rock.setTile(2, 2, '~')
  rock.setTile(4, 2, '#')
  world.step()
  const below = (x: number) => world.raycast.first({ from: { x, y: 3.9 }, direction: DOWN }, { sensors: true })?.tile
  assert.deepEqual({ ...below(4.5) }, { column: 4, row: 2, kind: '#', edge: 2 })
  assert.equal(below(2.5)?.row, 4, 'water has no collider any more')
})

test('changes while it is switched off are there when it is switched on', () => {
  const { world, body, rock } = room()
  const meets = () => world.raycast.first({ from: { x: 4.5, y: 3.95 }, direction: DOWN })?.tile?.row
  body.enabled = false
  rock.setTile(4, 2, '#')
  world.step()
  assert.equal(meets(), undefined)
  rock.setTile(4, 1, '#')
  body.enabled = true
  assert.equal(meets(), 1)
})

test('static, dynamic, kinematic and back; weighed anew when it changes', () => {
  const { world, body, rock } = room()
  world.add({
    type: 'static',
    at: { x: 0, y: -9 },
    colliders: [{ shape: halfspace({ x: 0, y: 1 }, 0), layer: 'rock' }],
  })
  world.step()
  body.type = 'dynamic'
  assert.equal(body.mass, 26, 'water weighs nothing')
  rock.setTile(4, 2, '#')
  assert.equal(body.mass, 27)
  for (let i = 0; i < 400; i++) world.step()
  assert.ok(Math.abs(body.at.y + 9) < 0.02, `${body.at.y}`)
  body.type = 'kinematic'
  body.velocity = { x: 1, y: 0 }
  for (let i = 0; i < 60; i++) world.step()
  body.type = 'static'
  const from = { x: body.at.x + 4.5, y: 0 }
  assert.equal(world.raycast.first({ from, direction: DOWN })?.tile?.row, 0)
})

test('a shape becomes tiles and ceases to be', () => {
  const world = createWorld({ layers })
  const body = world.add({ type: 'static', colliders: [{ shape: box(2, 2), layer: 'rock' }] })
  const [collider] = body.colliders
  const far = () => world.raycast.first({ from: { x: 1.5, y: 5 }, direction: DOWN })?.distance ?? -1
  throwsKeen('bad-shape', /not made of tiles/, () => collider.setTile(0, 0, '#'))
  collider.shape = tiles({ rows: ['##', '##'], kinds: { '#': {} } })
  assert.equal(far(), 3)
  collider.setTile(1, 0, '.')
  assert.equal(far(), 4)
  const kept = collider.shape
  collider.shape = circle(1)
  assert.equal(far(), -1)
  collider.shape = kept
  assert.equal(far(), 4)
  collider.setTile(1, 1, '.')
  assert.equal(far(), -1)
  assert.ok(kept.kind === 'tiles' && kept.count === 3, 'a shape that was handed out stays as it was')
  throwsKeen('bad-shape', /several colliders/, () => {
    collider.shape = tiles({ rows: ['#%'], kinds })
  })
})

test('a ball rolls as smoothly in other units and far from the origin', () => {
  for (const [unit, far] of [
    [64, 0],
    [1, 1e6],
    [64, 1e7],
    [0.01, 0],
  ] as const) {
    const world = createWorld({ layers, unit })
    const shape = tiles({ cell: unit, rows: ['.'.repeat(60), '#'.repeat(60)], kinds })
    world.add({ type: 'static', at: { x: far, y: -far }, colliders: [{ shape, layer: 'rock', friction: 0 }] })
    const y = 1.4 * unit - far
    const ball = world.add({
      type: 'dynamic',
      at: { x: far + 2 * unit, y },
      velocity: { x: 10 * unit, y: 0 },
      colliders: [{ shape: circle(0.4 * unit), layer: 'ball', friction: 0 }],
    })
    for (let i = 0; i < 300; i++) {
      world.step()
      assert.ok(Math.abs(ball.at.y - y) < 0.001 * unit, `unit ${unit}, ${far} away: ${(ball.at.y - y) / unit}`)
    }
  }
})

test('ninety thousand changes are brought in at once; tiles carve as what they cover', () => {
  const size = 300
  const world = createWorld({ layers })
  const shape = tiles({ rows: Array(size).fill('.'.repeat(size)), kinds })
  const [rock] = world.add({ type: 'static', colliders: [{ shape, layer: 'rock' }] }).colliders
  const line = { from: { x: -1, y: 5.5 }, to: { x: 400, y: 5.5 } }
  assert.equal(world.raycast.any(line), false)
  for (let y = 0; y < size; y++) for (let x = 0; x < size; x++) rock.setTile(x, y, '#')
  assert.equal(world.raycast.all(line).length, 1)
  assert.equal(rock.outline.flat().length, 4)
  const stencil = tiles({ cell: 2, rows: ['#.', '.#'], kinds: { '#': {} } })
  assert.equal(rock.carve({ shape: stencil, at: { x: 10, y: 10 } }).tiles.length, 8)
  assert.equal(rock.carve({ shape: box(999, 999), at: { x: 0, y: 0 }, tiles: 'touched' }).tiles.length, size ** 2 - 8)
  assert.equal(world.raycast.any(line), false)
  throwsKeen('bad-shape', /inside/, () =>
    rock.carve({
      shape: polyline([
        { x: 0, y: 0 },
        { x: 1, y: 0 },
      ]) as never,
      at: { x: 0, y: 0 },
    }),
  )
})
