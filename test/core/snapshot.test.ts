/** Taken down and put back, a world goes on as if it had never left: to the bit, with the same events, whatever happened in between. */
import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import * as two from '../../src/2d/index.ts'
import {
  circle,
  createWorld,
  defineLayers,
  type EventOf,
  type KeenError,
  tiles,
  type World2,
} from '../../src/2d/index.ts'
import * as three from '../../src/3d/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { played, trace } from '../helpers/played.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

for (const dimension of DIMENSIONS) {
  describe(dimension.name, () => {
    test('restore, then the same again, is as if nothing had been in between', () => {
      for (let seed = 0; seed < runs(2); seed++) {
        const { world, tick, prepare, step } = played(dimension, seed)
        let kept = world.snapshot()
        for (let round = 0; round < 8; round++) {
          // Between a step and what is done after it, or between that and the next step.
          if (round % 2 === 1) prepare()
          kept = world.snapshot(kept)
          const ticks = 5 + 3 * round
          const play = (_: unknown, i: number) => (i === 0 && round % 2 === 1 ? step() : tick())
          const first = Array.from({ length: ticks }, play)
          world.restore(kept)
          assert.equal(world.tick, kept.tick)
          const again = Array.from({ length: ticks }, play)
          for (let i = 0; i < ticks; i++) assert.equal(again[i], first[i], `seed ${seed}, round ${round}, tick ${i}`)
        }
      }
    })

    test('hash: the same for the same, whoever asks in between; another for the least difference', () => {
      const [one, other] = [played(dimension, 3), played(dimension, 3)]
      const seen = new Set<string>()
      for (let i = 0; i < 60; i++) {
        one.tick()
        other.tick()
        other.world.raycast.all({ from: dimension.at(-9, 3), to: dimension.at(9, 1) })
        other.world.nearest.first({ point: dimension.at(0, 9) })
        const hash = one.world.hash()
        assert.match(hash, /^[0-9a-f]{16}$/)
        assert.equal(other.world.hash(), hash)
        assert.equal(one.world.hash(), hash)
        seen.add(hash)
      }
      assert.equal(seen.size, 60)
      const kept = one.world.snapshot()
      const before = one.world.hash()
      const body = one.world.find('sweeper')!
      body.velocity = dimension.at(body.velocity.x + 1e-12, body.velocity.y)
      assert.notEqual(one.world.hash(), before)
      one.world.restore(kept)
      assert.equal(one.world.hash(), before)
      one.world.find('pool')!.colliders[0].sensor = !one.world.find('pool')!.colliders[0].sensor
      assert.notEqual(one.world.hash(), before)
      one.world.restore(kept)
      assert.equal(one.world.hash(), before)
    })

    test('a rollback of ten ticks at every tick changes nothing, and handlers hear nothing of it', () => {
      const [plain, rolled] = [played(dimension, 5), played(dimension, 5)]
      const states = Array.from({ length: 11 }, () => rolled.world.snapshot())
      const world = rolled.world
      for (let i = 0; i < 50; i++) {
        const expected = plain.tick()
        const state = world.snapshot(states[i % 11])
        states[i % 11] = state
        const got = rolled.tick()
        assert.equal(got, expected, `tick ${i}`)
        if (i < 10) continue
        const hash = world.hash()
        rolled.heard.length = 0
        world.restore(states[(i + 2) % 11])
        for (let k = 0; k < 10; k++) {
          world.snapshot(states[(i + 2 + k) % 11])
          rolled.prepare()
          world.step({ quiet: true })
        }
        assert.equal(world.hash(), hash)
        assert.deepEqual(rolled.heard, [])
      }
    })

    test('what handlers have not heard is told after a rollback, with cause restored', () => {
      const { at, box, circle, createWorld } = dimension
      const world = createWorld({ layers }) as World2
      const heard: string[] = []
      const pool = world.add({ type: 'static', name: 'pool', colliders: [{ shape: box(2, 2), layer: 'zone' }] })
      const craft = (name: string, x: number) =>
        world.add({
          type: 'kinematic',
          name,
          at: at(x, 0),
          velocity: at(6, 0),
          colliders: [{ shape: circle(0.2), layer: 'craft' }],
        })
      const [one, other] = [craft('one', -2), craft('other', -2)]
      const hear = (e: EventOf<World2>) => void heard.push(`${e.tick} ${e.kind} ${e.a} ${e.cause} ${e.a.alive}`)
      world.watch('craft', pool, { begin: hear, end: hear })
      const early = world.snapshot()
      for (let i = 0; i < 10; i++) world.step()
      assert.deepEqual(heard, ['8 begin one moved true', '8 begin other moved true'])
      // It turns out that `one` had turned back in time, that a third was there, and `other` stays in.
      heard.length = 0
      world.restore(early, { tell: true })
      one.velocity = at(-6, 0)
      const third = craft('third', -1.5)
      for (let i = 0; i < 9; i++) world.step({ quiet: true })
      assert.deepEqual(heard, [])
      world.step()
      assert.deepEqual(heard, ['10 end one restored true', '10 begin third restored true'])
      assert.deepEqual(
        world.events().map((e) => `${e.kind} ${e.b}`),
        ['end one', 'begin third'],
      )
      assert.ok(third.alive && other.alive)
      // Told is told: the next step has nothing to add, and ends come as they always do.
      heard.length = 0
      for (let i = 0; i < 30; i++) world.step()
      assert.deepEqual(heard, ['27 end third moved true', '32 end other moved true'])
      // Without it a state is handed over silently, and bodies that came later are gone.
      heard.length = 0
      world.restore(early)
      assert.ok(!third.alive)
      assert.equal(world.find('third'), null)
      world.step()
      assert.deepEqual(heard, [])
    })

    test('handles are revived, and what came later is removed', () => {
      const { at, box, circle, createWorld } = dimension
      const world = createWorld({ layers }) as World2
      const rock = world.add({ type: 'static', name: 'rock', colliders: [{ shape: box(4, 1), layer: 'rock' }] })
      const crate = world.add({
        type: 'dynamic',
        name: 'crate',
        at: at(0, 1),
        colliders: [{ shape: circle(0.5), layer: 'craft' }],
      })
      const hinge = world.join({
        type: 'distance',
        name: 'rope',
        a: crate,
        b: rock,
        atA: at(0, 1),
        atB: at(0, 0),
        max: 3,
      } as never)
      const collider = crate.colliders[0]
      const state = world.snapshot()
      assert.ok(state.bytes > 1000)
      crate.remove()
      world.step()
      const late = world.add({
        type: 'dynamic',
        name: 'crate',
        at: at(9, 9),
        colliders: [{ shape: circle(1), layer: 'rock' }],
      })
      const lateCollider = late.colliders[0]
      for (let i = 0; i < 3; i++) world.step()
      assert.ok(!crate.alive && !collider.alive && !hinge.alive && late.alive)
      world.restore(state)
      assert.ok(crate.alive && collider.alive && hinge.alive && !late.alive && !lateCollider.alive)
      assert.equal(world.find('crate'), crate)
      assert.deepEqual(crate.colliders, [collider])
      assert.equal(collider.layer, 'craft')
      assert.equal(late.at.x, 9)
      assert.equal(world.joints().length, 1)
      assert.equal(world.tick, 0)
      assert.throws(() => late.teleport(at(0, 0)), { code: 'dead-handle' })
      // And on the other side: the state in which it is gone.
      crate.remove()
      const gone = world.snapshot()
      world.restore(state)
      assert.ok(crate.alive)
      world.restore(gone)
      assert.ok(!crate.alive && !collider.alive)
      world.step()
      assert.equal(world.bodies().length, 1)
    })

    test('watches and hooks that came or went in between', () => {
      const { at, box, circle, createWorld } = dimension
      const world = createWorld({ layers }) as World2
      const heard: string[] = []
      const hear = (name: string) => ({
        begin: () => void heard.push(`${name} begin`),
        end: () => void heard.push(`${name} end`),
      })
      world.add({ type: 'static', name: 'pool', colliders: [{ shape: box(2, 2), layer: 'zone' }] })
      const craft = world.add({ type: 'kinematic', at: at(0, 0), colliders: [{ shape: circle(0.2), layer: 'craft' }] })
      const stays = world.watch('craft', 'zone', hear('stays'))
      const goes = world.watch('craft', 'zone', hear('goes'), { key: 'goes' })
      const once = world.watch('craft', 'zone', hear('once'), { once: true, key: 'once' })
      world.step()
      const state = world.snapshot()
      craft.teleport(at(9, 0))
      world.step()
      assert.ok(once.stopped)
      goes.stop()
      const late = world.watch('craft', 'zone', hear('late'), { key: 'late' })
      heard.length = 0
      world.restore(state)
      assert.deepEqual([stays.count, goes.stopped, once.stopped, late.count], [1, true, false, 0])
      world.step()
      assert.deepEqual(heard, ['late begin'])
      craft.teleport(at(9, 0))
      world.step()
      assert.deepEqual(heard, ['late begin', 'stays end', 'once end', 'late end'])
    })

    test('a world that walked, and went back to before that, has the hash of one that never walked', () => {
      const { at, box, circle, createWorld } = dimension
      const made = () => {
        const world = createWorld({ layers }) as World2
        world.add({ type: 'static', colliders: [{ shape: box(60, 1), layer: 'rock' }] })
        const colliders = [{ shape: circle(0.5), layer: 'craft' as const }]
        return { world, walker: world.add({ type: 'kinematic', at: at(0, 1), colliders }) }
      }
      const [one, other] = [made(), made()]
      const before = one.world.snapshot()
      assert.equal(one.world.hash(), other.world.hash())
      one.walker.travel(at(0.2, -0.1), { up: at(0, 1), ride: true, snap: 0.3, onHit: 'slide' })
      one.world.step()
      assert.notEqual(one.world.hash(), other.world.hash())
      one.world.restore(before)
      assert.equal(one.world.hash(), other.world.hash())
      for (const { world } of [one, other]) world.step()
      assert.equal(one.world.hash(), other.world.hash())
    })

    test('what was done and not stepped yet: travels, rides, teleports, what was put there; and what was done since', () => {
      const { at, box, circle, createWorld } = dimension
      const world = createWorld({ layers }) as World2
      world.add({ type: 'static', colliders: [{ shape: box(60, 1), layer: 'rock' }] })
      const lift = world.add({
        type: 'kinematic',
        at: at(0, 1),
        velocity: at(0.6, 0.3),
        colliders: [{ shape: box(6, 0.5), layer: 'rock' }],
      })
      const walker = (x: number) =>
        world.add({ type: 'kinematic', at: at(x, 1.8), colliders: [{ shape: circle(0.5), layer: 'craft' }] })
      const [rider, runner, jumper] = [walker(0), walker(-2), walker(-20)]
      world.watch('craft', 'rock')
      world.watch('craft', 'craft')
      const walk = { up: at(0, 1), ride: true, snap: 0.3, onHit: 'slide' } as const
      for (let i = 0; i < 4; i++) {
        rider.travel(at(0, -0.1), walk)
        world.step()
      }
      // On its way, and more of it to come in this step.
      runner.travel(at(1.2, 0.4), walk)
      runner.travel(at(0.4, -0.6), walk)
      jumper.teleport(at(-10, 4))
      const state = world.snapshot()
      const play = () =>
        Array.from({ length: 8 }, () => {
          world.step()
          return trace(world, [])
        })
      const first = play()
      assert.ok(rider.at.x > 0.05, 'it is carried along')
      for (const spoil of [
        () => rider.travel(at(0, 5)),
        () => rider.remove(),
        () => runner.teleport(at(9, 9)),
        () => runner.travel(at(-3, 2), { onHit: 'slide' }),
        () => lift.teleport(at(3, 3)),
        () => void world.add({ type: 'static', at: at(0, 9), colliders: [{ shape: box(9, 9), layer: 'rock' }] }),
      ]) {
        world.restore(state)
        spoil()
        play()
        world.restore(state)
        assert.deepEqual(play(), first)
      }
    })

    test('what was put there since is met by no question', () => {
      const { at, circle, createWorld } = dimension
      const world = createWorld({ layers }) as World2
      const state = world.snapshot()
      const lib = dimension.name === '2D' ? two : three
      const half = (lib as typeof two).halfspace({ ...at(0, 1) } as never, 0)
      world.add({ type: 'static', colliders: [{ shape: half, layer: 'rock' }] })
      world.add({ type: 'kinematic', at: at(0, 5), colliders: [{ shape: circle(1), layer: 'rock' }] })
      const ray = { from: at(0, 9), to: at(0, -9) }
      assert.equal(world.raycast.all(ray).length, 2)
      const full = world.snapshot()
      world.restore(state)
      assert.equal(world.raycast.all(ray).length, 0)
      world.restore(full)
      assert.equal(world.raycast.all(ray).length, 2)
    })

    test('what is no snapshot of this world is refused, and so is the time within a step', () => {
      const { circle, createWorld } = dimension
      const world = createWorld({ layers }) as World2
      const other = createWorld({ layers }) as World2
      throwsKeen('bad-argument', /must be a snapshot of this world or bytes of save\(\), got null/, () =>
        world.restore(null as never),
      )
      throwsKeen('bad-argument', /is of another world/, () => world.restore(other.snapshot()))
      throwsKeen('bad-argument', /'into' of snapshot is of another world/, () => world.snapshot(other.snapshot()))
      throwsKeen('bad-argument', /no field "tel"/, () => world.restore(world.snapshot(), { tel: true } as never))
      throwsKeen('bad-argument', /'quiet' of a step/, () => world.step({ quiet: 1 } as never))
      throwsKeen('bad-argument', /takes no time, got 0.016/, () => world.step(0.016 as never))
      const failures: string[] = []
      world.watch('craft', 'craft', {
        begin() {
          for (const call of [() => world.snapshot(), () => world.hash(), () => world.restore(state)]) {
            try {
              call()
            } catch (error) {
              failures.push((error as KeenError).code)
            }
          }
        },
      })
      for (let i = 0; i < 2; i++) world.add({ type: 'kinematic', colliders: [{ shape: circle(1), layer: 'craft' }] })
      world.setPair('craft', 'craft', 'sense')
      const state = world.snapshot()
      world.step()
      assert.deepEqual(failures, ['locked', 'locked', 'locked'])
    })
  })
}

