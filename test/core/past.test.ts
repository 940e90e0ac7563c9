/** The past of a world: what was asked so many ticks ago is answered as it was then, whatever has become of those who were there. */
import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import { createWorld, defineLayers, type World2 } from '../../src/2d/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { busy } from '../helpers/busy.ts'
import { DIMENSIONS, type Dimension } from '../helpers/dimensions.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'

/** Answers of all four questions, as text: handles by their age. */
function ask(
  dimension: Dimension,
  asked: Pick<World2, 'raycast' | 'shapecast' | 'overlap' | 'nearest'>,
  seed: number,
): string {
  const { at, box, circle } = dimension
  const random = new Random(seed)
  const place = () => at(random.between(-9, 9), random.between(-1, 9))
  const answers: unknown[] = []
  const told = (hits: readonly object[]) =>
    hits.map((hit) => ({
      ...hit,
      body: (hit as { body: { serial: number } }).body.serial,
      collider: (hit as { collider: { serial: number } }).collider.serial,
    }))
  for (const filter of [
    undefined,
    { sensors: true },
    { layers: ['craft'] },
    { as: 'craft', response: 'any' },
  ] as const) {
    answers.push(told(asked.raycast.all({ from: place(), to: place() }, filter as never)))
    answers.push(told(asked.shapecast.all({ shape: circle(0.4), from: place(), to: place() }, filter as never)))
    answers.push(told(asked.overlap.all({ shape: box(3, 3), at: place(), depth: true }, filter as never)))
    answers.push(told(asked.nearest.all({ point: place(), reach: 3 }, filter as never)))
  }
  return JSON.stringify(answers)
}

