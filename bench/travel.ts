/**
 * What a travel costs beside one plain shape cast: `npm run bench:travel`. A thousand walkers on a level of ten thousand boxes, each held twice (by
 * the floor and by a wall), in one run with the cast; and the bytes that a travel allocates with `out` (with `--expose-gc`). Prints Markdown.
 */
import * as two from '../src/2d/index.ts'
import * as three from '../src/3d/index.ts'
import { head, row } from './measure.ts'

const layers = two.defineLayers(['rock', 'craft'], { pairs: [['craft', 'craft', 'pass']] })
const WALKERS = 1000
const SIDE = 100
const ROUNDS = 25

interface Space {
  readonly name: string
  /** Walkers, each with a way that leads onto a floor and against a wall; a plain cast along that way; and all back to where they were. */
  make(): {
    readonly travel: (i: number) => number
    readonly walk: (i: number) => number
    readonly cast: (i: number) => number
    back(): void
  }
}

const FLAT: Space = {
  name: '2D',
  make() {
    const world = two.createWorld({ layers })
    const rock = two.box(1, 1)
    for (let i = 0; i < SIDE * SIDE; i++) {
      const [column, line] = [i % SIDE, Math.floor(i / SIDE)]
      // Every fourth line a floor, on which walls stand; what is left over is a field of boxes beside it.
      const isLevel = line % 4 === 0 || (line % 4 === 1 && column % 4 === 0)
      const at = { x: isLevel ? column : column * 1.5 + 200, y: line }
      world.add({ type: 'static', at, colliders: [{ shape: rock, layer: 'rock' }] })
    }
    const shape = two.capsule({ x: 0, y: -0.2 }, { x: 0, y: 0.2 }, 0.3)
    const bodies = Array.from({ length: WALKERS }, (_, i) =>
      world.add({
        type: 'kinematic',
        at: { x: 4 * (i % 25) + 2 - 0.01 * Math.floor(i / 625), y: 4 * (Math.floor(i / 25) % 25) + 1.3 },
        colliders: [{ shape, layer: 'craft' }],
      }),
    )
    world.step()
    const by = { x: 2, y: -0.5 }
    const out = two.travelResult()
    const hit = two.castHit()
    const from = { x: 0, y: 0 }
    const to = { x: 0, y: 0 }
    const motion = { shape, from, to }
    const filter = { layers: 'rock' } as const
    const slide = { onHit: 'slide', out } as const
    const walk = { ...slide, up: { x: 0, y: 1 }, stepHeight: 0.3, snap: 0.2 } as const
    const starts = bodies.map((body) => body.at)
    return {
      travel: (i) => bodies[i].travel(by, slide).hits.length,
      walk: (i) => bodies[i].travel(by, walk).hits.length,
      back() {
        for (const [i, body] of bodies.entries()) body.teleport(starts[i])
        world.step()
      },
      cast(i) {
        const { data } = world.kernel.poses.place
        from.x = data[2 * bodies[i].slot]
        from.y = data[2 * bodies[i].slot + 1]
        to.x = from.x + 2
        to.y = from.y - 0.5
        return world.shapecast.first(motion, filter, hit) === null ? 0 : 1
      },
    }
  },
}