test('2D: tiles that were carved and set are what they were', () => {
  const ground = tiles({
    cell: 1,
    rows: ['................', '................', '################', '################'],
    kinds: { '#': {} },
  })
  const world = createWorld({ layers })
  const rock = world.add({ type: 'static', at: { x: -8, y: -4 }, colliders: [{ shape: ground, layer: 'rock' }] })
  for (let i = 0; i < 6; i++)
    world.add({ type: 'dynamic', at: { x: i - 3, y: 2 + i }, colliders: [{ shape: circle(0.4), layer: 'craft' }] })
  const [collider] = rock.colliders
  const play = (from: number): string[] =>
    Array.from({ length: 60 }, (_, i) => {
      if (i % 9 === 4) collider.carve({ shape: circle(0.8), at: { x: (from % 7) - 3 + (i % 5), y: -2 } })
      if (i % 11 === 3) collider.setTile(i % 16, 1, '#')
      world.step()
      const bodies = world.bodies().map((body) => [body.at, body.angle, body.velocity])
      return JSON.stringify([bodies, collider.outline, collider.tileAt(3, 1)])
    })
  play(0)
  collider.setTile(2, 0, '#')
  const state = world.snapshot()
  const [hash, first] = [world.hash(), play(1)]
  const end = world.hash()
  play(2)
  world.restore(state)
  assert.equal(world.hash(), hash)
  assert.equal(collider.tileAt(2, 0), '#')
  assert.deepEqual(play(1), first)
  assert.equal(world.hash(), end)
})