for (const dimension of DIMENSIONS) {
  describe(dimension.name, () => {
    test('what was asked n ticks ago, of a world in which much happens', () => {
      for (let seed = 0; seed < runs(2); seed++) {
        const { world, prepare } = busy(dimension, 20 + seed, { history: 20 })
        const answers: string[] = []
        for (let i = 0; i < 60; i++) {
          prepare()
          world.step()
          answers[world.tick] = ask(dimension, world, world.tick)
          const random = new Random(i)
          // To and fro, so that what is shown is moved, taken out and put in again.
          for (let k = 0; k < 3; k++) {
            const ago = random.below(Math.min(20, world.tick - 1) + 1)
            const past = world.past(ago)
            assert.equal(past.tick, world.tick - ago)
            assert.equal(
              ask(dimension, past, past.tick),
              answers[past.tick],
              `seed ${seed}, tick ${world.tick}, ${ago} ago`,
            )
          }
        }
        // And nothing of it was felt.
        const alone = busy(dimension, 20 + seed)
        for (let i = 0; i < 60; i++) {
          alone.prepare()
          alone.world.step()
        }
        assert.equal(world.hash(), alone.world.hash())
      }
    })

    test('those who are gone are there, those who came later are not; except takes either', () => {
      const { at, box, circle } = dimension
      const world = dimension.createWorld({ layers: defineLayers(['rock', 'craft']), history: 10 }) as World2
      const put = (name: string, x: number) =>
        world.add({ type: 'kinematic', name, at: at(x, 0), colliders: [{ shape: circle(0.5), layer: 'craft' }] })
      const old = put('old', 3)
      const wall = world.add({ type: 'static', at: at(6, 0), colliders: [{ shape: box(1, 4), layer: 'rock' }] })
      world.step()
      old.remove()
      wall.remove()
      world.step()
      const late = put('late', 2)
      world.step()
      const ray = { from: at(0, 0), to: at(9, 0) }
      const past = world.past(2)
      assert.equal(past.raycast.first(ray)!.body, old)
      assert.equal(past.raycast.first(ray, { except: old })!.body, wall)
      assert.equal(past.raycast.first(ray, { except: [old, late] })!.body, wall)
      assert.equal(past.raycast.all(ray, { where: (collider) => collider.body !== wall }).length, 1)
      assert.equal(world.past(1).raycast.first(ray), null)
      assert.equal(world.past(0).raycast.first(ray)!.body, late)
      throwsKeen('bad-argument', /late.* was not there in the tick/, () =>
        past.raycast.first(ray, { as: late.colliders[0] }),
      )
      const other = dimension.createWorld({ layers: defineLayers(['rock', 'craft']) }) as World2
      const foreign = other.add({ type: 'static', colliders: [{ shape: circle(1), layer: 'rock' }] })
      throwsKeen('foreign-handle', /belongs to another world/, () => past.raycast.first(ray, { except: foreign }))
      // It lasts as long as the tick is remembered.
      for (let i = 0; i < 8; i++) world.step()
      assert.equal(past.raycast.first(ray)!.body, old)
      world.step()
      throwsKeen('bad-argument', /nothing is known of tick 1: it is forgotten/, () => past.raycast.first(ray))
    })

    test('filters are those of then: layers, sensors, what is switched off', () => {
      const { at, circle } = dimension
      const world = dimension.createWorld({ layers: defineLayers(['rock', 'craft']), history: 5 }) as World2
      const body = world.add({ type: 'static', colliders: [{ shape: circle(1), layer: 'rock' }] })
      const [collider] = body.colliders
      const seen = (asked: Pick<World2, 'overlap'>) => {
        const place = { shape: circle(1), at: at(0, 0) }
        return [asked.overlap.any(place, { layers: ['rock'] }), asked.overlap.any(place, { sensors: true })]
      }
      world.step()
      collider.layer = 'craft'
      world.step()
      collider.sensor = true
      world.step()
      body.enabled = false
      world.step()
      assert.deepEqual(
        [3, 2, 1, 0].map((ago) => seen(world.past(ago))),
        [
          [true, true],
          [false, true],
          [false, true],
          [false, false],
        ],
      )
    })

    test('asked as a layer, the pair table is that of then', () => {
      const { at, circle } = dimension
      const world = dimension.createWorld({ layers: defineLayers(['rock', 'craft']), history: 5 }) as World2
      world.add({ type: 'static', colliders: [{ shape: circle(1), layer: 'rock' }] })
      const meets = (asked: Pick<World2, 'overlap'>) =>
        asked.overlap.any({ shape: circle(1), at: at(0, 0) }, { as: 'craft' })
      world.step()
      world.setPair('craft', 'rock', 'pass')
      world.step()
      assert.deepEqual(
        [meets(world), meets(world.past(1)), meets(world.past(0)), meets(world.past(1))],
        [false, true, false, true],
      )
    })

    test('after a restore the past is that of the way that was taken', () => {
      const { at, circle } = dimension
      const world = dimension.createWorld({ layers: defineLayers(['rock', 'craft']), history: 10 }) as World2
      const body = world.add({
        type: 'kinematic',
        velocity: at(6, 0),
        colliders: [{ shape: circle(0.1), layer: 'craft' }],
      })
      const where = (ago: number) =>
        world
          .past(ago)
          .nearest.first({ point: at(0, 0) })!
          .distance.toFixed(3)
      for (let i = 0; i < 4; i++) world.step()
      const state = world.snapshot()
      for (let i = 0; i < 4; i++) world.step()
      assert.deepEqual([where(0), where(4)], ['0.700', '0.300'])
      world.restore(state)
      body.velocity = at(12, 0)
      for (let i = 0; i < 3; i++) world.step({ quiet: true })
      assert.deepEqual([where(0), where(1), where(3), where(5)], ['0.900', '0.700', '0.300', '0.100'])
      assert.ok(body.alive)
    })

    test('what cannot be asked is refused', () => {
      const { createWorld: make } = dimension
      const layers = defineLayers(['rock'])
      throwsKeen('bad-argument', /remembers nothing: createWorld\(\{ history: 30 \}\)/, () => make({ layers }).past(1))
      for (const history of [-1, 1.5, Number.NaN, 3601, '3' as never])
        throwsKeen('bad-number', /'history' of a world/, () => make({ layers, history }))
      const world = make({ layers, history: 3 })
      for (const ago of [-1, 0.5, 4, Number.NaN, undefined as never, null as never])
        throwsKeen('bad-number', /past takes a whole number of ticks from 0 to 3/, () => world.past(ago))
      throwsKeen('bad-argument', /tick -2: the world had not begun/, () => world.past(2))
      assert.equal(world.past(0).raycast.first({ from: dimension.at(0, 0), to: dimension.at(1, 0) }), null)
    })
  })
}

