/** When in a tick two bodies met or parted, against walking the tick in small steps. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { createWorld, defineLayers } from '../../src/2d/index.ts'
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
  assert.ok(seen > 100, `only ${seen} events were seen`)
})
