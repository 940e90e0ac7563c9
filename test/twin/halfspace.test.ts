/** Halfspaces have no bounds: what meets them must not depend on where, or on how slowly it comes. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import * as flat from '../../src/2d/index.ts'
import * as solid from '../../src/3d/index.ts'
import { checkBooks } from '../helpers/invariants.ts'

const layers = flat.defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })
const PLACES = [0, 50, -3e4, 1e6]

for (const x of PLACES) {
  test(`2d: what sinks slowly into a sensor halfspace at x = ${x} begins, stays and ends`, () => {
    const world = flat.createWorld({ layers })
    world.add({
      type: 'static',
      at: { x: 0, y: 3 },
      colliders: [{ shape: flat.halfspace({ x: 0, y: 1 }, -3), layer: 'zone' }],
    })
    const craft = world.add({
      type: 'kinematic',
      at: { x, y: 0.55 },
      velocity: { x: 0, y: -0.06 },
      colliders: [{ shape: flat.circle(0.5), layer: 'craft' }],
    })
    const told: string[] = []
    const tell = (e: { kind: string; tick: number }): unknown => told.push(`${e.kind} ${e.tick}`)
    world.watch('craft', 'zone', { begin: tell, end: tell })
    for (let i = 0; i < 100; i++) world.step()
    craft.velocity = { x: 0, y: 0 }
    for (let i = 0; i < 600; i++) world.step()
    craft.teleport({ x, y: 5 })
    world.step()
    assert.match(told.join(', '), /^begin (50|51), end 701$/)
  })

  test(`3d: what sinks slowly into a sensor halfspace at x = ${x} begins, stays and ends`, () => {
    const world = solid.createWorld({ layers })
    world.add({ type: 'static', colliders: [{ shape: solid.halfspace({ x: 0, y: 1, z: 0 }, 0), layer: 'zone' }] })
    const craft = world.add({
      type: 'kinematic',
      at: { x, y: 0.55, z: -x },
      velocity: { x: 0, y: -0.06, z: 0 },
      colliders: [{ shape: solid.sphere(0.5), layer: 'craft' }],
    })
    const told: string[] = []
    const tell = (e: { kind: string; tick: number }): unknown => told.push(`${e.kind} ${e.tick}`)
    world.watch('craft', 'zone', { begin: tell, end: tell })
    for (let i = 0; i < 700; i++) world.step()
    craft.teleport({ x, y: 5, z: -x })
    world.step()
    assert.match(told.join(', '), /^begin (50|51), end 701$/)
  })

  test(`2d: a box rests on a slope of a halfspace at x = ${x} as it does at the origin`, () => {
    const world = flat.createWorld({ layers })
    const normal = { x: 0.1, y: 1 }
    world.add({ type: 'static', at: { x, y: 7 }, colliders: [{ shape: flat.halfspace(normal, 0), layer: 'rock' }] })
    const box = world.add({
      type: 'dynamic',
      at: { x, y: 8 },
      colliders: [{ shape: flat.box(1, 1), layer: 'craft' }],
    })
    for (let i = 0; i < 600; i++) world.step()
    assert.ok(box.asleep)
    const length = Math.hypot(normal.x, normal.y)
    const height = ((box.at.x - x) * normal.x + (box.at.y - 7) * normal.y) / length
    assert.ok(Math.abs(height - 0.5) < 0.001, `it rests ${height} above the surface`)
  })
}

test('a pair far above a halfspace is no candidate', () => {
  const world = flat.createWorld({ layers })
  world.add({ type: 'static', colliders: [{ shape: flat.halfspace({ x: 0, y: 1 }, 0), layer: 'rock' }] })
  for (let i = 0; i < 50; i++) {
    world.add({ type: 'kinematic', at: { x: 3 * i, y: 9 }, colliders: [{ shape: flat.circle(0.5), layer: 'craft' }] })
  }
  world.step()
  assert.equal(world.stats.pairs, 0)
})

test('hooks that keep changing their answers leave no begin without an end, and a watch can be stopped', () => {
  const world = flat.createWorld({ layers })
  world.add({ type: 'static', colliders: [{ shape: flat.halfspace({ x: 0, y: 1 }, 0), layer: 'rock' }] })
  const craft = world.add({
    type: 'kinematic',
    at: { x: 50, y: 0.4 },
    colliders: [{ shape: flat.circle(0.5), layer: 'craft' }],
  })
  let turn = 0
  world.decide('craft', 'rock', () => (['pass', 'solid', 'sense'] as const)[turn++ % 3], { ask: 'tick' })
  let open = 0
  const watch = world.watch('craft', 'rock', { begin: () => open++, end: () => open-- })
  for (let i = 0; i < 120; i++) {
    craft.teleport({ x: 50 + i, y: i % 4 === 0 ? 3 : 0.4 })
    world.step()
    assert.ok(open === 0 || open === 1)
    assert.equal(watch.count, open)
    checkBooks(world)
  }
  watch.stop()
  assert.equal(watch.count, 0)
})
