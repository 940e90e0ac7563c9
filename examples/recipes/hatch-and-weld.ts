/** A hatch that opens one way and falls shut again, and a weld that breaks under what is too much for it. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'machine', 'stone']) })
const frame = world.add({
  type: 'static',
  colliders: [
    { shape: box(4, 0.4), layer: 'rock', at: { x: -3, y: 0 } },
    { shape: box(4, 0.4), layer: 'rock', at: { x: 3, y: 0 } },
  ],
})
const hatch = world.add({
  type: 'dynamic',
  name: 'hatch',
  at: { x: 0, y: 0.1 },
  colliders: [{ shape: box(1.9, 0.15), layer: 'machine', density: 20 }],
})
// It turns upwards about its left edge by a right angle and a little less; downwards not at all.
const hinge = world.join({ type: 'hinge', a: frame, b: hatch, at: { x: -0.95, y: 0.1 }, limits: { min: 0, max: 1.5 } })
const weld = world.join({
  type: 'fixed',
  a: frame,
  b: hatch,
  at: { x: 0.95, y: 0.1 },
  name: 'weld',
  breaks: { force: 400 },
  end: (e) => console.log(`${e.time.toFixed(2)} s  the ${e.joint} breaks, under ${e.force.toFixed(0)} N`),
})

const push = (ticks: number, force: number): number => {
  let widest = 0
  for (let i = 0; i < ticks; i++) {
    if (force !== 0) hatch.applyForce({ x: 0, y: force }, { x: 0.9, y: hatch.at.y })
    world.step()
    widest = Math.max(widest, hinge.angle)
  }
  return widest
}
console.log(`pushed from below with 300 N it opens by ${push(60, 300).toFixed(2)} rad: the weld holds`)
push(1, 900)
console.log(`without the weld it opens by ${push(90, 60).toFixed(2)} rad`)
push(180, 0)
console.log(`left alone it lies at ${Math.abs(hinge.angle).toFixed(2)} rad`)
world.add({ type: 'dynamic', at: { x: 0.4, y: 3 }, colliders: [{ shape: circle(0.4), layer: 'stone', density: 100 }] })
push(180, 0)
console.log(
  `a stone on it does not open it: ${Math.abs(hinge.angle).toFixed(2)} rad, and it ${weld.alive ? 'holds' : 'is held by its limit alone'}`,
)
