/** In and out within one tick: nothing that is sensed passes unseen. */
import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import fc from 'fast-check'
import { box as box2, circle as circle2, defineLayers, type Shape2, type Vec2 } from '../../src/2d/index.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { Random } from '../helpers/random.ts'
import { gapOf, placed } from '../oracle/round.ts'

const layers = defineLayers(['craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

for (const { name: dimension, at, turned, line, box, circle, createWorld } of DIMENSIONS) {
  describe(dimension, () => {
    /** A shape of 2D, for the reference, and the same of the world's dimension. */
    interface Both {
      flat: Shape2
      real: Shape2
    }

    interface Heard {
      kind: string
      cause: string
      when: number
      zone: string
    }

    interface Told {
      readonly kind: string
      readonly cause: string
      readonly when: number
      readonly b: { readonly name: string | null }
    }

    /** A world with a craft, and a list of what is told of it and the zones. */
    function scene(shape: Shape2 = circle(0.1)) {
      const world = createWorld({ layers })
      const craft = world.add({ type: 'kinematic', colliders: [{ shape, layer: 'craft' }] })
      const heard: Heard[] = []
      const hear = (e: Told): void => {
        heard.push({ kind: e.kind, cause: e.cause, when: e.when, zone: e.b.name ?? '' })
      }
      const watch = world.watch('craft', 'zone', { begin: hear, end: hear })
      const zone = (
        name: string,
        x: number,
        y: number,
        of: Shape2 = box(0.5, 4),
        type: 'static' | 'kinematic' = 'static',
      ) => world.add({ type, name, at: at(x, y), colliders: [{ shape: of, layer: 'zone' }] })
      return { world, craft, heard, watch, zone }
    }

    test('a zone crossed within one tick begins and ends, with the times at which it was crossed', () => {
      const { world, craft, heard, watch, zone } = scene()
      zone('gate', 5, 0)
      craft.arriveAt(at(10, 0))
      world.step()
      assert.deepEqual(
        heard.map(({ kind, cause, zone }) => [kind, cause, zone]),
        [
          ['begin', 'crossed', 'gate'],
          ['end', 'crossed', 'gate'],
        ],
      )
      assert.ok(Math.abs(heard[0].when - 0.465) < 1e-6 && Math.abs(heard[1].when - 0.535) < 1e-6)
      assert.equal(watch.count, 0)
      world.step()
      assert.equal(heard.length, 2)
    })

    test('several zones are told in the order of the way, the end of each straight after its begin', () => {
      const { world, craft, heard, zone } = scene()
      zone('third', 8, 0)
      zone('first', 2, 0)
      zone('second', 5, 0)
      craft.arriveAt(at(10, 0))
      world.step()
      assert.deepEqual(
        heard.map((e) => `${e.kind} ${e.zone}`),
        ['begin first', 'end first', 'begin second', 'end second', 'begin third', 'end third'],
      )
    })

    test('two movers that cross each other within a tick are told, whichever way they go', () => {
      for (const slow of [false, true]) {
        const { world, craft, heard, zone } = scene()
        const net = zone('net', slow ? 5 : 0, slow ? 0.3 : -10, box(0.4, 0.4), 'kinematic')
        craft.teleport(at(-10, 0))
        world.step()
        craft.arriveAt(at(10, 0))
        net.arriveAt(slow ? at(5, 0.1) : at(0, 10))
        world.step()
        assert.deepEqual(
          heard.map((e) => `${e.kind} ${e.cause}`),
          ['begin crossed', 'end crossed'],
        )
      }
    })

    test('a slow mover that clips a corner is told too', () => {
      const { world, craft, heard, zone } = scene(circle(0.01))
      zone('corner', 1, -1, box(2, 2))
      craft.teleport(at(-0.02, -0.013))
      world.step()
      craft.arriveAt(at(0.013, 0.02))
      world.step()
      assert.deepEqual(
        heard.map((e) => `${e.kind} ${e.cause}`),
        ['begin crossed', 'end crossed'],
      )
    })

    test('a spin that sweeps through a thin sensor counts, a whole turn too', () => {
      for (const turn of dimension === '2D' ? [Math.PI, 2 * Math.PI] : [Math.PI]) {
        const { world, craft, heard, zone } = scene(box(0.1, 10))
        zone('wire', 3, 3, circle(0.01))
        craft.arriveAt(turned(0, 0, turn))
        world.step()
        assert.deepEqual(
          heard.map((e) => `${e.kind} ${e.cause}`),
          ['begin crossed', 'end crossed'],
          `a turn of ${turn}`,
        )
      }
    })

    test('teleport never sweeps; the path of the same tick begins where the teleport ended', () => {
      const { world, craft, heard, zone } = scene()
      zone('gate', 5, 0)
      craft.teleport(at(10, 0))
      world.step()
      assert.equal(heard.length, 0)
      craft.teleport(at(5, 0))
      craft.arriveAt(at(9, 0))
      world.step()
      assert.deepEqual(
        heard.map((e) => `${e.kind} ${e.cause}`),
        ['begin crossed', 'end crossed'],
      )
      assert.equal(heard[0].when, 0)
    })

    test('a body of several shapes passes from the first entry to the last exit, once; each pair by itself when asked', () => {
      const world = createWorld({ layers })
      const craft = world.add({
        type: 'kinematic',
        colliders: [-1, 0, 1].map((x) => ({ shape: circle(0.1), layer: 'craft' as const, at: at(x, 0) })),
      })
      world.add({ type: 'static', at: at(10, 0), colliders: [{ shape: box(1, 1), layer: 'zone' }] })
      const whole: string[] = []
      const each: string[] = []
      world.watch('craft', 'zone', {
        begin: (e) => whole.push(`begin ${e.when.toFixed(3)}`),
        end: (e) => whole.push(`end ${e.when.toFixed(3)}`),
      })
      world.watch('craft', 'zone', { begin: (e) => each.push(`${e.aCollider.index}`) }, { per: 'collider' })
      craft.arriveAt(at(20, 0))
      world.step()
      assert.deepEqual(whole, ['begin 0.420', 'end 0.580'])
      assert.deepEqual(each, ['2', '1', '0'])
    })

    test('a body of which one shape passes and another stays in has plainly moved there', () => {
      const world = createWorld({ layers })
      const craft = world.add({
        type: 'kinematic',
        colliders: [0, -5].map((x) => ({ shape: circle(0.1), layer: 'craft' as const, at: at(x, 0) })),
      })
      world.add({ type: 'static', at: at(10, 0), colliders: [{ shape: box(1, 1), layer: 'zone' }] })
      const told: string[] = []
      world.watch('craft', 'zone', {
        begin: (e) => told.push(`begin ${e.cause} ${e.when.toFixed(2)} ${e.aCollider.index}`),
        end: (e) => told.push(`end ${e.cause}`),
      })
      world.step()
      craft.arriveAt(at(15, 0))
      world.step()
      assert.deepEqual(told.splice(0), ['begin moved 0.63 1'])
      craft.arriveAt(at(0, 0))
      world.step()
      assert.deepEqual(told, ['end moved'])
    })

    test('a graze has its end where it has its begin, never before', () => {
      const { world, craft, heard, zone } = scene(line(at(0, 0), at(-0.25, -1.5)))
      zone('line', 0, 0, line(at(1.75, 0), at(1.6439891115105354e-10, 0)))
      craft.teleport(at(0, -0.5))
      world.step()
      craft.arriveAt(at(0, 5))
      world.step()
      if (heard.length === 0) return
      assert.equal(heard.length, 2)
      assert.ok(heard[0].when <= heard[1].when && Math.abs(heard[0].when - 0.5 / 5.5) < 0.01)
    })

    test('what is removed in the begin of a passing gets its end with cause removed; once is over after it', () => {
      const { world, craft, zone } = scene()
      const gate = zone('gate', 5, 0)
      const told: string[] = []
      world.watch(
        'craft',
        'zone',
        {
          begin() {
            told.push('begin')
            gate.remove()
          },
          end: (e) => told.push(`end ${e.cause}`),
        },
        { once: true },
      )
      craft.arriveAt(at(10, 0))
      world.step()
      assert.deepEqual(told, ['begin', 'end removed'])
      assert.equal(world.stats.watches, 1)
    })

    test('random ways past random zones: what a walk in small steps meets is told, and nothing else', () => {
      const long = process.env['KEEN_LONG'] === '1'
      let crossed = 0
      fc.assert(
        fc.property(fc.integer(), (seed) => {
          const random = new Random(seed)
          const shape = random.chance(0.5) ? ball(random.between(0.05, 0.5)) : crate(random.between(0.1, 1), 0.2)
          const { world, craft, heard, zone } = scene(shape.real)
          const anywhere = (): Vec2 => at(random.between(-3, 3), random.between(-3, 3))
          const from = { at: anywhere(), angle: random.between(-3, 3) }
          // In 3D a turn goes the short way round.
          const most = dimension === '2D' ? 7 : 3
          const to = { at: anywhere(), angle: from.angle + (random.chance(0.5) ? 0 : random.between(-most, most)) }
          const target = random.chance(0.5) ? ball(random.between(0.05, 1)) : crate(random.between(0.05, 2), 0.1)
          const place = anywhere()
          zone('zone', place.x, place.y, target.real)
          craft.teleport(turned(from.at.x, from.at.y, from.angle))
          world.step()
          const before = heard.length > 0
          heard.length = 0
          craft.arriveAt(turned(to.at.x, to.at.y, to.angle))
          world.step()
          // The reference walks the way in small steps; between two of them nothing comes nearer than `slack`.
          const steps = 400
          const still = placed(target.flat, place, 0)
          let least = Infinity
          for (let i = 0; i <= steps; i++) {
            const t = i / steps
            const pose = at(from.at.x + (to.at.x - from.at.x) * t, from.at.y + (to.at.y - from.at.y) * t)
            least = Math.min(least, gapOf(placed(shape.flat, pose, from.angle + (to.angle - from.angle) * t), still))
          }
          const slack = (Math.hypot(to.at.x - from.at.x, to.at.y - from.at.y) + Math.abs(to.angle - from.angle)) / steps
          const after = gapOf(placed(shape.flat, to.at, to.angle), still) < 0
          if (before || after) return
          if (least < -1e-9) assert.equal(heard.length, 2, `missed, deepest ${least}`)
          else if (least > slack) assert.equal(heard.length, 0, `told, nearest ${least}`)
          if (heard.length > 0) {
            crossed++
            assert.ok(heard[0].when <= heard[1].when)
          }
        }),
        { numRuns: long ? 50_000 : 1500 },
      )
      assert.ok(crossed > (long ? 2000 : 50), `only ${crossed} crossings`)
    })

    // What is met at z = 0 is met by what is as deep as a box.
    const ball = (radius: number): Both => ({ flat: circle2(radius), real: circle(radius) })
    const crate = (width: number, height: number): Both => ({ flat: box2(width, height), real: box(width, height) })
  })
}
