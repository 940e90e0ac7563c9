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
