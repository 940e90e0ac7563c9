/**
 * What taking the state of a world down, putting it back and hashing it cost, against a tick: `npm run bench:state`. Prints Markdown.
 */
import { box, circle, createWorld, defineLayers } from '../src/2d/index.ts'
import * as three from '../src/3d/index.ts'
import { Random } from '../test/helpers/random.ts'
import { each, head, measure, row, times } from './measure.ts'

/** 1,000 bodies that fall into a bin, and are shaken now and then. */
function bin(dimension: 2 | 3) {
  const random = new Random(1)
  const names = defineLayers(['rock', 'crate'])
  const flat = dimension === 2
  const world = (
    flat ? createWorld({ layers: names }) : three.createWorld({ layers: three.defineLayers(['rock', 'crate']) })
  ) as ReturnType<typeof createWorld>
  const solid = (w: number, h: number) => (flat ? box(w, h) : three.box(w, h, 24)) as ReturnType<typeof box>
  for (const [x, y, w, h] of [
    [0, -1, 40, 2],
    [-20, 20, 2, 60],
    [20, 20, 2, 60],
  ])
    world.add({ type: 'static', at: { x, y, z: 0 } as never, colliders: [{ shape: solid(w, h), layer: 'rock' }] })
  for (let i = 0; i < 1000; i++)
    world.add({
      type: 'dynamic',
      at: { x: random.between(-18, 18), y: random.between(1, 40), z: random.between(-10, 10) } as never,
      sleeps: false,
      colliders: [
        {
          shape: (flat
            ? i % 2 === 0
              ? box(0.8, 0.8)
              : circle(0.45)
            : i % 2 === 0
              ? three.box(0.8, 0.8, 0.8)
              : three.sphere(0.45)) as never,
          layer: 'crate',
        },
      ],
    })
  world.watch('crate', 'rock')
  for (let i = 0; i < 240; i++) world.step()
  return world
}

head(
  '1,000 bodies in a bin',
  'tick',
  'snapshot / tick',
  'restore / tick',
  'hash / tick',
  'ten ticks back and again / twelve ticks',
  'kB',
)
for (const dimension of [2, 3] as const) {
  const world = bin(dimension)
  const state = world.snapshot()
  const other = world.snapshot()
  const { seconds, ratio } = measure(
    [
      {
        name: 'tick',
        run() {
          world.step()
          return 0
        },
      },
      { name: 'snapshot', run: () => world.snapshot(other).tick },
      {
        name: 'restore',
        run() {
          world.restore(state)
          return 0
        },
      },
      { name: 'hash', run: () => world.hash().length },
    ],
    100,
  )
  const steps = (count: number): number => {
    for (let i = 0; i < count; i++) world.step()
    return 0
  }
  const back = measure(
    [
      { name: 'twelve', run: () => steps(12) },
      {
        name: 'rollback',
        run() {
          world.restore(state)
          for (let i = 0; i < 10; i++) {
            world.snapshot(other)
            world.step({ quiet: true })
          }
          return steps(2)
        },
      },
    ],
    8,
  )
  row(
    `${dimension}D`,
    each(seconds[0]),
    times(ratio(1, 0)),
    times(ratio(2, 0)),
    times(ratio(3, 0)),
    times(back.ratio(1, 0)),
    Math.round(state.bytes / 1000),
  )
}

function step(world: { step(): void }): number {
  world.step()
  return 0
}

/** Boxes that fly through each other, and others that stand. */
function swarm(dimension: 2 | 3, history: number) {
  const random = new Random(2)
  const flat = dimension === 2
  const names = { layers: defineLayers(['rock', 'craft'], { pairs: [['craft', 'craft', 'sense']] }), history }
  const world = (flat ? createWorld(names) : three.createWorld(names as never)) as ReturnType<typeof createWorld>
  const shape = (flat ? box(1, 1) : three.box(1, 1, 1)) as ReturnType<typeof box>
  const side = Math.sqrt(16 * 2000)
  const place = () => ({ x: random.between(0, side), y: random.between(0, side), z: 0 }) as never
  for (let i = 0; i < 1000; i++) {
    world.add({ type: 'static', at: place(), colliders: [{ shape, layer: 'rock' }] })
    const velocity = { x: random.between(-2, 2), y: random.between(-2, 2), z: 0 } as never
    world.add({ type: 'kinematic', at: place(), velocity, colliders: [{ shape, layer: 'craft' }] })
  }
  world.watch('craft', '*')
  for (let i = 0; i < 40; i++) world.step()
  return world
}

head(
  '1,000 that move, 1,000 that stand',
  'tick',
  'with history: 30',
  'first question of another tick',
  'next of the same',
)
for (const dimension of [2, 3] as const) {
  const [plain, remembers] = [swarm(dimension, 0), swarm(dimension, 30)]
  const ray = { from: { x: 0, y: 90, z: 0 }, to: { x: 178, y: 90, z: 0 } } as never
  let asked = 0
  let ago = 1
  const { seconds, ratio } = measure(
    [
      { name: 'plain', run: () => step(plain) },
      { name: 'remembers', run: () => step(remembers) },
      {
        name: 'first',
        run() {
          ago = 1 + (++asked % 29)
          return remembers.past(ago).raycast.first(ray)?.distance ?? 0
        },
      },
      { name: 'next', run: () => remembers.past(ago).raycast.first(ray)?.distance ?? 0 },
    ],
    200,
  )
  row(`${dimension}D`, each(seconds[0]), times(ratio(1, 0)), each(seconds[2]), each(seconds[3]))
}
