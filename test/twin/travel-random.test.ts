/** Travel through random rooms, in both dimensions: nothing is overlapped that was not before, and a thousand small steps end near by. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { type AskingShape2, defineLayers, type TravelOptions2 } from '../../src/2d/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { DIMENSIONS, type Dimension } from '../helpers/dimensions.ts'
import { Random } from '../helpers/random.ts'
import { slideInSteps } from '../oracle/travel.ts'

const layers = defineLayers(['rock', 'craft'], { otherwise: 'solid' })

interface Room {
  readonly world: ReturnType<typeof newWorld>
  readonly random: Random
  readonly x: number
  readonly y: number
}

function newWorld(d: Dimension) {
  return d.createWorld({ layers })
}

function shapeOf(d: Dimension, random: Random, size: number): AskingShape2 {
  const round = random.chance(0.5)
  return round
    ? d.circle(size * random.between(0.3, 0.8))
    : d.box(size * random.between(0.4, 2), size * random.between(0.4, 2))
}

/** A room of boxes and balls: some on whole coordinates and flush, some anywhere and turned; near the origin or far from it. */
function roomOf(d: Dimension, seed: number): Room {
  const random = new Random(seed)
  const world = newWorld(d)
  const far = random.pick([0, 0, 7, 3000])
  const [x, y] = [far, -2 * far]
  const onGrid = random.chance(0.4)
  const count = 4 + random.below(14)
  for (let i = 0; i < count; i++) {
    const place = onGrid
      ? d.turned(x + random.below(9) - 4, y + random.below(9) - 4, 0)
      : d.turned(x + random.between(-4, 4), y + random.between(-4, 4), random.chance(0.5) ? 0 : random.between(-3, 3))
    const shape = onGrid ? d.box(1, 1) : shapeOf(d, random, 1)
    world.add({ type: random.chance(0.8) ? 'static' : 'kinematic', ...place, colliders: [{ shape, layer: 'rock' }] })
  }
  return { world, random, x, y }
}

/** A body where it has room, or null. */
function bodyIn(d: Dimension, { world, random, x, y }: Room, most: number) {
  for (let tries = 0; tries < 20; tries++) {
    const shape = shapeOf(d, random, most)
    const angle = random.chance(0.5) ? 0 : random.between(-3, 3)
    const place = d.turned(x + random.between(-5, 5), y + random.between(-5, 5), angle)
    const colliders = [{ shape, layer: 'craft' as const }]
    const body = world.add({ type: 'kinematic', ...place, colliders })
    if (body.overlapping().length === 0) return { body, shape, angle }
    body.remove()
  }
  return null
}

function optionsOf(d: Dimension, random: Random): TravelOptions2 {
  const onHit = random.pick(['stop', 'slide', 'bounce'] as const)
  const maxHits = random.pick([1, 8, 100])
  if (onHit === 'bounce' || random.chance(0.4)) return { onHit, maxHits }
  return {
    onHit,
    maxHits,
    up: random.chance(0.7) ? d.at(0, 1) : d.at(random.between(-1, 1), random.between(0.1, 1)),
    steepest: random.between(0, 1.5),
    stepHeight: random.pick([0, 0.3, 1]),
    snap: random.pick([0, 0.3]),
    ride: random.chance(0.3),
  }
}

for (const d of DIMENSIONS) {
  test(`${d.name}: after any travel it overlaps nothing, and a second one of nothing changes nothing`, () => {
    let hits = 0
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const room = roomOf(d, seed)
        const { world, random } = room
        const found = bodyIn(d, room, random.pick([0.2, 1]))
        if (found === null) return
        const { body } = found
        for (let i = 0; i < 12; i++) {
          const options = optionsOf(d, random)
          const far = random.pick([0.05, 1, 1, 8, 200])
          const by = d.at(far * random.between(-1, 1), random.chance(0.3) ? 0 : far * random.between(-1, 1))
          const before = body.at
          const result = body.travel(by, options)
          hits += result.hits.length
          const told = JSON.stringify({ by, options, before, at: body.at })
          assert.ok(Number.isFinite(body.at.x + body.at.y), `a pose that is none: ${told}`)
          assert.deepEqual(
            body.overlapping().map(({ body: other }) => other.serial),
            [],
            `it overlaps after ${told}`,
          )
          for (const hit of result.hits) {
            const length = Math.sqrt(hit.normal.x ** 2 + hit.normal.y ** 2)
            assert.ok(Math.abs(length - 1) < 1e-9, 'a normal is a unit')
            assert.equal(hit.startedInside, false, `nothing was overlapped: ${told}`)
          }
          const at = JSON.stringify(body.at)
          // What moved up was not drawn to the ground, and is by a travel that does not.
          const { up = d.at(0, 1), snap = 0 } = options
          if (snap > 0 && by.x * up.x + by.y * up.y > 0) continue
          const again = body.travel(d.at(0, 0), options)
          assert.equal(JSON.stringify(body.at), at, `a second travel of nothing moved it after ${told}`)
          assert.deepEqual([again.moved.x, again.moved.y], [0, 0])
          if (random.chance(0.3)) world.step()
        }
      }),
      { numRuns: runs(300) },
    )
    assert.ok(hits > 100, `too few hits: ${hits}`)
  })

  test(`${d.name}: it stops where a shape cast stops, and what it slides is what a thousand small steps slide`, () => {
    let [compared, near, casts] = [0, 0, 0]
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const room = roomOf(d, seed)
        const { world, random } = room
        const found = bodyIn(d, room, 0.5)
        if (found === null) return
        const { body, shape, angle } = found
        const by = d.at(random.between(-3, 3), random.between(-3, 3))
        const from = body.at
        const { at: _, ...turned } = d.turned(0, 0, angle)
        const motion = { shape, from, to: d.at(from.x + by.x, from.y + by.y), ...turned }
        const hit = world.shapecast.first(motion, { except: body })
        const result = body.travel(by)
        assert.equal(result.hits.length, hit === null ? 0 : 1)
        const part = hit?.fraction ?? 1
        const slack = 1e-9 * Math.max(1, Math.abs(from.x))
        assert.ok(Math.abs(result.moved.x - by.x * part) < slack && Math.abs(result.moved.y - by.y * part) < slack)
        if (hit !== null) casts++
        body.teleport(from)
        if (angle !== 0) return
        const options = { onHit: 'slide', maxHits: 100 } as const
        body.travel(by, options)
        const reference = slideInSteps(world as never, shape, from, by, body as never)
        compared++
        if (Math.abs(body.at.x - reference.x) + Math.abs(body.at.y - reference.y) < 0.05) near++
      }),
      { numRuns: runs(120) },
    )
    assert.ok(casts > 2, `too few hits: ${casts}`)
    // What passes a corner by a hair may be turned to either side of it.
    assert.ok(near >= 0.93 * compared, `only ${near} of ${compared} end near by`)
  })
}
