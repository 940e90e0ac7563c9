/**
 * Bytes allocated by a tick in its steady state: `npm run bench:allocation`. The heap is read before and after many
 * ticks without a collection between; what a single reading costs is taken off by an empty loop of the same kind.
 */
import { readFileSync } from 'node:fs'
import { box, circle, createWorld, defineLayers } from '../src/2d/index.ts'
import { readScene, ScenePlayer } from '../src/scene/index.ts'

const collect = (globalThis as { gc?: () => void }).gc
if (collect === undefined) throw new Error('run it with node --expose-gc, as `npm run bench:allocation` does')

function bytesPer(calls: number, call: () => void): number {
  for (let i = 0; i < calls; i++) call()
  let least = Number.POSITIVE_INFINITY
  for (let round = 0; round < 7; round++) {
    collect!()
    const before = process.memoryUsage().heapUsed
    for (let i = 0; i < calls; i++) call()
    least = Math.min(least, process.memoryUsage().heapUsed - before)
  }
  return Math.max(0, least) / calls
}

/** The demo while the craft lies in the air pocket: nothing begins or ends, two watches hear `during`. */
function demo(): () => void {
  const scene = readScene(JSON.parse(readFileSync(new URL('../scenes/lantern-reef.json', import.meta.url), 'utf8')))
  const player = new ScenePlayer(scene)
  while (player.world.time < 9.6) player.step()
  // A sum in a plain variable of a closure would be boxed at every write: that would be the handler's own cost.
  const seconds = new Float64Array(2)
  player.world.watch('craft', 'zone', {
    during(event) {
      seconds[0] += event.dt
    },
  })
  player.world.watch(
    { tag: 'player' },
    '*',
    {
      during(event) {
        seconds[1] += event.dwell
      },
    },
    { per: 'collider' },
  )
  return () => player.world.step()
}

/** 200 movers that dwell in 20 zones and keep moving within them. */
function crowd(): () => void {
  const layers = defineLayers(['craft', 'zone'], {
    pairs: [
      ['zone', '*', 'sense'],
      ['craft', 'craft', 'pass'],
    ],
  })
  const world = createWorld({ layers })
  for (let i = 0; i < 20; i++)
    world.add({ type: 'static', at: { x: 100 * i, y: 0 }, colliders: [{ shape: box(80, 80), layer: 'zone' }] })
  const movers = Array.from({ length: 200 }, (_, i) =>
    world.add({
      type: 'kinematic',
      at: { x: 100 * (i % 20), y: (i % 7) - 3 },
      spin: 1,
      colliders: [{ shape: circle(0.5), layer: 'craft' }],
    }),
  )
  let sign = 1
  const velocity = { x: 0, y: 0 }
  let told = 0
  world.watch('craft', 'zone', { during: () => told++ })
  return () => {
    if (world.tick % 60 === 0) {
      sign = -sign
      velocity.x = 5 * sign
      for (const mover of movers) mover.velocity = velocity
    }
    world.step()
  }
}

const calls = 2000
const empty = bytesPer(calls, () => {})
for (const [name, make] of [
  ['demo, craft at rest in the air pocket', demo],
  ['200 movers dwelling in 20 zones', crowd],
] as const) {
  const bytes = bytesPer(calls, make()) - empty
  process.stdout.write(`${name}: ${bytes.toFixed(1)} bytes a tick\n`)
}