const SOLID: Space = {
  name: '3D',
  make() {
    const world = three.createWorld({ layers })
    const rock = three.box(1, 1, 1)
    for (let i = 0; i < SIDE * SIDE; i++) {
      const [column, line] = [i % SIDE, Math.floor(i / SIDE)]
      const isFloor = line < 80
      const isWall = !isFloor && column % 4 === 0
      const at = isFloor
        ? { x: column, y: 0, z: line }
        : { x: isWall ? column : column * 1.5 + 200, y: 1, z: isWall ? 4 * (line - 80) : line }
      world.add({ type: 'static', at, colliders: [{ shape: isWall ? three.box(1, 1, 4) : rock, layer: 'rock' }] })
    }
    const shape = three.capsule({ x: 0, y: -0.2, z: 0 }, { x: 0, y: 0.2, z: 0 }, 0.3)
    const bodies = Array.from({ length: WALKERS }, (_, i) =>
      world.add({
        type: 'kinematic',
        at: { x: 4 * (i % 25) + 2, y: 1.3, z: 1.95 * Math.floor(i / 25) + 0.1 },
        colliders: [{ shape, layer: 'craft' }],
      }),
    )
    world.step()
    const by = { x: 2, y: -0.5, z: 0 }
    const out = three.travelResult()
    const hit = three.castHit()
    const from = { x: 0, y: 0, z: 0 }
    const to = { x: 0, y: 0, z: 0 }
    const motion = { shape, from, to }
    const filter = { layers: 'rock' } as const
    const slide = { onHit: 'slide', out } as const
    const walk = { ...slide, up: { x: 0, y: 1, z: 0 }, stepHeight: 0.3, snap: 0.2 } as const
    const starts = bodies.map((body) => body.at)
    return {
      travel: (i) => bodies[i].travel(by, slide).hits.length,
      walk: (i) => bodies[i].travel(by, walk).hits.length,
      back() {
        for (const [i, body] of bodies.entries()) body.teleport(starts[i])
        world.step()
      },
      cast(i) {
        const { data } = world.kernel.poses.place
        from.x = data[3 * bodies[i].slot]
        from.y = data[3 * bodies[i].slot + 1]
        from.z = data[3 * bodies[i].slot + 2]
        to.x = from.x + 2
        to.y = from.y - 0.5
        to.z = from.z
        return world.shapecast.first(motion, filter, hit) === null ? 0 : 1
      },
    }
  },
}

function median(values: readonly number[]): number {
  return values.toSorted((a, b) => a - b)[values.length >> 1]
}

/** Microseconds a call, and what the calls return on average. */
function timed(call: (i: number) => number): { time: number; mean: number } {
  const start = performance.now()
  let sum = 0
  for (let i = 0; i < WALKERS; i++) sum += call(i)
  return { time: ((performance.now() - start) * 1000) / WALKERS, mean: sum / WALKERS }
}

const collect = (globalThis as { gc?: () => void }).gc

function bytes(call: (i: number) => number): string {
  if (collect === undefined) return '?'
  let least = Number.POSITIVE_INFINITY
  for (let round = 0; round < 7; round++) {
    collect()
    const before = process.memoryUsage().heapUsed
    for (let i = 0; i < WALKERS; i++) call(i)
    least = Math.min(least, process.memoryUsage().heapUsed - before)
  }
  return (Math.max(0, least) / WALKERS).toFixed(1)
}

head('', 'hits', 'times one `shapecast.first`', 'bytes a call')
for (const space of [FLAT, SOLID]) {
  const { travel, walk, cast, back } = space.make()
  const times: Record<'cast' | 'travel' | 'walk', number[]> = { cast: [], travel: [], walk: [] }
  const hits = { travel: 0, walk: 0 }
  for (let round = 0; round < ROUNDS; round++) {
    times.cast.push(timed(cast).time)
    for (const [name, call] of [
      ['travel', travel],
      ['walk', walk],
    ] as const) {
      const { time, mean } = timed(call)
      times[name].push(time)
      hits[name] = mean
      back()
    }
  }
  const base = median(times.cast)
  // Of each round by itself: drifts of the machine cancel out.
  const ratio = (all: readonly number[]): number => median(all.map((time, i) => time / times.cast[i]))
  row(`${space.name}: one shape cast`, '1', `1.0 (${base.toFixed(1)} µs)`, '')
  row(`${space.name}: slide`, hits.travel.toFixed(2), ratio(times.travel).toFixed(1), bytes(travel))
  row(`${space.name}: walk`, hits.walk.toFixed(2), ratio(times.walk).toFixed(1), bytes(walk))
}
