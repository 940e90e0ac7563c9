/** Handles are made when somebody asks for them: when that is, and who asks, makes no difference. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { type Body2, type Collider2, defineLayers } from '../../src/2d/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { DIMENSIONS, type Dimension } from '../helpers/dimensions.ts'

type Act = readonly ['add' | 'attach' | 'remove' | 'detach' | 'disable' | 'save' | 'back' | 'step', number]

const ACTS: fc.Arbitrary<readonly Act[]> = fc.array(
  fc.tuple(
    fc.constantFrom('add', 'add', 'attach', 'remove', 'detach', 'disable', 'save', 'back', 'step', 'step'),
    fc.nat(20),
  ) as fc.Arbitrary<Act>,
  { maxLength: 40 },
)

/** All that can be read from colliders, also of bodies that are gone. */
function read(bodies: readonly Body2[]): unknown {
  return bodies.map((body) => [
    String(body),
    body.alive,
    body.colliders.map((each) => [String(each), each.alive, each.serial, each.index, each.layerBits, each.enabled]),
    body.colliders.every((each) => each.body === body),
  ])
}

/** Plays acts. @param ask whether every handle is asked for at once */
function play({ createWorld, circle, at }: Dimension, acts: readonly Act[], ask: boolean): unknown {
  const world = createWorld({ layers: defineLayers(['a', 'b']), advise: false })
  const told: string[] = []
  world.watch(
    'a',
    'b',
    {
      begin: ({ aCollider, bCollider }) =>
        told.push(`${aCollider} ${aCollider.serial} + ${bCollider} ${bCollider.serial}`),
      end: ({ aCollider, bCollider, cause }) => told.push(`${aCollider} - ${bCollider} ${cause}`),
    },
    { per: 'collider' },
  )
  const shape = circle(1) as never
  const bodies: Body2[] = []
  const living = (n: number): Body2 | undefined => {
    const all = bodies.filter(({ alive }) => alive)
    return all[n % Math.max(all.length, 1)]
  }
  const parts = (): readonly Collider2[] => bodies.flatMap(({ colliders }) => colliders)
  let state = world.snapshot()
  let known = 0
  for (const [act, n] of acts) {
    const one = living(n)
    const layer = n % 2 === 0 ? 'a' : 'b'
    if (act === 'add') {
      const type = n % 3 === 0 ? 'kinematic' : 'static'
      bodies.push(world.add({ type, at: at(n % 5, 0), colliders: n % 4 === 0 ? [] : [{ shape, layer }] }))
    } else if (act === 'attach') one?.attach({ shape, layer, at: n % 3 === 0 ? at(1, 0) : undefined })
    else if (act === 'remove') one?.remove()
    else if (act === 'detach') one?.colliders[0]?.remove()
    else if (act === 'disable' && one !== undefined) one.enabled = !one.enabled
    else if (act === 'save') {
      state = world.snapshot()
      known = bodies.length
    } else if (act === 'back') {
      world.restore(state)
      bodies.length = known
    } else world.step()
    if (ask) parts()
  }
  world.step()
  return { told, hash: world.hash(), colliders: read(bodies) }
}

for (const dimension of DIMENSIONS) {
  test(`${dimension.name}: when a handle is asked for makes no difference`, () => {
    fc.assert(
      fc.property(ACTS, (acts) => {
        assert.deepEqual(play(dimension, acts, false), play(dimension, acts, true))
      }),
      { numRuns: runs(400) },
    )
  })

  test(`${dimension.name}: whoever asks first, it is the same handle`, () => {
    const { createWorld, circle, at } = dimension
    const shape = circle(1) as never
    const asked: Record<string, (world: ReturnType<typeof build>) => unknown> = {
      ray: ({ world }) => world.raycast.first({ from: at(-5, 0), to: at(5, 0) })!.collider,
      overlap: ({ world }) => world.overlap.first({ shape, at: at(0, 0) })!.collider,
      where: ({ world }) => {
        let seen: unknown = null
        world.raycast.first(
          { from: at(-5, 0), to: at(5, 0) },
          { layers: 'rock', where: (each) => (seen = each) !== null },
        )
        return seen
      },
      number: ({ world }) => world.colliderAt(0),
      event: ({ world, events }) => {
        world.step()
        return events[0]
      },
      list: ({ rock }) => rock.colliders[0],
      overlapping: ({ mover }) => mover.overlapping()[0].other,
    }
    const build = () => {
      const world = createWorld({ layers: defineLayers(['rock', 'mover']), advise: false })
      const rock = world.add({ type: 'static', colliders: [{ shape, layer: 'rock' }] })
      const mover = world.add({ type: 'kinematic', at: at(0, 0.5), colliders: [{ shape, layer: 'mover' }] })
      const events: unknown[] = []
      world.watch(rock, 'mover', { begin: ({ aCollider }) => events.push(aCollider) })
      return { world, rock, mover, events }
    }
    for (const [name, ask] of Object.entries(asked)) {
      const set = build()
      const first = ask(set)
      assert.ok(first !== null && first !== undefined, name)
      // What was added since is asked for after a state was taken down.
      set.world.snapshot()
      const late = set.world.add({ type: 'static', at: at(50, 0), colliders: [{ shape, layer: 'rock' }] })
      assert.equal(set.world.overlap.first({ shape, at: at(50, 0) })!.collider, late.colliders[0])
      for (const [other, again] of Object.entries(asked)) {
        if (other === 'event') continue
        assert.equal(again(set), first, `${name}, then ${other}`)
      }
      assert.equal(set.world.colliderAt(99), null)
      set.rock.remove()
      assert.equal((first as Collider2).alive, false)
      assert.equal(set.rock.colliders[0], first)
    }
  })
}
