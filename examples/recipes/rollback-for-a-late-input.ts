/** An input comes late over the network: back to its tick, on again without a word, and only the difference is told. */
import { box, circle, createWorld, defineLayers, type Snapshot } from 'keen-sentry/2d'

const layers = defineLayers(['rock', 'craft', 'dock'], { pairs: [['dock', '*', 'sense']] })
const world = createWorld({ layers })
world.add({ type: 'static', name: 'dock', at: { x: 6, y: 0 }, colliders: [{ shape: box(2, 4), layer: 'dock' }] })
const mine = world.add({
  type: 'kinematic',
  name: 'mine',
  velocity: { x: 3, y: 0 },
  colliders: [{ shape: circle(0.5), layer: 'craft' }],
})
const theirs = world.add({
  type: 'kinematic',
  name: 'theirs',
  at: { x: 0, y: 1.5 },
  velocity: { x: 3, y: 0 },
  colliders: [{ shape: circle(0.5), layer: 'craft' }],
})
world.watch('craft', 'dock', {
  begin: (e) => console.log(`tick ${e.tick}: ${e.a} is in the dock (${e.cause})`),
  end: (e) => console.log(`tick ${e.tick}: ${e.a} is not in the dock (${e.cause})`),
})

// The last ten ticks, in memory that is used again.
const ring: Snapshot[] = []
const step = (quiet: boolean) => {
  ring[world.tick % 10] = world.snapshot(ring[world.tick % 10])
  world.step({ quiet })
}

for (let i = 0; i < 92; i++) step(false)
const guessed = world.hash()

// Tick 92 is done when this comes: they had turned round in tick 84.
const now = world.tick
world.restore(ring[84 % 10], { tell: true })
theirs.velocity = { x: -3, y: 0 }
while (world.tick < now) step(true)
console.log(`tick ${world.tick}: the guess was ${world.hash() === guessed ? 'right' : 'wrong'}`)
step(false)
console.log(`mine at ${mine.at.x.toFixed(2)}, theirs at ${theirs.at.x.toFixed(2)}`)
