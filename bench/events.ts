/**
 * The tick of a world of sensors and movers: `npm run bench:events`. Against a plain loop over all pairs of bounds, as it
 * grows, with nothing watched, and with few and with thousands of watches. Prints Markdown.
 */
import { type Body2, box, circle, createWorld, defineLayers, type KindsOf } from '../src/2d/index.ts'
import { Random } from '../test/helpers/random.ts'
import { each, head, measure, row, times } from './measure.ts'

type Mover = Body2<KindsOf<'craft' | 'zone', never, unknown>>

const layers = defineLayers(['craft', 'zone'], {
  pairs: [
    ['zone', '*', 'sense'],
    ['craft', 'craft', 'pass'],
  ],
})

/** Zones, one on every 16 square metres, and a fifth as many movers that turn back at the edge. */
function sea(zones: number, speed: number) {
  const random = new Random(zones)
  const side = Math.sqrt(16 * zones)
  const world = createWorld({ layers })
  const boxes = new Float64Array(4 * zones)
  for (let i = 0; i < zones; i++) {
    const at = { x: random.between(0, side), y: random.between(0, side) }
    boxes.set([at.x - 1, at.y - 1, at.x + 1, at.y + 1], 4 * i)
    world.add({ type: 'static', at, colliders: [{ shape: box(2, 2), layer: 'zone' }] })
  }
  const movers: Mover[] = []
  for (let i = 0; i < zones / 5; i++) {
    movers.push(
      world.add({
        type: 'kinematic',
        at: { x: random.between(0, side), y: random.between(0, side) },
        velocity: { x: random.between(-speed, speed), y: random.between(-speed, speed) },
        colliders: [{ shape: circle(0.4), layer: 'craft' }],
      }),
    )
  }
  let tick = 0
  const step = (): number => {
    // They turn back together now and then, so that they stay where the zones are.
    if (speed > 0 && ++tick % 120 === 0) {
      for (const mover of movers) mover.velocity = { x: -mover.velocity.x, y: -mover.velocity.y }
    }
    world.step()
    return world.stats.tests
  }
  return { world, movers, boxes, step }
}

/** Every mover against every zone, by bounds: what a loop without a tree does. */
function allPairs(movers: readonly Mover[], boxes: Float64Array): number {
  let count = 0
  for (const mover of movers) {
    const { x, y } = mover.at
    for (let i = 0; i < boxes.length; i += 4) {
      if (x + 0.4 >= boxes[i] && x - 0.4 <= boxes[i + 2] && y + 0.4 >= boxes[i + 1] && y - 0.4 <= boxes[i + 3]) count++
    }
  }
  return count
}

function growth(): void {
  head('sensors', 'movers', 'tick', 'all pairs by a loop / tick', 'tick a mover', 'exact tests a tick')
  for (const [zones, rounds] of [
    [1000, 200],
    [10_000, 40],
    [100_000, 6],
  ] as const) {
    const { world, movers, boxes, step } = sea(zones, 3)
    let told = 0
    world.watch('craft', 'zone', { begin: () => told++, end: () => told++ })
    for (let i = 0; i < 30; i++) step()
    const measured = measure(
      [
        { name: 'tick', run: step },
        { name: 'loop', run: () => allPairs(movers.slice(0, 200), boxes) * (movers.length / 200) },
      ],
      rounds,
    )
    const loop = measured.ratio(1, 0) * (movers.length / 200)
    row(zones, movers.length, each(measured.seconds[0]), times(loop), each(measured.seconds[0] / movers.length), step())
  }
}

function watchers(): void {
  const plain = sea(10_000, 3)
  const none = sea(10_000, 3)
  const many = sea(10_000, 3)
  const still = sea(10_000, 0)
  const count = { one: 0, many: 0 }
  plain.world.watch('craft', 'zone', { begin: () => count.one++, end: () => count.one++ })
  still.world.watch('craft', 'zone', { during: () => count.one++ })
  for (const mover of many.movers) {
    many.world.watch(mover, 'zone', { begin: () => count.many++, end: () => count.many++ })
  }
  for (const each of [plain, none, many, still]) for (let i = 0; i < 30; i++) each.step()
  const { seconds, ratio } = measure(
    [plain, none, many, still].map((each, index) => ({ name: String(index), run: each.step })),
    40,
  )
  head('10,000 sensors, 2,000 movers', 'tick', 'of the first', 'exact tests a tick')
  const line = (name: string, index: number, tests: number): void =>
    row(name, each(seconds[index]), times(ratio(index, 0)), tests)
  line('one watch on all', 0, plain.step())
  line('nothing watched', 1, none.step())
  line('2,000 watches, one a mover', 2, many.step())
  line('nobody moves, one watch on `during`', 3, still.step())
}

growth()
watchers()
