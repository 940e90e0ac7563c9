/** Why two do not meet: every check refuses once, names its cure, and the cure works. */
import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import { type Check, defineLayers } from '../../src/2d/index.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft', 'zone', 'fish'], {
  pairs: [
    ['zone', '*', 'sense'],
    ['fish', 'craft', 'pass'],
  ],
})

for (const { name: dimension, at, box, circle, createWorld } of DIMENSIONS) {
  describe(dimension, () => {
    /** A craft over a rock wall, both solid, and a watch on them. */
    function scene() {
      const world = createWorld({ layers })
      const craft = world.add({ type: 'kinematic', name: 'craft', colliders: [{ shape: circle(1), layer: 'craft' }] })
      const rock = world.add({
        type: 'kinematic',
        name: 'rock',
        at: at(1.5, 0),
        colliders: [{ shape: box(2, 2), layer: 'rock' }],
      })
      world.watch('craft', 'rock')
      return { world, craft, rock, shape: craft.colliders[0], wall: rock.colliders[0] }
    }

    type Scene = ReturnType<typeof scene>

    /** What spoils the meeting, the check that must say so, what it must speak of, and what mends it. */
    const spoilers: [Check, RegExp, (s: Scene) => void, ((s: Scene) => void) | null][] = [
      ['alive', /rock was removed/, (s) => s.rock.remove(), null],
      [
        'enabled',
        /craft is disabled/,
        (s) => {
          s.craft.enabled = false
        },
        (s) => {
          s.craft.enabled = true
        },
      ],
      [
        'enabled',
        /every collider of rock is disabled/,
        (s) => {
          s.wall.enabled = false
        },
        (s) => {
          s.wall.enabled = true
        },
      ],
      [
        'colliders',
        /craft has no collider/,
        (s) => s.shape.remove(),
        (s) => s.craft.attach({ shape: circle(1), layer: 'craft' }),
      ],
      ['ignored', /craft and rock were told/, (s) => s.craft.ignore(s.rock), (s) => s.rock.unignore(s.craft)],
      ['ignored', /collider 0 of craft and collider 0/, (s) => s.shape.ignore(s.wall), (s) => s.shape.unignore(s.wall)],
      [
        'masks',
        /setPair\('craft', 'rock'/,
        (s) => s.world.setPair('craft', 'rock', 'pass'),
        (s) => s.world.setPair('craft', 'rock', 'solid'),
      ],
      [
        'masks',
        /set by hand: add 'craft'/,
        (s) => {
          s.wall.solidBits = 'rock'
          s.wall.senseBits = 0
        },
        (s) => {
          s.wall.senseBits = 'craft'
        },
      ],
      [
        'masks',
        /put collider 0 of craft on a layer/,
        (s) => {
          s.shape.layer = []
        },
        (s) => {
          s.shape.layer = 'craft'
        },
      ],
      ['bounds', /7.5 m apart/, (s) => s.craft.teleport(at(-8, 0)), (s) => s.craft.teleport(at(0, 0))],
      ['shapes', /0\.\d+ m apart/, (s) => s.craft.teleport(at(-0.4, -1.9)), (s) => s.craft.teleport(at(0, 0))],
    ]

    test('each thing that keeps two apart is named, and its cure lets them meet', () => {
      for (const [check, text, spoil, mend] of spoilers) {
        const s = scene()
        s.world.step()
        assert.equal(s.world.explain(s.craft, s.rock).meets, true)
        spoil(s)
        const told = s.world.explain(s.craft, s.rock)
        assert.equal(told.meets, false)
        assert.equal(told.refusedBy, check, String(told))
        const refused = told.checks.find((each) => each.verdict === 'refused')!
        assert.match(`${refused.detail} => ${refused.cure}`, text)
        assert.match(String(told), /they do not meet/)
        // What it says is what the step finds.
        if (s.craft.alive && s.rock.alive) {
          s.world.step()
          assert.equal(s.craft.touching().length + s.craft.overlapping().length, 0, check)
        }
        if (mend === null) continue
        mend(s)
        assert.equal(s.world.explain(s.craft, s.rock).meets, true, check)
      }
    })

    test('two static things, and the colliders of one body, are told apart from a mistake in the masks', () => {
      const world = createWorld({ layers })
      const wall = (x: number) =>
        world.add({ type: 'static', at: at(x, 0), colliders: [{ shape: box(2, 2), layer: 'rock' }] })
      const [a, b] = [wall(0), wall(1)]
      assert.equal(world.explain(a, b).refusedBy, 'both-static')
      a.attach({ shape: circle(1), layer: 'zone' })
      assert.equal(world.explain(a.colliders[0], a.colliders[1]).refusedBy, 'same-body')
    })

    test('who meets without a watch is told so, and a watch for another response is named', () => {
      const { world, craft, rock } = scene()
      const zone = world.add({ type: 'static', name: 'zone', colliders: [{ shape: box(3, 3), layer: 'zone' }] })
      const told = world.explain(craft, zone)
      assert.deepEqual([told.meets, told.watched, told.refusedBy, told.response], [true, false, 'watched', 'sense'])
      world.watch('craft', 'zone', {}, { response: 'solid' })
      assert.match(String(world.explain(craft, zone)), /'craft:zone' reports solid pairs only/)
      world.watch('craft', 'zone')
      assert.equal(world.explain(craft, zone).watched, true)
      assert.equal(world.explain(craft, rock).watched, true)
    })

    test('a kept answer of a hook, a sensor and a jump by teleport are told', () => {
      const { world, craft, rock, wall } = scene()
      world.decide('craft', 'rock', () => 'pass')
      world.step()
      const told = world.explain(craft, rock)
      assert.deepEqual([told.meets, told.refusedBy], [false, 'decide'])
      wall.sensor = true
      assert.match(String(world.explain(rock, craft)), /collider 0 of rock: a sensor/)
      const gate = world.add({ type: 'static', at: at(-10, 0), colliders: [{ shape: box(1, 9), layer: 'zone' }] })
      craft.teleport(at(-20, 0))
      world.step()
      assert.match(String(world.explain(craft, gate)), /before tick 2 craft was teleported over it/)
    })

    test('of several colliders the pair that came furthest is explained; wrong arguments are named', () => {
      const { world, craft, rock } = scene()
      craft.attach({ shape: circle(1), layer: 'fish' })
      craft.attach({ shape: circle(0.1), layer: 'craft', at: at(50, 0) })
      const told = world.explain(craft, rock)
      assert.equal(told.meets, true)
      assert.match(String(told), /of 3 pairs/)
      const other = createWorld({ layers }).add({ type: 'static' })
      throwsKeen('foreign-handle', /another world/, () => world.explain(craft, other))
      throwsKeen('bad-argument', /two bodies or colliders/, () => world.explain(craft, 3 as never))
    })

    if (dimension === '3D') return
    test('what bodies add: whether anything is pushed, mass, gravity, sleep', () => {
      const world = createWorld({ layers: defineLayers(['rock', 'crate']) })
      const floor = world.add({ type: 'static', name: 'floor', colliders: [{ shape: box(20, 1), layer: 'rock' }] })
      const crate = world.add({
        type: 'dynamic',
        name: 'crate',
        at: at(0, 1),
        mass: 4,
        colliders: [{ shape: box(1, 1), layer: 'crate' }],
      })
      const lift = world.add({
        type: 'kinematic',
        name: 'lift',
        at: at(3, 0.9),
        colliders: [{ shape: box(1, 1), layer: 'crate' }],
      })
      for (let i = 0; i < 60; i++) world.step()
      assert.match(String(world.explain(floor, crate)), /crate is dynamic, weighs 4 kg, asleep/)
      assert.match(String(world.explain(floor, lift)), /nothing pushes them apart/)
      crate.gravityScale = 0
      assert.match(String(world.explain(floor, crate)), /gravity is scaled to 0/)
      world.gravity = at(0, 0)
      crate.locks = { x: true, turn: true }
      assert.match(String(world.explain(floor, crate)), /no gravity, locked in x, turn/)
    })
  })
}
