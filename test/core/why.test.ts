/**
 * Mistakes that are easily made, each with its twin that is right: `explain` names the mistake and its cure, the cure that is applied works, and
 * of the twin there is nothing to say.
 */
import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { mistakesOf } from '../helpers/mistakes.ts'
import { throwsKeen } from '../helpers/throws.ts'

for (const each of DIMENSIONS) {
  const { name: dimension, at, box, circle } = each
  describe(dimension, () => {
    const { scene, mistakes, lands } = mistakesOf(each)

    for (const { name, wrong, says, cure, right, again } of mistakes) {
      test(name, () => {
        const spoilt = scene()
        wrong(spoilt)
        const explanation = spoilt.world.explain(spoilt.craft, spoilt.floor)
        assert.match(String(explanation), says)
        assert.ok(
          explanation.cures.some((each) => cure.test(each)),
          `its cures are ${JSON.stringify(explanation.cures)}`,
        )
        // The cure, and once more from where it began.
        right(spoilt)
        spoilt.craft.teleport(at(0, 3))
        spoilt.craft.velocity = at(0, 0)
        again?.(spoilt)
        lands(spoilt)
        const twin = scene()
        again?.(twin)
        lands(twin)
        assert.deepEqual(
          twin.world.explain(twin.craft, twin.floor).cures.filter((each) => !/type = 'dynamic'/.test(each)),
          [],
        )
      })
    }

    test('a teleport out of a zone is no way over it, and its end is told', () => {
      const { world, craft } = scene()
      const pool = world.add({
        type: 'static',
        name: 'pool',
        at: at(0, 3),
        colliders: [{ shape: box(2, 2), layer: 'zone' }],
      })
      const causes: string[] = []
      world.watch('craft', 'zone', { end: (e) => void causes.push(e.cause) })
      world.step()
      craft.teleport(at(9, 3))
      world.step()
      assert.deepEqual(causes, ['teleported'])
      const text = String(world.explain(craft, pool))
      assert.match(text, /before tick 2 craft was teleported out of pool: its end has cause 'teleported'/)
      assert.doesNotMatch(text, /over it|bring them nearer/)
    })

    test('a watch that almost covers a pair is named, with the side that does not fit; sides are told apart', () => {
      const { world, craft, floor } = scene()
      const tug = world.add({
        type: 'dynamic',
        name: 'tug',
        at: at(3, 0.9),
        colliders: [{ shape: circle(0.5), layer: 'zone' }],
      })
      world.step()
      assert.match(
        String(world.explain(tug, floor)),
        /no watch covers them \('landing' takes floor for 'rock', but collider 0 of tug is not of 'craft'\)/,
      )
      craft.teleport(at(0, 0.9))
      world.step()
      assert.match(String(world.explain(floor, craft)), /reported by 'landing' \(a is craft, b is floor\)/)
    })

    test('what is as it should be gets no cure: a zone one is in, a wall that one walked away from, a floor one lies on', () => {
      const { world, craft, floor, run } = scene()
      const pool = world.add({
        type: 'static',
        name: 'pool',
        at: at(0, 1),
        colliders: [{ shape: box(4, 4), layer: 'zone' }],
      })
      const wall = world.add({
        type: 'static',
        name: 'wall',
        at: at(-4, 2),
        colliders: [{ shape: box(1, 3), layer: 'rock' }],
      })
      const diver = world.add({
        type: 'kinematic',
        name: 'diver',
        at: at(-3, 1),
        velocity: at(2, 0),
        colliders: [{ shape: circle(0.4), layer: 'craft' }],
      })
      world.watch('craft', 'zone')
      run(120)
      assert.deepEqual(world.explain(craft, pool).cures, [])
      assert.deepEqual(world.explain(craft, floor).cures, [])
      assert.doesNotMatch(String(world.explain(diver, wall)), /went through/)
      // It began beside the wall, however fast it goes.
      const shot = world.add({
        type: 'kinematic',
        name: 'shot',
        at: at(-3, 2),
        velocity: at(900, 0),
        colliders: [{ shape: circle(0.2), layer: 'craft' }],
      })
      run(3)
      assert.doesNotMatch(String(world.explain(shot, wall)), /went through/)
    })

    test('parts of one machine that press on each other, and a joint whose bodies press', () => {
      const { world, run } = scene()
      const part = (name: string, x: number) =>
        world.add({
          type: 'dynamic',
          name,
          at: at(x, 6),
          gravityScale: 0,
          colliders: [{ shape: box(1, 1), layer: 'craft' }],
        })
      world.watch('craft', 'craft')
      const [hub, left, right] = [part('hub', 0), part('left', 0.3), part('right', 0.5)]
      world.join({ type: 'fixed', a: hub, b: left })
      world.join({ type: 'fixed', a: hub, b: right })
      run(1)
      const machine = world.explain(left, right)
      assert.match(String(machine), /both are joined to hub, and they stand within each other/)
      assert.deepEqual(machine.cures, ['left.ignore(right), or let the pair of their layers pass'])
      left.ignore(right)
      run(1)
      assert.equal(world.explain(left, right).refusedBy, 'ignored')
      const [one, other] = [part('one', 5), part('other', 5.5)]
      world.join({ type: 'fixed', a: one, b: other, touching: true })
      run(1)
      assert.deepEqual(world.explain(one, other).cures, ["set 'touching' of the joint to false"])
    })

    test('a name that is not there is told with those that are', () => {
      const { world, craft } = scene()
      throwsKeen('bad-argument', /got null: find\(\) gives null .* there are "floor", "craft"/, () =>
        world.explain(craft, world.find('crat') as never),
      )
    })

    test('a change that a handler makes to the wrong side says which side is which', () => {
      const { world, run } = scene()
      world.watch('rock', 'craft', {
        begin: (e) => {
          e.a.velocity = at(0, 1)
        },
      })
      throwsKeen('callback-failed', /e\.a is on the side 'rock' and e\.b on the side 'craft'/, () => run(120))
    })
  })
}
