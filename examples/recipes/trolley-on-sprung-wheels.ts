/** A trolley on sprung wheels: driven by one, braked by it, and stopped where its motor is too weak for the slope. */
import { box, circle, createWorld, defineLayers, polygon } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'machine']) })
const slope = [
  { x: -20, y: 0 },
  { x: 10, y: 0 },
  { x: 30, y: 6 },
  { x: 30, y: -1 },
  { x: -20, y: -1 },
]
world.add({ type: 'static', colliders: [{ shape: polygon(slope), layer: 'rock', friction: 1 }] })
const hull = world.add({
  type: 'dynamic',
  name: 'trolley',
  at: { x: 0, y: 1.1 },
  colliders: [{ shape: box(2.4, 0.5), layer: 'machine', density: 40 }],
})
const [hind, fore] = [-0.9, 0.9].map((x) => {
  const side = x < 0 ? 'hind' : 'fore'
  const wheel = world.add({
    type: 'dynamic',
    name: `${side} wheel`,
    at: { x, y: 0.4 },
    colliders: [{ shape: circle(0.4), layer: 'machine', density: 40, friction: 1 }],
  })
  const at = { x, y: 0.4 }
  return world.join({
    type: 'axle',
    name: `${side} axle`,
    a: hull,
    b: wheel,
    at,
    axis: { x: 0, y: 1 },
    frequency: 5,
    damping: 0.7,
  })
})
const run = (ticks: number): void => {
  for (let i = 0; i < ticks; i++) world.step()
}
run(120)
console.log(
  `it stands: the wheels are pressed up by ${(100 * hind.offset).toFixed(1)} and ${(100 * fore.offset).toFixed(1)} cm`,
)
hind.motor = { speed: -8, torque: 40 }
run(200)
console.log(`driven it goes at ${hull.velocity.x.toFixed(2)} m/s (8 rad/s on wheels of 0.4 m)`)
run(300)
console.log(`on the slope: ${hind.explain()}`)
hind.motor = { speed: -8, torque: 120 }
run(120)
console.log(`with three times the torque it climbs at ${hull.velocity.x.toFixed(2)} m/s`)
hind.motor = { speed: 0, torque: 300 }
run(120)
console.log(`braked it stands at ${hull.at.x.toFixed(1)} m, ${hull.velocity.x.toFixed(2)} m/s`)
