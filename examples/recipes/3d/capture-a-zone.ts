/**
 * Capturing a zone: whoever is alone in it fills a bar, which stands still while it is contested and drains when nobody
 * is in. Who is in there now is what the watches have told and not ended.
 */
import { box, createWorld, defineLayers, sphere } from 'keen-sentry/3d'

const world = createWorld({
  layers: defineLayers(['blue', 'amber', 'zone'], { pairs: [['zone', '*', 'sense']] }),
  rate: 10,
})
const zone = world.add({ type: 'static', name: 'reef', colliders: [{ shape: box(6, 6, 6), layer: 'zone' }] })
const diver = (name: string, layer: 'blue' | 'amber', x: number, speed: number): void => {
  world.add({
    type: 'kinematic',
    name,
    at: { x, y: 0, z: 0 },
    velocity: { x: speed, y: 0, z: 0 },
    colliders: [{ shape: sphere(0.4), layer }],
  })
}
diver('minnow', 'blue', -6, 2)
diver('gull', 'amber', 14, -3)

const blue = world.watch('blue', zone)
const amber = world.watch('amber', zone)
const RATE = 0.5
let bar = 0
for (let second = 1; second <= 8; second++) {
  for (let i = 0; i < world.rate; i++) {
    world.step()
    const alone = blue.count > 0 && amber.count === 0 ? 1 : amber.count > 0 && blue.count === 0 ? -1 : 0
    const contested = blue.count > 0 && amber.count > 0
    if (alone !== 0) bar += alone * RATE * world.dt
    else if (!contested) bar -= Math.sign(bar) * Math.min(Math.abs(bar), 0.25 * RATE * world.dt)
    bar = Math.max(-1, Math.min(1, bar))
  }
  const inside = [...blue.pairs(), ...amber.pairs()].map((pair) => `${pair.a} for ${pair.dwell.toFixed(1)} s`)
  console.log(`${second} s  blue ${(100 * bar).toFixed(0).padStart(4)} %  ${inside.join(', ') || 'nobody is in'}`)
}
