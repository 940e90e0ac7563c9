/** A world that advises: each mistake told once with its cure, the twin that is right told nothing. */
import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import { defineLayers } from '../../src/2d/index.ts'
import * as small2 from '../../src/2d/kinematic/index.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft', 'zone', 'fish'], {
  pairs: [
    ['zone', '*', 'sense'],
    ['fish', 'rock', 'pass'],
  ],
})

for (const { name: dimension, at, box, circle, createWorld } of DIMENSIONS) {
  describe(dimension, () => {
    function scene() {
      const world = createWorld({ layers, advise: true })
      const floor = world.add({ type: 'static', name: 'floor', colliders: [{ shape: box(20, 1), layer: 'rock' }] })
      const craft = world.add({
        type: 'dynamic',
        name: 'craft',
        at: at(0, 3),
        colliders: [{ shape: circle(0.5), layer: 'craft' }],
      })
      world.watch('craft', 'rock', { begin() {} })
      const run = (ticks: number) => {
        for (let i = 0; i < ticks; i++) world.step()
      }
      const said = () => world.advice().map(({ code, text, cure }) => `${code}: ${text} => ${cure}`)
      return { world, floor, craft, run, said }
    }

    test('where all is right there is nothing to say', () => {
      const { world, run, said } = scene()
      world.raycast.first({ from: at(0, 9), to: at(0, -9) }, { layers: ['rock', 'zone'] })
      run(200)
      assert.deepEqual(said(), [])
    })

    test('a watch that tells nothing: nobody is on a side, or the pair that comes nearest says why', () => {
      const { world, run, said } = scene()
      world.watch('craft', 'zone', {}, { key: 'docking' })
      world.watch('fish', 'rock', {}, { key: 'nibble' })
      world.add({ type: 'kinematic', name: 'cod', at: at(2, 0.5), colliders: [{ shape: circle(1), layer: 'fish' }] })
      run(59)
      assert.deepEqual(said(), [], 'it may still come')
      run(60)
      const advice = said()
      assert.equal(advice.length, 2)
      assert.match(
        advice[0],
        /^silent-watch: watch docking has told nothing in 119 ticks: nobody is on its side 'zone'/,
      )
      assert.match(
        advice[1],
        /watch nibble .* cod and floor, .* do not meet \(masks\) => world\.setPair\('fish', 'rock'/,
      )
      world.setPair('fish', 'rock', 'sense')
      world.add({ type: 'static', at: at(0, 1), colliders: [{ shape: circle(1), layer: 'zone' }] })
      run(1)
      assert.deepEqual(said(), [])
    })

    test('layers that a query asks for while nobody is on them, once each', () => {
      const { world, said } = scene()
      for (let i = 0; i < 3; i++) world.raycast.first({ from: at(0, 9), to: at(0, -9) }, { layers: ['zone', 'fish'] })
      assert.equal(world.overlap.any({ shape: circle(1), at: at(0, 3) }, { layers: 'fish' }), false)
      const advice = said()
      assert.equal(advice.length, 2)
      assert.match(advice[0], /^empty-mask: a query asked for what is on 'zone', 'fish', and nobody was on it/)
    })

    test('what left the scene, and a solid pair that was passed at speed', () => {
      const { world, craft, run, said } = scene()
      craft.sweep = 'off'
      craft.velocity = at(0, -3000)
      run(60)
      const advice = said()
      assert.ok(
        advice.some((each) => /^left: craft has left: it is [\d.]+ m from whatever stands/.test(each)),
        advice.join('\n'),
      )
      const shot = world.add({
        type: 'kinematic',
        name: 'shot',
        at: at(-30, 0),
        velocity: at(4000, 0),
        colliders: [{ shape: circle(0.2), layer: 'craft' }],
      })
      run(2)
      assert.ok(
        said().some(
          (each) => /^passed: shot and floor|^passed: floor and shot/.test(each) && /shot\.travel/.test(each),
        ),
        said().join('\n'),
      )
      craft.remove()
      shot.remove()
      assert.deepEqual(said(), [])
    })

    test('a world that does not advise says so', () => {
      throwsKeen('bad-argument', /advise: true/, () => createWorld({ layers }).advice())
      throwsKeen('bad-argument', /'advise' of a world must be true or false/, () =>
        createWorld({ layers, advise: 1 as unknown as boolean }),
      )
    })
  })
}

test('a world without explanations does not advise', () => {
  throwsKeen('bad-argument', /needs explanations/, () => small2.createWorld({ layers, advise: true }))
})
