/** The test kit: what it says happened is what the world told; what was not as expected throws, with the story and the reason. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { describe, test } from 'node:test'
import { loadModels, playScene, readScene } from '../../scenes-package/src/scene/index.ts'
import { defineLayers, type KeenError, type World2 } from '../../src/2d/index.ts'
import { playFor } from '../../src/testing/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { busy } from '../helpers/busy.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

/** The message of what is refused, with its code. */
function refused(code: string, act: () => unknown): string {
  let message = ''
  assert.throws(act, (error: KeenError) => {
    message = error.message
    return error.name === 'KeenError' && error.code === code
  })
  return message
}

for (const dimension of DIMENSIONS) {
  const { at, box, circle, createWorld } = dimension
  describe(dimension.name, () => {
    test('begins and ends of bodies are those that a watch of the game tells, in busy worlds', () => {
      for (let seed = 0; seed < runs(6); seed++) {
        const { world, prepare } = busy(dimension, seed)
        const told: string[] = []
        const line = (e: { kind: string; tick: number; a: unknown; b: unknown }): string =>
          `${e.tick} ${e.kind} ${[String(e.a), String(e.b)].sort().join(' ')}`
        const tell = (e: never): void => void told.push(line(e))
        world.watch('*', '*', { begin: tell, end: tell } as never)
        const run = playFor(world, 2, { before: () => prepare() })
        const found = run.events().map(line)
        // Two of them in one tick come in an order of their own.
        assert.deepEqual(found.sort(), told.sort(), `seed ${seed}`)
        assert.ok(told.length > 20)
      }
    })

    /** A craft that goes through a zone from 1 to 3 s and strikes a wall at 5 s. */
    const course = () => {
      const world = createWorld({ layers, tags: ['loud'] }) as World2
      const zone = world.add({
        type: 'static',
        name: 'pool',
        at: at(2, 0),
        colliders: [{ shape: box(1, 1), layer: 'zone', sensor: true }],
      })
      world.add({ type: 'static', name: 'wall', at: at(6, 0), colliders: [{ shape: box(1, 4), layer: 'rock' }] })
      world.add({ type: 'static', name: 'roof', at: at(0, 9), colliders: [{ shape: box(1, 1), layer: 'rock' }] })
      const craft = world.add({
        type: 'dynamic',
        name: 'craft',
        gravityScale: 0,
        velocity: at(1, 0),
        mass: 3,
        colliders: [
          { shape: circle(0.5), layer: 'craft', tags: ['loud'] as never },
          { shape: circle(0.3), layer: 'craft', at: at(-0.2, 0) },
        ],
      })
      return { world, zone, craft }
    }

    const room = (right: number) => ({ min: { x: -1, y: -1, z: -9 }, max: { x: right, y: 1, z: 9 } })

    test('what was expected passes, and gives the event; windows, causes and responses narrow it', () => {
      const { world, zone, craft } = course()
      const run = playFor(world, 7)
      const { tick, time, response, cause } = run.began(craft, 'pool')
      assert.ok(Math.abs(time - 1) < 0.05)
      assert.equal(tick, Math.round(time / world.dt))
      assert.deepEqual([response, cause], ['sense', 'moved'])
      run.began({ tag: 'loud' }, zone, { from: 0.9, until: 1.1, response: 'sense' })
      run.began({ layer: 'craft' }, { layer: 'rock' }, { response: 'solid' })
      run.ended({ body: 'craft' }, 'zone', { until: 3.1, cause: 'moved' })
      run.neverMet(craft, 'roof')
      run.neverMet(craft, 'pool', { from: 3.2 })
      run.neverMet(craft, 'pool', { until: 0.9 })
      run.impactsBelow(craft, 'wall', { speed: 1.2, impulse: 5 })
      run.impactsBelow(craft, 'wall', { speed: 0.1, until: 4 })
      run.stayedWithin(room(5.6))
      run.stayedWithin(room(5.6), craft)
      assert.match(run.story(craft, 'pool'), /^ +\d\.\d\d s {2}begin {2}pool and craft \(sense, moved\)\n.*end/)
    })

    test('what was not as expected throws, with the story of the two and why', () => {
      const { world, craft } = course()
      const run = playFor(world, 7)
      const fails = (act: () => unknown): string => refused('expectation-failed', act)
      assert.match(
        fails(() => run.began(craft, 'pool', { until: 0.5 })),
        /^craft and pool were to meet until 0\.50 s, and did not\.\nWhat they did:\n.*begin.*\n.*end.*\nAt the end, 7\.00 s:\ncraft and pool: they do not meet \(bounds\)\n/,
      )
      assert.match(
        fails(() => run.began(craft, 'roof')),
        /did not\.\nThey did not meet at all\.\nAt the end/,
      )
      assert.match(
        fails(() => run.ended(craft, 'pool', { cause: 'teleported' })),
        /were to part with cause 'teleported', and did not/,
      )
      assert.match(
        fails(() => run.began(craft, 'pool', { response: 'solid' })),
        /were to meet \(solid\)/,
      )
      for (const window of [{}, { from: 2, until: 2.1 }, { from: 0.9, until: 1.1 }, { until: 1.1 }, { from: 2.9 }]) {
        assert.match(
          fails(() => run.neverMet(craft, 'pool', window)),
          /were never to meet.*, and did\./,
        )
      }
      assert.match(
        fails(() => run.impactsBelow(craft, 'wall', { speed: 0.5 })),
        /at most 0\.5 lengths a second: it was [\d.]+ Ns at 1 lengths a second, at 5\.\d\d s/,
      )
      assert.match(
        fails(() => run.impactsBelow(craft, 'wall', { impulse: 1 })),
        /at most 1 Ns: it was/,
      )
      assert.match(
        fails(() => run.stayedWithin(room(5))),
        /^craft was to stay within x -1 to 5: it reached 5\.\d+ at 5\.\d\d s$/,
      )
    })

    test('nobody in the game listens: the reason says so', () => {
      const { world, craft } = course()
      const run = playFor(world, 1.5)
      assert.match(
        refused('expectation-failed', () => run.ended(craft, 'pool')),
        /craft and pool: they overlap and sense each other, but no watch reports it/,
      )
    })

    test('inputs before each tick; a second run goes on, and hears who meets already', () => {
      const { world, craft } = course()
      const ticks: number[] = []
      playFor(world, 1.5, { before: (tick) => void ticks.push(tick) })
      assert.deepEqual(
        ticks,
        Array.from({ length: 90 }, (_, i) => i),
      )
      assert.equal(world.stats.watches, 0, 'nothing is left behind')
      const more = playFor(world, 3)
      refused('expectation-failed', () => more.began(craft, 'pool'))
      assert.equal(more.began(craft, 'pool', { cause: 'watched' }).tick, 91)
      refused('expectation-failed', () => more.neverMet(craft, 'pool'))
      more.ended(craft, 'pool')
      refused('bad-number', () => more.began(craft, 'pool', { until: 1 }))
      assert.match(
        refused('bad-number', () => more.began(craft, 'pool', { from: 9 })),
        /play it longer/,
      )
    })

    test('what is removed, or thrown on the way, leaves nothing behind', () => {
      const { world, craft } = course()
      const run = playFor(world, 2, { before: (tick) => void (tick === 80 && craft.remove()) })
      run.ended('pool', { body: 'craft' }, { cause: 'removed' })
      assert.throws(() => run.began({ body: 'craft' }, 'roof'), /did not meet at all/)
      assert.throws(
        () =>
          playFor(world, 1, {
            before: () => {
              throw new Error('no inputs')
            },
          }),
        /no inputs/,
      )
      assert.equal(world.stats.watches, 0)
    })

    test('nothing is passed in silence: misspelt fields, windows of no time, sides that nobody was on', () => {
      const { world, craft } = course()
      const run = playFor(world, 2)
      const bad = (act: () => unknown): string => refused('bad-argument', act)
      assert.match(
        bad(() => run.neverMet(craft, 'roof', { untill: 1 } as never)),
        /untill/,
      )
      assert.match(
        bad(() => run.impactsBelow(craft, 'wall', { speed: 1, impulze: 2 } as never)),
        /impulze/,
      )
      assert.match(
        bad(() => run.began(craft, 'pool', { cause: 'movd' as never })),
        /movd/,
      )
      assert.match(
        bad(() => playFor(world, 1, { befor: () => {} } as never)),
        /befor/,
      )
      assert.match(
        bad(() => run.stayedWithin({ min: at(0, 0) } as never)),
        /'max' of a box/,
      )
      assert.match(
        refused('bad-number', () => run.neverMet(craft, 'roof', { from: 2, until: 1 })),
        /must not end before/,
      )
      refused('bad-number', () => run.stayedWithin({ min: { x: Number.NaN, y: 0 }, max: { x: 9, y: 9 } }))
      refused('unknown-tag', () => run.neverMet({ tag: 'lou' }, 'roof'))
      assert.match(
        bad(() => run.stayedWithin({ min: at(-99, -99), max: at(99, 99) } as never, 'wall')),
        /nobody there could move/,
      )
      const other = createWorld({ layers, tags: ['loud'] }) as World2
      other.add({ type: 'kinematic', colliders: [{ shape: circle(1), layer: 'craft' }] })
      const empty = playFor(other, 0.1)
      assert.match(
        bad(() => empty.neverMet('craft', 'rock')),
        /layer rock: nobody was there/,
      )
      assert.match(
        bad(() => empty.impactsBelow({ tag: 'loud' }, '*', { speed: 1 })),
        /tag loud: nobody was there/,
      )
    })

    test('what is no side, no name, no world or no time is refused', () => {
      const { world, craft } = course()
      const run = playFor(world, 0.1)
      assert.match(
        refused('unknown-name', () => run.began('pol', craft)),
        /did you mean "pool"/,
      )
      assert.match(
        refused('unknown-name', () => run.began({ body: 'wal' }, craft)),
        /did you mean "wall"/,
      )
      assert.match(
        refused('unknown-layer', () => run.began({ layer: 'rok' }, craft)),
        /did you mean "rock"/,
      )
      assert.match(
        refused('bad-argument', () => run.began('craft', 'pool')),
        /a body and a layer are called "craft"/,
      )
      for (const side of [null, 3, {}, []]) refused('bad-argument', () => run.began(side as never, craft))
      refused('bad-argument', () => run.impactsBelow(craft, 'wall', {}))
      refused('bad-number', () => run.impactsBelow(craft, 'wall', { speed: Number.NaN }))
      refused('bad-number', () => run.neverMet(craft, 'wall', { from: Number.NaN }))
      for (const target of [null, {}, 4, { world: 3 }]) refused('bad-argument', () => playFor(target as never, 1))
      for (const time of [0, -1, Number.NaN, Infinity, 'x']) refused('bad-number', () => playFor(world, time as never))
    })
  })
}

test('demo scenes of either dimension under test', async () => {
  for (const [file, seconds, expect] of [
    [
      'lantern-reef.json',
      20,
      (run) => {
        run.began('lantern', 'air pocket', { until: 10 })
        run.ended('pod', { body: 'beacon' }, { cause: 'disabled' })
        run.neverMet('lantern', 'overhang')
      },
    ],
    [
      'sea-floor.json',
      20,
      (run) => {
        run.began({ body: 'crawler' }, 'first beacon')
        run.began({ body: 'crawler' }, 'dock', { from: 15 })
      },
    ],
  ] as readonly [string, number, (run: ReturnType<typeof playFor>) => void][]) {
    const json = JSON.parse(readFileSync(`scenes/${file}`, 'utf8'))
    const player = playScene(readScene(json), await loadModels(json, (name) => readFileSync(`scenes/${name}`)))
    expect(playFor(player, seconds))
  }
})