test('2D: polylines, halfspaces and compounds are where they were, and tiles what they were', async () => {
  const lib = await import('../../src/2d/index.ts')
  const world = createWorld({ layers: defineLayers(['rock', 'craft']), history: 8 })
  const ground = world.add({
    type: 'static',
    at: { x: -4, y: -2 },
    colliders: [{ shape: lib.tiles({ cell: 1, rows: ['########', '########'], kinds: { '#': {} } }), layer: 'rock' }],
  })
  world.add({ type: 'static', colliders: [{ shape: lib.halfspace({ x: 0, y: 1 }, -5), layer: 'rock' }] })
  const line = lib.polyline([
    { x: -3, y: 0 },
    { x: 0, y: 1 },
    { x: 3, y: 0 },
  ])
  const lift = world.add({
    type: 'kinematic',
    at: { x: 0, y: 3 },
    velocity: { x: 0, y: 6 },
    colliders: [{ shape: line, layer: 'rock' }],
  })
  const asked: string[] = []
  const down = (of: Pick<World2, 'raycast'>) =>
    JSON.stringify(
      of.raycast
        .all({ from: { x: 0.5, y: 9 }, to: { x: 0.5, y: -9 } })
        .map((hit) => [hit.body.serial, hit.distance, hit.part]),
    )
  for (let i = 0; i < 8; i++) {
    if (i === 3) ground.colliders[0].setTile(4, 0, '.')
    if (i === 5)
      lift.colliders[0].shape = lib.compound([{ shape: lib.circle(1) }, { shape: lib.box(1, 3), at: { x: 0.5, y: 0 } }])
    world.step()
    asked[world.tick] = down(world)
  }
  assert.equal(new Set(asked.slice(1)).size, 8)
  // The tile that was taken out in tick 4 is there before.
  const [before, after] = ['[1,9,4]', '[1,10,12]']
  assert.ok(asked[1].includes(before) && asked[8].includes(after))
  for (const ago of [0, 7, 3, 5, 1, 6, 2, 4]) assert.equal(down(world.past(ago)), asked[world.tick - ago], `${ago} ago`)
  // What is changed after a step belongs to the next.
  ground.colliders[0].setTile(4, 0, '#')
  assert.ok(down(world.past(0)).includes(after) && down(world).includes(before))
})

test('2D: tiles that are set, carved and carried about, by handlers too: what was asked n ticks ago', async () => {
  const lib = await import('../../src/2d/index.ts')
  for (let seed = 0; seed < runs(4); seed++) {
    const random = new Random(300 + seed)
    const world = createWorld({ layers: defineLayers(['rock', 'craft', 'slime']), history: 20 })
    const kinds = {
      '#': {},
      '/': {
        shape: [
          { x: 0, y: 0 },
          { x: 1, y: 0 },
          { x: 1, y: 1 },
        ],
      },
      '~': { layer: 'slime' },
    } as const
    const grid = (columns: number, rows: number) =>
      lib.tiles({
        rows: Array.from({ length: rows }, () =>
          Array.from({ length: columns }, () => '.#/~'[random.below(4)]).join(''),
        ),
        kinds,
      })
    const rock = world.add({ type: 'static', at: { x: -9, y: -4 }, colliders: [{ shape: grid(18, 5), layer: 'rock' }] })
    const raft = world.add({
      type: 'kinematic',
      at: { x: -4, y: 3 },
      velocity: { x: 1.5, y: 0.4 },
      spin: 0.7,
      colliders: [{ shape: grid(4, 3), layer: 'rock', at: { x: -2, y: -1 } }],
    })
    for (let i = 0; i < 4; i++)
      world.add({
        type: 'dynamic',
        at: { x: 3 * i - 5, y: 5 },
        colliders: [{ shape: lib.circle(0.4), layer: 'craft' }],
      })
    const change = (): void => {
      const body = random.chance(0.6) ? rock : raft
      const [collider] = body.colliders
      if (collider === undefined) return
      const { columns, rows } = collider.shape as ReturnType<typeof grid>
      if (random.chance(0.7)) collider.setTile(random.below(columns), random.below(rows), '.#/~'[random.below(4)])
      else collider.carve({ shape: lib.circle(0.8), at: { x: random.between(-6, 6), y: random.between(-4, 4) } })
    }
    world.watch('craft', ['rock', 'slime'], { begin: () => change() })
    const flat = DIMENSIONS[0]
    const answers: string[] = []
    for (let i = 0; i < 50; i++) {
      if (i % 3 !== 2) change()
      world.step()
      answers[world.tick] = ask(flat, world, 7000 * seed + world.tick)
      // Some before others, and some more than once.
      for (const ago of [random.below(20), random.below(20)]) {
        const then = world.tick - ago
        if (then < 1) continue
        assert.equal(ask(flat, world.past(ago), 7000 * seed + then), answers[then], `seed ${seed}, tick ${then}`)
      }
    }
  }
})
