import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import { defineLayers } from '../../src/2d/index.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

for (const { name: dimension, at, turned, pointsOfFace, box, circle, createWorld } of DIMENSIONS) {
  describe(dimension, () => {
    /** A wall from x = 0 on, and a ram that is sent along x. */
    function yard() {
      const world = createWorld({ layers, rate: 10 })
      const wall = world.add({
        type: 'static',
        name: 'wall',
        at: at(10, 0),
        colliders: [{ shape: box(20, 8), layer: 'rock' }],
      })
      const ram = world.add({
        type: 'kinematic',
        name: 'ram',
        at: at(-2, 0),
        colliders: [
          { shape: box(1, 1), layer: 'craft', at: at(0, 1) },
          { shape: box(1, 1), layer: 'craft', at: at(0, -1) },
        ],
      })
      return { world, wall, ram }
    }

    test('an impact comes when the closing speed rises through the threshold, once, and again after it has fallen', () => {
      const { world, ram } = yard()
      const told: string[] = []
      world.watch(
        'craft',
        'rock',
        {
          begin: (e) => told.push(`begin ${e.closingSpeed.toFixed(2)}`),
          impact: (e) => told.push(`impact ${e.closingSpeed.toFixed(2)} ${e.points.length} ${e.normal!.x} ${e.kind}`),
          end: (e) => told.push(`end ${e.closingSpeed}`),
        },
        { over: { speed: 5 } },
      )
      const to = (x: number): void => {
        ram.arriveAt(at(x, 0))
        world.step()
      }
      to(-0.8)
      to(-0.5)
      // It touches at 3 m/s, then presses in faster, holds on, slows, and presses again.
      assert.deepEqual(told.splice(0), ['begin 3.00'])
      to(0.2)
      assert.deepEqual(told.splice(0), [`impact 7.00 ${2 * pointsOfFace} 1 impact`])
      to(0.9)
      assert.deepEqual(told.splice(0), [], 'still over: no second impact')
      to(0.91)
      to(1.6)
      assert.deepEqual(told.splice(0), [`impact 6.90 ${2 * pointsOfFace} 1 impact`])
      world.step()
      to(-3)
      assert.deepEqual(told, ['end 0'])
    })

    test('a resting pair closes at 0, and a turning body by the speed of the point that meets', () => {
      const { world, ram } = yard()
      const watch = world.watch('craft', 'rock', {}, { over: { speed: 1 }, kinds: ['begin', 'during', 'impact'] })
      ram.teleport(at(-0.8, 0))
      ram.arriveAt(turned(-0.8, 0, 0.5))
      world.step()
      assert.equal(watch.count, 1)
      const [begin, impact] = world.events().filter((event) => event.joint === null)
      assert.equal(impact.kind, 'impact')
      // The corner that meets is 0.5 to 1.5 m from the origin; it turns at 5 rad/s.
      assert.ok(begin.closingSpeed > 2.5 && begin.closingSpeed < 8, String(begin.closingSpeed))
      world.step()
      const [during] = world.events().filter((event) => event.joint === null)
      assert.equal(during.kind, 'during')
      assert.equal(during.closingSpeed, 0)
      assert.equal(during.impulse, 0)
    })

    test('by colliders each pair has its own threshold, and a kept impact keeps its points', () => {
      const { world, ram } = yard()
      const kept: unknown[] = []
      world.watch(
        'craft',
        'rock',
        {
          impact(e) {
            const copy = e.keep()
            assert.equal(copy.points.length, pointsOfFace)
            kept.push(copy.aCollider.index)
          },
        },
        { per: 'collider', over: { speed: 5 } },
      )
      ram.arriveAt(at(0, 0))
      world.step()
      assert.deepEqual(kept, [0, 1])
    })

    test('what is removed by a begin has no impact', () => {
      const { world, ram } = yard()
      const told: string[] = []
      world.watch(
        'craft',
        'rock',
        { begin: (e) => e.a.remove(), impact: () => told.push('impact'), end: (e) => told.push(e.cause) },
        { over: { speed: 1 } },
      )
      ram.arriveAt(at(0, 0))
      world.step()
      assert.deepEqual(told, ['removed'])
    })

    test('wrong thresholds are named', () => {
      const { world } = yard()
      throwsKeen('bad-argument', /needs 'over'/, () => world.watch('craft', 'rock', { impact() {} }))
      throwsKeen('bad-argument', /either 'impulse' or 'speed'/, () =>
        world.watch('craft', 'rock', {}, { over: {} as { speed: number } }),
      )
      throwsKeen('bad-number', /'speed' in 'over'/, () => world.watch('craft', 'rock', {}, { over: { speed: 0 } }))
      throwsKeen('bad-argument', /no impacts/, () =>
        world.watch('craft', 'zone', {}, { over: { speed: 1 }, response: 'sense' }),
      )
    })

    test('explain says how far from an impact two were', () => {
      const { world, ram, wall } = yard()
      world.watch('craft', 'rock', {}, { over: { speed: 50 } })
      ram.arriveAt(at(0, 0))
      world.step()
      const explanation = world.explain(ram, wall)
      assert.equal(explanation.refusedBy, 'over')
      assert.match(String(explanation), /came together at 20.0 m\/s; 'craft:rock' waits for 50 m\/s/)
      assert.match(explanation.summary(), /not hard enough/)
      assert.ok(explanation.meets && explanation.watched)
    })

    test('a circle that only brushes past has no closing speed along the normal', () => {
      const world = createWorld({ layers, rate: 10 })
      world.add({ type: 'static', colliders: [{ shape: box(20, 2), layer: 'rock' }] })
      const ball = world.add({
        type: 'kinematic',
        at: at(-5, 1.5),
        colliders: [{ shape: circle(0.5), layer: 'craft' }],
      })
      ball.velocity = at(30, 0)
      world.watch('craft', 'rock', {}, { over: { speed: 0.1 } })
      world.step()
      world.step()
      assert.ok(world.events().every((event) => event.kind !== 'impact'))
    })
  })
}
