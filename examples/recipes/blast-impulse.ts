/** A mine goes off: bodies in its reach are pushed away, less with distance, and not through rock. */
import { blast, box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'crate']), gravity: { x: 0, y: 0 } })
world.add({ type: 'static', name: 'boulder', at: { x: 2, y: 0 }, colliders: [{ shape: box(0.5, 3), layer: 'rock' }] })
const mine = world.add({ type: 'dynamic', name: 'mine', colliders: [{ shape: circle(0.4), layer: 'crate' }] })
const put = (name: string, x: number, y: number): void => {
  world.add({ type: 'dynamic', name, at: { x, y }, mass: 2, colliders: [{ shape: box(1, 1), layer: 'crate' }] })
}
put('next to it', -1.5, 0)
put('further off', -4, 0)
put('behind the boulder', 4, 0)
put('half behind it', 4, 2.9)
put('out of reach', 0, -9)
for (const hit of blast(world, { at: mine.at, reach: 6, strength: 20, cover: 'rock', except: mine, layers: 'crate' })) {
  const size = Math.hypot(hit.impulse.x, hit.impulse.y)
  const { velocity } = hit.body
  const speed = Math.hypot(velocity.x, velocity.y).toFixed(1)
  console.log(
    `${hit.body}: ${hit.distance.toFixed(1)} m away, ${100 * hit.exposed} % exposed, ${size.toFixed(1)} Ns, ${speed} m/s`,
  )
}
mine.remove()
