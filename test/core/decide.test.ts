/** Decide hooks, ignoring, other shapes, and what may not be done where. */
import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import { defineLayers } from '../../src/2d/index.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft', 'ledge', 'zone'], { pairs: [['zone', '*', 'sense']] })

for (const { name: dimension, at, box, circle, createWorld } of DIMENSIONS) {
  describe(dimension, () => {
    /** A craft of radius 1 at the origin, a ledge 10 up, and what is told of the two. */
    function scene() {
      const world = createWorld({ layers })
      const craft = world.add({ type: 'kinematic', name: 'craft', colliders: [{ shape: circle(1), layer: 'craft' }] })
      const ledge = world.add({
        type: 'static',
        name: 'ledge',
        at: at(0, 10),
        colliders: [{ shape: box(8, 1), layer: 'ledge' }],
      })
      const told: string[] = []
      world.watch('craft', '*', {
        begin: (e) => told.push(`begin ${e.response} ${e.cause}`),
        end: (e) => told.push(`end ${e.response} ${e.cause}`),
      })
      world.step()
      const go = (y: number): string[] => {
        craft.arriveAt(at(0, y))
        world.step()
        return told.splice(0)
      }
      return { world, craft, ledge, go, told }
    }

    test('a ledge is passed from below and stood on from above, as the hook says', () => {
      const { world, go } = scene()
      let asked = 0
      world.decide('craft', 'ledge', (pair) => {
        asked++
        assert.equal(pair.a.name, 'craft')
        assert.equal(pair.b.name, 'ledge')
        assert.equal(pair.response, 'solid')
        return pair.approach.y > 0 ? 'pass' : 'solid'
      })
      assert.deepEqual(go(8.8), [])
      assert.deepEqual(go(9.5), [])
      assert.deepEqual(go(11), [], 'the answer is kept while they touch')
      assert.equal(asked, 1)
      assert.deepEqual(go(13), [])
      assert.deepEqual(go(11.2), ['begin solid moved'], 'asked anew when they come into touch again')
      assert.equal(asked, 2)
      assert.deepEqual(go(13), ['end solid moved'])
    })

    test('of several hooks the weakest answer wins; sides may be given either way round', () => {
      const { world, go } = scene()
      world.decide('*', '*', () => 'solid')
      world.decide('ledge', 'craft', (pair) => {
        assert.equal(pair.a.name, 'ledge')
        assert.ok(pair.approach.y < 0 && pair.normal.y < 0)
        return 'sense'
      })
      assert.deepEqual(go(9), ['begin sense moved'])
    })

    test('asked every tick, a changed answer begins and ends with cause decided, whether they move or not', () => {
      const { world, go, told } = scene()
      let open = true
      world.decide('craft', 'ledge', () => (open ? 'pass' : 'solid'), { ask: 'tick' })
      assert.deepEqual(go(9), [])
      open = false
      world.step()
      assert.deepEqual(told.splice(0), ['begin solid decided'])
      open = true
      world.step()
      assert.deepEqual(told.splice(0), ['end solid decided'])
    })

    test('a hook made while they touch is asked at once, and one that is stopped gives back what it took', () => {
      const { world, go, told } = scene()
      assert.deepEqual(go(9), ['begin solid moved'])
      const hook = world.decide('craft', 'ledge', () => 'pass')
      world.step()
      assert.deepEqual(told.splice(0), ['end solid decided'])
      hook.stop()
      world.step()
      assert.deepEqual(told.splice(0), ['begin solid decided'])
      world.step()
      assert.deepEqual(told.splice(0), [])
    })

    test('a hook sets the surfaces of a pair', () => {
      const { world, go } = scene()
      world.decide('craft', 'ledge', (pair) => {
        pair.friction = 0.25
        return 'solid'
      })
      assert.deepEqual(go(9), ['begin solid moved'])
    })

    test('a crossing is asked about too', () => {
      for (const answer of ['pass', 'sense'] as const) {
        const { world, go } = scene()
        world.add({ type: 'static', at: at(0, -5), colliders: [{ shape: box(8, 0.1), layer: 'zone' }] })
        world.decide('craft', 'zone', () => answer)
        assert.equal(go(-20).length, answer === 'pass' ? 0 : 2)
      }
    })

    test('inside a hook the world can neither be changed nor asked; what it throws is told after the tick', () => {
      const { world, craft, ledge, go, told } = scene()
      const tries: (() => void)[] = [
        () => craft.remove(),
        () => craft.teleport(at(0, 0)),
        () => craft.ignore(ledge),
        () => world.add({ type: 'static' }),
        () => world.watch('craft', 'rock'),
        () => world.setPair('craft', 'rock', 'pass'),
        () => {
          ledge.colliders[0].enabled = false
        },
        () => craft.attach({ shape: circle(1), layer: 'craft' }),
        () => world.raycast.any({ from: at(0, 0), to: at(1, 0) }),
        () => craft.overlapping(),
      ]
      world.decide('craft', 'ledge', () => {
        for (const each of tries) throwsKeen('locked', /decide hook/, each)
        throw new Error('a leak')
      })
      throwsKeen('callback-failed', /decide hook 'craft:ledge' threw: a leak/, () => go(9))
      assert.deepEqual(told.splice(0), ['begin solid moved'], 'the response stays as it was')
      craft.teleport(at(0, 0))
      world.step()
      assert.deepEqual(told.splice(0), ['end solid teleported'])
    })

    test('an answer that is no response, or stronger than the filter, is an error that says so', () => {
      const { world, go, told } = scene()
      world.add({ type: 'static', at: at(0, -5), colliders: [{ shape: box(8, 1), layer: 'zone' }] })
      world.step()
      world.decide('craft', 'zone', () => 'solid')
      throwsKeen('callback-failed', /never raise/, () => go(-5))
      assert.deepEqual(told.splice(0), ['begin sense moved'])
      world.decide('craft', 'ledge', () => 'gone' as never)
      throwsKeen('callback-failed', /must be one of 'pass', 'sense', 'solid', got "gone"/, () => go(10))
    })

    test('a query filter can look, but not change', () => {
      const { world, craft } = scene()
      const ray = { from: at(-5, 0), to: at(5, 0) }
      throwsKeen('locked', /'where'/, () =>
        world.raycast.first(ray, {
          where: () => {
            craft.remove()
            return true
          },
        }),
      )
      assert.equal(world.raycast.any(ray, { where: () => world.overlap.any({ shape: circle(1), at: craft.at }) }), true)
    })

    test('two that ignore each other pass, with causes when that begins and ends something', () => {
      const { world, craft, ledge, go, told } = scene()
      assert.deepEqual(go(9), ['begin solid moved'])
      craft.ignore(ledge)
      assert.ok(ledge.ignores(craft))
      world.step()
      assert.deepEqual(told.splice(0), ['end solid ignored'])
      assert.deepEqual(craft.overlapping(), [])
      const up = { from: at(0, 11), to: at(0, 10) }
      assert.equal(world.raycast.any(up, { as: craft.colliders[0] }), false)
      ledge.unignore(craft)
      world.step()
      assert.deepEqual(told.splice(0), ['begin solid unignored'])
      craft.colliders[0].ignore(ledge.colliders[0])
      world.step()
      assert.deepEqual(told.splice(0), ['end solid ignored'])
      throwsKeen('bad-argument', /never meets itself/, () => craft.ignore(craft))
      throwsKeen('bad-argument', /takes another body/, () => craft.ignore(ledge.colliders[0] as never))
    })

    test('a slot that is used again is not ignored', () => {
      const { world, craft, ledge, go } = scene()
      craft.ignore(ledge)
      ledge.remove()
      world.step()
      world.add({ type: 'static', at: at(0, 10), colliders: [{ shape: box(8, 1), layer: 'ledge' }] })
      assert.deepEqual(go(9), ['begin solid added'])
    })

    test('another shape takes effect at once for queries, and begins and ends with cause reshaped', () => {
      const { world, craft, told } = scene()
      const ray = { from: at(0, 20), to: at(0, 0) }
      const seen = (): number | undefined => world.raycast.first(ray, { layers: 'craft' })?.distance
      assert.equal(seen(), 19)
      craft.colliders[0].shape = circle(9.6)
      assert.equal(seen(), 10.4)
      world.step()
      assert.deepEqual(told.splice(0), ['begin solid reshaped'])
      craft.colliders[0].shape = circle(2)
      world.step()
      assert.deepEqual(told.splice(0), ['end solid reshaped'])
      throwsKeen('bad-shape', /must be made by/, () => {
        craft.colliders[0].shape = { kind: 'circle' } as never
      })
    })
  })
}
