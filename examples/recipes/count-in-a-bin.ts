/** How many lie in a bin: a watch knows, and a pebble counts only once it has come to rest there. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({
  layers: defineLayers(['rock', 'grate', 'crate', 'stone', 'bin'], {
    pairs: [
      ['grate', 'stone', 'pass'],
      ['bin', '*', 'sense'],
    ],
  }),
})
const part = (x: number, y: number, width: number, height: number, layer: 'rock' | 'grate' | 'bin') =>
  world.add({ type: 'static', at: { x, y }, colliders: [{ shape: box(width, height), layer }] })
part(0, -0.5, 8, 1, 'rock')
part(-2, 1, 0.3, 2, 'rock')
part(2, 1, 0.3, 2, 'rock')
part(0, 2.2, 4.3, 0.3, 'grate')
const bin = part(0, 0.9, 3.6, 1.8, 'bin')
// Pebbles fall through the grate, crates are stopped by it: that is a matter of layers.
for (let i = 0; i < 7; i++) {
  const at = { x: -1.2 + 0.4 * i, y: 3.5 + (i % 3) }
  const colliders = [{ shape: circle(0.15), layer: 'stone' as const }]
  world.add({ type: 'dynamic', name: `pebble ${i + 1}`, at, spinDamping: 3, colliders })
}
world.add({ type: 'dynamic', name: 'crate', at: { x: 0.2, y: 6 }, colliders: [{ shape: box(1, 1), layer: 'crate' }] })
const inside = world.watch('*', bin)
for (let i = 1; i <= 240; i++) {
  world.step()
  if (i % 60 !== 0) continue
  const resting = inside.pairs().filter((pair) => pair.a.asleep).length
  console.log(`${world.time.toFixed(0)} s  ${inside.count} in the bin, ${resting} of them at rest`)
}
console.log(`the crate lies ${world.find('crate')!.at.y.toFixed(1)} m high, on the grate`)
