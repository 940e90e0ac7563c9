/** When in a tick two bodies met or parted, against walking the tick in small steps. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { createWorld, defineLayers, halfspace, segment } from '../../src/2d/index.ts'
import { anyShape, askingShape, point, runs } from '../helpers/arbitrary.ts'
import { gapOfShapes, piecesOf } from '../oracle/pieces.ts'

const layers = defineLayers(['craft', 'zone'], { pairs: [['zone', '*', 'sense']] })
const turn = fc.oneof(fc.constant(0), fc.double({ min: -3, max: 3, noNaN: true }))

test('the time of a begin is the first contact on the way, that of an end the last', () => {
  let seen = 0
  fc.assert(
    fc.property(anyShape, askingShape, point(5), point(5), turn, turn, (still, shape, from, to, angle, spin) => {
      const world = createWorld({ layers, rate: 1 })
      world.add({ type: 'static', colliders: [{ shape: still, layer: 'zone' }] })
      const mover = world.add({ type: 'kinematic', at: from, angle, colliders: [{ shape, layer: 'craft' }] })
      let kind = ''
      let when = 0
      const note = (e: { kind: string; when: number }): void => {
        kind = e.kind
        when = e.when
      }
      world.watch('craft', 'zone', { begin: note, end: note })
      world.step()
      kind = ''
      mover.arriveAt({ at: to, angle: angle + spin })
      world.step()
      if (kind === '') return
      seen++
      const zone = piecesOf(still, { x: 0, y: 0 }, 0)
      const gapAt = (t: number): number => {
        const at = { x: from.x + (to.x - from.x) * t, y: from.y + (to.y - from.y) * t }
        return gapOfShapes(piecesOf(shape, at, angle + spin * t), zone)
      }
      // It stands at the contact, on the side from which it was looked for.
      assert.ok(Math.abs(gapAt(when)) < 1e-5, `at ${when} the gap is ${gapAt(when)}`)
      for (let i = 0; i < 24; i++) {
        const t = kind === 'begin' ? (when * i) / 24 : 1 - ((1 - when) * i) / 24
        assert.ok(gapAt(t) > -1e-8, `${kind} at ${when}, but at ${t} the gap is ${gapAt(t)}`)
      }
    }),
    { numRuns: runs(1500) },
  )
  assert.ok(seen > 40, `only ${seen} events were seen`)
})

test('what keeps very near for long is not met before it is, and not left after', () => {
  for (const gap of [1e-3, 1e-4, 1e-5, 1e-6, 1e-7]) {
    // A hand of a clock, a quarter turn and a little more to a wall that is nearly at its pin.
    const world = createWorld({ layers, rate: 1 })
    world.add({ type: 'static', colliders: [{ shape: halfspace({ x: 1, y: 0 }, -gap), layer: 'zone' }] })
    const hand = segment({ x: 0, y: 0 }, { x: 0.25, y: 0 })
    const mover = world.add({ type: 'kinematic', colliders: [{ shape: hand, layer: 'craft' }] })
    let when = -1
    world.watch('craft', 'zone', { begin: (e) => (when = e.when), end: (e) => (when = e.when) })
    world.step()
    const turn = Math.PI / 2 + 8 * gap
    mover.arriveAt({ at: { x: 0, y: 0 }, angle: turn })
    world.step()
    const expected = (Math.PI / 2 + Math.asin(4 * gap)) / turn
    assert.ok(Math.abs(when - expected) < 1e-6, `a gap of ${gap}: at ${when}, not ${expected}`)
    // And back again.
    mover.arriveAt({ at: { x: 0, y: 0 }, angle: 0 })
    world.step()
    assert.ok(Math.abs(when - (1 - expected)) < 1e-6, `a gap of ${gap}: left at ${when}, not ${1 - expected}`)
  }
})

test('two corners that lie on each other are left at once by what rolls off', () => {
  const world = createWorld({ layers, rate: 1 })
  const still = segment({ x: 0, y: 0 }, { x: -0.25, y: 0 })
  world.add({ type: 'static', colliders: [{ shape: still, layer: 'zone' }] })
  const mover = world.add({
    type: 'kinematic',
    colliders: [{ shape: segment({ x: 0, y: 0 }, { x: 0, y: -0.5 }), layer: 'craft' }],
  })
  const told: [string, number][] = []
  world.watch('craft', 'zone', { begin: (e) => told.push([e.kind, e.when]), end: (e) => told.push([e.kind, e.when]) })
  world.step()
  mover.arriveAt({ at: { x: 0, y: 0.25 }, angle: 2.6 })
  world.step()
  assert.deepEqual(
    told.map(([kind]) => kind),
    ['begin', 'end'],
  )
  // The gap grows as 0.65 t² from 0: 1e-9 m are reached after 4e-5 of the tick.
  assert.ok(told[1][1] < 1e-4, `left at ${told[1][1]}`)
})
