import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { defineLayers } from '../../src/core/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'crate', 'glass'])

for (const { name, createWorld, blast, box, circle, at } of DIMENSIONS) {
  const ORIGIN = at(0, 0)
  const field = () => createWorld({ layers, gravity: ORIGIN })
  type World = ReturnType<typeof field>
  const put = (
    world: World,
    x: number,
    y: number,
    layer: 'crate' | 'glass' = 'crate',
    type: 'dynamic' | 'static' = 'dynamic',
  ) => world.add({ type, at: at(x, y), colliders: [{ shape: circle(0.5), layer }] })
  /** Radians a second about z. */
  const spinOf = ({ spin }: { readonly spin: unknown }): number =>
    typeof spin === 'number' ? spin : (spin as { z: number }).z

  test(`${name}: in the open every body is thrown straight away from the blast, the less the further, nothing beyond its reach`, () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.double({ min: 0, max: 6.28, noNaN: true }), fc.double({ min: 0.6, max: 12, noNaN: true })),
          {
            minLength: 1,
            maxLength: 12,
          },
        ),
        fc.double({ min: 1, max: 9, noNaN: true }),
        (spots, reach) => {
          const world = field()
          const bodies = spots.map(([angle, far]) => put(world, far * Math.cos(angle), far * Math.sin(angle)))
          const hits = blast(world, { at: ORIGIN, reach, strength: 10 })
          assert.equal(hits.length, spots.filter(([, far]) => far - 0.5 <= reach).length)
          for (const [index, body] of bodies.entries()) {
            const [angle, far] = spots[index]
            const share = Math.max(0, 1 - (far - 0.5) / reach)
            const speed = Math.hypot(body.velocity.x, body.velocity.y)
            assert.ok(Math.abs(speed - (10 * share) / body.mass) < 1e-9, `${speed} at ${far} of ${reach}`)
            if (speed > 0) {
              assert.ok(Math.abs(body.velocity.x - speed * Math.cos(angle)) < 1e-6)
              assert.ok(Math.abs(spinOf(body)) < 1e-9, 'straight through the centre')
            }
          }
          for (let i = 1; i < hits.length; i++) assert.ok(hits[i - 1].distance <= hits[i].distance, 'the nearest first')
        },
      ),
      { numRuns: runs(200) },
    )
  })

  test(`${name}: cover holds a blast off, whole or in part; what is left out is neither moved nor cover`, () => {
    const world = field()
    world.add({ type: 'static', at: at(2, 0), colliders: [{ shape: box(0.2, 2), layer: 'rock' }] })
    const behind = put(world, 4, 0)
    const open = put(world, 0, 4)
    const partly = put(world, 4, 2)
    const glass = put(world, -3, 0, 'glass')
    const still = put(world, 0, -3, 'crate', 'static')
    const hits = blast(world, { at: ORIGIN, reach: 8, strength: 5, cover: 'rock', except: [glass] })
    const of = (body: unknown) => hits.find((hit) => hit.body === body)
    assert.equal(of(behind)!.exposed, 0)
    assert.deepEqual(behind.velocity, ORIGIN)
    assert.equal(of(open)!.exposed, 1)
    assert.ok(of(partly)!.exposed > 0 && of(partly)!.exposed < 1)
    assert.equal(of(glass), undefined)
    assert.deepEqual(glass.velocity, ORIGIN)
    assert.ok(of(still)!.impulse.y < 0, 'told of what cannot move, too')
    assert.deepEqual(
      blast(world, { at: ORIGIN, reach: 8, strength: 5, layers: 'glass' }).map((hit) => hit.body),
      [glass],
    )
  })

  test(`${name}: it wakes what sleeps, turns what it strikes off its centre, and its falloff can be given`, () => {
    const world = createWorld({ layers })
    world.add({ type: 'static', at: at(0, -1), colliders: [{ shape: box(40, 2), layer: 'rock' }] })
    const crate = world.add({
      type: 'dynamic',
      at: at(2, 0.5),
      colliders: [{ shape: box(1, 1), layer: 'crate' }],
    })
    for (let i = 0; i < 60; i++) world.step()
    assert.ok(crate.asleep)
    const [hit] = blast(world, {
      at: ORIGIN,
      reach: 6,
      strength: 6,
      falloff: (part) => 1 - part * part,
      layers: 'crate',
    })
    assert.ok(!crate.asleep && spinOf(crate) > 0)
    assert.ok(Math.abs(Math.hypot(hit.impulse.x, hit.impulse.y) - 6 * (1 - (hit.distance / 6) ** 2)) < 1e-9)
    const inside = blast(world, { at: crate.centre, reach: 1, strength: 1, layers: 'crate' })
    assert.equal(inside[0].distance, 0)
    throwsKeen('bad-number', /'reach' of a blast/, () => blast(world, { at: ORIGIN, reach: 0, strength: 1 }))
    throwsKeen('bad-number', /'falloff'/, () =>
      blast(world, { at: ORIGIN, reach: 9, strength: 1, falloff: () => Number.NaN }),
    )
    throwsKeen('unknown-layer', /no layer is called/, () =>
      blast(world, { at: ORIGIN, reach: 9, strength: 1, cover: 'stone' as 'rock' }),
    )
  })
}
