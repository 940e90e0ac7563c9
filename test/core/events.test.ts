import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import { type Body2, defineLayers, type KeenError, type WatchEvent } from '../../src/2d/index.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

for (const { name: dimension, at, turned, spin, box, circle, createWorld } of DIMENSIONS) {
  describe(dimension, () => {
    function reef() {
      const world = createWorld({ layers, tags: ['player'] })
      const zone = world.add({
        type: 'static',
        name: 'zone',
        at: at(0, 0),
        colliders: [{ shape: box(4, 4), layer: 'zone' }],
      })
      const craft = (x: number, name?: string) =>
        world.add({
          type: 'kinematic',
          name,
          at: at(x, 0),
          colliders: [{ shape: circle(0.5), layer: 'craft', tags: ['player'] }],
        })
      return { world, zone, craft }
    }

    type Told = Pick<WatchEvent<Body2, unknown, unknown>, 'kind' | 'cause' | 'tick'> & { a: string; b: string }

    /** Handlers that write down what they are told. */
    function scribe() {
      const told: Told[] = []
      const write = (event: WatchEvent<Body2<never>, unknown, unknown>): void => {
        told.push({ kind: event.kind, cause: event.cause, tick: event.tick, a: String(event.a), b: String(event.b) })
      }
      const lines = (): string[] => told.splice(0).map((each) => `${each.kind} ${each.a} ${each.b} ${each.cause}`)
      return { lines, handlers: { begin: write, end: write } as never }
    }

    test('a body of three shapes enters once and leaves once; a handover between them is no event', () => {
      const { world, zone } = reef()
      const craft = world.add({
        type: 'kinematic',
        name: 'craft',
        at: at(-6, 0),
        velocity: at(6, 0),
        colliders: [-1.2, 0, 1.2].map((x) => ({ shape: circle(0.3), layer: 'craft', at: at(x, 0) })),
      })
      const bodies = scribe()
      const each = scribe()
      world.watch('craft', 'zone', bodies.handlers)
      world.watch('craft', zone, each.handlers, { per: 'collider' })
      for (let i = 0; i < 150; i++) world.step()
      assert.deepEqual(bodies.lines(), ['begin craft zone moved', 'end craft zone moved'])
      assert.equal(each.lines().length, 6)
      // From one shape to another within one tick: the count never was empty after a tick.
      craft.velocity = at(0, 0)
      craft.teleport(at(2.5 + 1.2, 0))
      world.step()
      assert.deepEqual(bodies.lines(), [])
      craft.teleport(at(1.2 + 2, 0))
      world.step()
      assert.deepEqual(bodies.lines(), ['begin craft zone teleported'])
      craft.teleport(at(-1.2 - 2, 0))
      world.step()
      assert.deepEqual(bodies.lines(), [])
    })

    test('every cause, where it belongs', () => {
      const { world, zone, craft } = reef()
      const { lines, handlers } = scribe()
      world.watch('craft', 'zone', handlers)
      const sub = craft(0, 'sub')
      const [collider] = sub.colliders
      const after = (change: () => void): string[] => {
        change()
        world.step()
        return lines()
      }
      assert.deepEqual(
        after(() => {}),
        ['begin sub zone added'],
      )
      assert.deepEqual(
        after(() => sub.teleport(at(9, 0))),
        ['end sub zone teleported'],
      )
      assert.deepEqual(
        after(() => sub.teleport(at(0, 0))),
        ['begin sub zone teleported'],
      )
      assert.deepEqual(
        after(() => (sub.enabled = false)),
        ['end sub zone disabled'],
      )
      assert.deepEqual(
        after(() => (sub.enabled = true)),
        ['begin sub zone enabled'],
      )
      assert.deepEqual(
        after(() => (collider.enabled = false)),
        ['end sub zone disabled'],
      )
      assert.deepEqual(
        after(() => (collider.enabled = true)),
        ['begin sub zone enabled'],
      )
      assert.deepEqual(
        after(() => world.setPair('craft', 'zone', 'pass')),
        ['end sub zone refiltered'],
      )
      assert.deepEqual(
        after(() => world.setPair('craft', 'zone', 'sense')),
        ['begin sub zone refiltered'],
      )
      assert.deepEqual(
        after(() => (collider.layer = 'rock')),
        ['end sub zone refiltered'],
      )
      assert.deepEqual(
        after(() => (collider.layer = 'craft')),
        ['begin sub zone refiltered'],
      )
      assert.deepEqual(
        after(() => sub.arriveAt(at(9, 0))),
        ['end sub zone moved'],
      )
      assert.deepEqual(
        after(() => sub.arriveAt(at(0, 0))),
        ['begin sub zone moved'],
      )
      // A change that leaves the response as it was is no cause, and off and on again is no event.
      assert.deepEqual(
        after(() => {
          sub.enabled = false
          sub.enabled = true
        }),
        [],
      )
      assert.deepEqual(
        after(() => {
          collider.senseBits = ['zone', 'rock']
          sub.arriveAt(at(9, 0))
        }),
        ['end sub zone moved'],
      )
      assert.deepEqual(
        after(() => sub.arriveAt(at(0, 0))),
        ['begin sub zone moved'],
      )
      assert.deepEqual(
        after(() => zone.remove()),
        ['end sub zone removed'],
      )
    })

    test('words set by hand are left alone by setPair, and setting the layer fills all three anew', () => {
      const { world, craft } = reef()
      const [collider] = craft(0).colliders
      collider.solidBits = 'craft'
      world.setPair('craft', '*', 'pass')
      assert.equal(collider.solidBits, layers.bit('craft'))
      assert.equal(collider.senseBits, 0)
      collider.layer = 'craft'
      assert.equal(collider.solidBits, 0)
      collider.layer = ['rock', 'zone']
      assert.deepEqual(collider.layer, ['rock', 'zone'])
      assert.equal(collider.layerBits, layers.mask('rock', 'zone'))
      collider.layerBits = 2 ** 31
      assert.equal(collider.layerBits, 2 ** 31)
    })

    test('a watch made while two already meet hears a begin, with dwell from there', () => {
      const { world, craft } = reef()
      craft(0, 'sub')
      for (let i = 0; i < 5; i++) world.step()
      const { lines, handlers } = scribe()
      const watch = world.watch('craft', 'zone', handlers)
      world.step()
      assert.deepEqual(lines(), ['begin sub zone watched'])
      world.step()
      assert.equal(watch.pairs()[0].dwell, 1 / 60)
    })

    test('during comes every tick after the begin, with the dwell counted', () => {
      const { world, craft } = reef()
      craft(0)
      const dwells: number[] = []
      let seconds = 0
      world.watch('craft', 'zone', {
        during: (event) => {
          dwells.push(event.dwell)
          seconds += event.dt
        },
      })
      for (let i = 0; i < 4; i++) world.step()
      assert.deepEqual(dwells, [1 / 60, 2 / 60, 3 / 60])
      assert.equal(seconds, 3 / 60)
    })

    test('removing both bodies inside the begin: one end, cause removed, and no begin for what was not told yet', () => {
      const { world, zone, craft } = reef()
      const sub = craft(0, 'sub')
      craft(0.2, 'other')
      const { lines, handlers } = scribe()
      const killer = scribe()
      world.watch('craft', 'zone', {
        begin: () => {
          sub.remove()
          zone.remove()
        },
        ...({ end: (killer.handlers as { end(): void }).end } as object),
      })
      world.watch('craft', 'zone', handlers)
      world.step()
      assert.deepEqual(killer.lines(), ['end sub zone removed'])
      assert.deepEqual(lines(), [])
      assert.equal(sub.alive, false)
      assert.equal(sub.name, 'sub')
      assert.deepEqual(sub.at, at(0, 0))
      assert.equal(sub.colliders[0].layer, 'craft')
      assert.deepEqual(sub.colliders[0].tags, ['player'])
      throwsKeen('dead-handle', /sub was removed/, () => sub.teleport(at(1, 1)))
      throwsKeen('dead-handle', /after its removal/, () => (sub.colliders[0].enabled = false))
      world.step()
      assert.deepEqual([killer.lines(), lines()], [[], []])
      assert.equal(world.stats.bodies, 1)
    })

    test('changes in a callback other than removal leave queued facts as they are', () => {
      const { world, craft } = reef()
      const sub = craft(0, 'sub')
      const { lines, handlers } = scribe()
      world.watch('craft', 'zone', { begin: () => sub.teleport(at(50, 0)) })
      world.watch({ tag: 'player' }, 'zone', handlers)
      world.step()
      assert.deepEqual(lines(), ['begin sub zone added'])
      world.step()
      assert.deepEqual(lines(), ['end sub zone teleported'])
    })

    test('a body added and a watch made in a callback are heard from the next step on', () => {
      const { world, craft } = reef()
      craft(0, 'sub')
      const { lines, handlers } = scribe()
      let done = false
      world.watch('craft', 'zone', {
        begin: () => {
          if (done) return
          done = true
          craft(0.1, 'spawn')
          world.watch('craft', 'zone', handlers)
          throwsKeen('step-in-callback', /while a step is running/, () => world.step())
        },
      })
      world.step()
      assert.deepEqual(lines(), [])
      world.step()
      assert.deepEqual(lines(), ['begin sub zone watched', 'begin spawn zone added'])
    })

    test('an error in a handler: all others are called, then the first error is thrown with its watch', () => {
      const { world, craft } = reef()
      craft(0, 'sub')
      const { lines, handlers } = scribe()
      const first = new Error('no oxygen')
      world.watch(
        'craft',
        'zone',
        {
          begin: () => {
            throw first
          },
        },
        { key: 'air' },
      )
      world.watch('craft', 'zone', {
        begin: () => {
          throw new Error('second')
        },
      })
      world.watch('craft', 'zone', handlers)
      const error: KeenError = throwsKeen(
        'callback-failed',
        /'begin' handler of watch 'air' threw: no oxygen \(and 1 more/,
        () => world.step(),
      )
      assert.equal(error.cause, first)
      assert.equal(error.others.length, 1)
      assert.deepEqual(lines(), ['begin sub zone added'])
      world.step()
      assert.deepEqual(lines(), [])
    })

    test('once is over after the first begin and its end', () => {
      const { world, craft } = reef()
      const sub = craft(0, 'sub')
      craft(0.2, 'other')
      const { lines, handlers } = scribe()
      const watch = world.watch('craft', 'zone', handlers, { once: true })
      world.step()
      assert.deepEqual(lines(), ['begin sub zone added'])
      sub.teleport(at(20, 0))
      world.step()
      assert.deepEqual(lines(), ['end sub zone teleported'])
      assert.equal(watch.stopped, true)
      sub.teleport(at(0, 0))
      world.step()
      assert.deepEqual(lines(), [])
    })

    test('stop is silent and at once, also inside its own handler', () => {
      const { world, craft } = reef()
      craft(0)
      craft(0.3)
      let begins = 0
      const watch = world.watch('craft', 'zone', {
        begin: () => {
          begins++
          watch.stop()
        },
        end: () => assert.fail('told after stop'),
      })
      world.step()
      world.clear()
      world.step()
      assert.equal(begins, 1)
      assert.equal(watch.count, 0)
    })

    test('the order: ends, then begins by their time and age; a and b follow the sides', () => {
      const { world, zone } = reef()
      const mover = (name: string, x: number) =>
        world.add({
          type: 'kinematic',
          name,
          at: at(x, 0),
          colliders: [{ shape: circle(0.5), layer: 'craft' }],
        })
      const movers = [mover('late', -2.5 - 0.9), mover('early', -2.5 - 0.3), mover('leaver', 2.45)]
      world.watch(zone, 'craft', { begin: (e) => assert.equal(e.a, zone) })
      const order: string[] = []
      const whens: number[] = []
      const note = (e: { kind: string; a: unknown; when: number }): void => {
        order.push(`${e.kind} ${String(e.a)}`)
        whens.push(Math.round(e.when * 1000) / 1000)
      }
      world.watch('craft', 'zone', { begin: note, end: note })
      world.step()
      for (const body of movers) body.velocity = at(60, 0)
      world.step()
      assert.deepEqual(order, ['begin leaver', 'end leaver', 'begin early', 'begin late'])
      assert.deepEqual(whens, [0, 0.05, 0.3, 0.9])
    })

    test('a solid pair is told with the normal from a to b, touches within a millimetre and ends beyond two', () => {
      const { world } = reef()
      world.add({ type: 'static', name: 'rock', at: at(20, 0), colliders: [{ shape: box(2, 2), layer: 'rock' }] })
      const sub = world.add({
        type: 'kinematic',
        name: 'sub',
        at: at(20, 1.5 + 0.0015),
        colliders: [{ shape: circle(0.5), layer: 'craft' }],
      })
      const told: string[] = []
      const write = (e: { kind: string; normal: { x: number; y: number } | null }): void => {
        told.push(`${e.kind} ${e.normal?.x},${e.normal?.y}`)
      }
      world.watch('craft', 'rock', { begin: write, end: write })
      const gapTo = (gap: number): string[] => {
        sub.arriveAt(at(20, 1.5 + gap))
        world.step()
        return told.splice(0)
      }
      assert.deepEqual(gapTo(0.0015), [])
      assert.deepEqual(gapTo(0.0009), ['begin 0,-1'])
      assert.deepEqual(gapTo(0.0015), [])
      assert.deepEqual(
        sub.touching().map((each) => [String(each.body), each.normal]),
        [['rock', at(0, 1)]],
      )
      assert.deepEqual(sub.overlapping(), [])
      assert.deepEqual(gapTo(0.0021), ['end 0,-1'])
    })

    test('two static bodies never report, and a pair that nobody presses apart or asks about is not tested', () => {
      const { world, craft } = reef()
      craft(0)
      world.add({ type: 'static', at: at(0, 0), colliders: [{ shape: circle(1), layer: 'craft' }] })
      world.step()
      assert.equal(world.stats.pairs, 0, 'the solid pair of the two craft neither')
      assert.equal(world.stats.tests, 0)
      const watch = world.watch('craft', 'zone')
      world.step()
      assert.equal(watch.count, 1)
      assert.equal(world.stats.pairs, 1)
      watch.stop()
      world.step()
      assert.equal(world.stats.pairs, 0)
    })

    test('two thousand at one place cost what is asked about them, and nothing else', () => {
      const { world, craft, zone } = reef()
      const crowd = Array.from({ length: 2000 }, (_, i) => craft(0, i === 7 ? 'seventh' : undefined))
      world.step()
      assert.equal(world.stats.pairs, 0)
      const seventh = world.watch(crowd[7], '*')
      world.step()
      assert.deepEqual([world.stats.pairs, seventh.count], [2000, 2000])
      seventh.stop()
      const hook = world.decide('craft', zone, () => 'pass')
      world.step()
      assert.equal(world.stats.pairs, 2000)
      hook.stop()
      world.step()
      assert.equal(world.stats.pairs, 0)
      // Whom it touches can be asked all the same.
      const touched = crowd[7].touching()
      assert.equal(touched.length, 1999)
      assert.deepEqual([touched[0].body, touched[0].impulse], [crowd[0], 0])
    })

    test('whom it touches is the same with and without a watch', () => {
      const { world, craft } = reef()
      const rock = world.add({ type: 'static', at: at(20, 0), colliders: [{ shape: box(2, 2), layer: 'rock' }] })
      const sub = craft(20)
      for (const [height, touches] of [
        [0.5, true],
        [1.5009, true],
        [1.5011, false],
        [1.7, false],
      ] as const) {
        sub.teleport(at(20, height))
        world.step()
        const alone = sub.touching()
        const watch = world.watch('craft', 'rock')
        world.step()
        assert.deepEqual(sub.touching(), alone, `${height} up`)
        assert.equal(alone.length, touches ? 1 : 0, `${height} up`)
        assert.equal(rock.touching().length, alone.length)
        watch.stop()
        world.step()
      }
      sub.ignore(rock)
      sub.teleport(at(20, 1))
      assert.deepEqual(sub.touching(), [])
    })

    test('events() has each fact once, the older first, and keeps them until the next step', () => {
      const { world, craft } = reef()
      craft(0, 'sub')
      world.watch('craft', 'zone')
      world.watch('zone', { tag: 'player' })
      world.watch('*', '*', {}, { per: 'collider', kinds: ['begin'] })
      world.step()
      const [event, ...more] = world.events()
      assert.equal(more.length, 0)
      assert.deepEqual([event.kind, String(event.a), String(event.b)], ['begin', 'zone', 'sub'])
      assert.equal(world.events({ per: 'collider' }).length, 1)
      world.step()
      assert.deepEqual(world.events(), [])
    })

    test('a kept event does not change, the one that is passed does', () => {
      const { world, craft } = reef()
      craft(0, 'one')
      craft(0.1, 'two')
      const passed: unknown[] = []
      const kept: string[] = []
      world.watch('craft', 'zone', {
        begin: (event) => {
          passed.push(event)
          kept.push(String(event.keep().a))
        },
      })
      world.step()
      assert.equal(passed[0], passed[1])
      assert.deepEqual(kept, ['one', 'two'])
    })

    test('poses: velocity, arriveAt, poseAt between two ticks, and teleport without a way between', () => {
      const { world, craft } = reef()
      const sub = craft(10)
      sub.velocity = at(6, 0)
      sub.spin = spin(3)
      world.step()
      assert.ok(Math.abs(sub.at.x - 10.1) < 1e-12)
      const pose = sub.poseAt(0.5, turned(0, 0, 0))
      assert.ok(Math.abs(pose.at.x - 10.05) < 1e-12)
      if (dimension === '2D') assert.ok(Math.abs(pose.angle - 0.025) < 1e-12)
      sub.arriveAt(turned(0.1 + 0.2, 7, 2))
      assert.ok(sub.at.x > 10)
      world.step()
      assert.deepEqual(sub.pose, turned(0.1 + 0.2, 7, 2))
      sub.teleport(at(3, 3))
      assert.deepEqual(sub.poseAt(0, pose), turned(3, 3, 2))
    })

    test('misspelt names do not compile, and are told apart at run time', () => {
      const { world, zone } = reef()
      // @ts-expect-error a layer that does not exist
      throwsKeen('unknown-layer', /first side of a watch: .* did you mean "craft"/, () => world.watch('craf', 'zone'))
      // @ts-expect-error a tag that does not exist
      throwsKeen('unknown-tag', /did you mean "player"/, () => world.watch({ tag: 'playr' }, 'zone'))
      throwsKeen('unknown-layer', /did you mean "rock"/, () =>
        // @ts-expect-error a layer that does not exist
        world.add({ type: 'static', colliders: [{ shape: circle(1), layer: 'rok' }] }),
      )
      throwsKeen('bad-argument', /no field "began"/, () => world.watch('craft', 'zone', { began: () => {} } as never))
      throwsKeen('bad-argument', /names no layer/, () => world.watch([], 'zone'))
      throwsKeen('foreign-handle', /belongs to another world/, () => reef().world.watch(zone, 'craft'))
      throwsKeen('duplicate-name', /"zone" is already/, () => world.add({ type: 'static', name: 'zone' }))
      throwsKeen('bad-argument', /static body takes no 'velocity'/, () =>
        world.add({ type: 'static', velocity: at(1, 0) }),
      )
      throwsKeen('bad-argument', /only a kinematic body can be sent/, () => zone.arriveAt(at(1, 1)))
      throwsKeen('bad-number', /'radius' of a (circle|sphere) must be above 0/, () => circle(-1))
      throwsKeen('bad-shape', /must be made by/, () =>
        world.add({ type: 'static', colliders: [{ shape: {} as never, layer: 'rock' }] }),
      )
      assert.equal(world.stats.bodies, 1, 'nothing was added by half')
    })
  })
}
