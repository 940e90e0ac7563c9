/** A strand of kelp that stands in the water, a gate that swings either way and shuts itself, and a ramp that a motor lowers. */
import { type Body2, box, circle, createWorld, defineLayers, type Vec2 } from 'keen-sentry/2d'

const world = createWorld({
  layers: defineLayers(['rock', 'kelp', 'machine', 'craft'], { pairs: [['kelp', '*', 'pass']] }),
})
world.add({ type: 'static', at: { x: 0, y: -0.5 }, colliders: [{ shape: box(60, 1), layer: 'rock' }] })
const run = (ticks: number): void => {
  for (let i = 0; i < ticks; i++) world.step()
}

/** Sections one on top of the other, light enough to stand in the water; the lowest is held by the ground. */
function strand(foot: Vec2, sections: number, length: number): Body2[] {
  const made: Body2[] = []
  for (let i = 0; i < sections; i++) {
    const section = world.add({
      type: 'dynamic',
      at: { x: foot.x, y: foot.y + length * (i + 0.5) },
      gravityScale: -0.2,
      damping: 1,
      spinDamping: 1,
      colliders: [{ shape: box(0.1, length), layer: 'kelp' }],
    })
    world.join({ type: 'hinge', a: section, b: made[i - 1], at: { x: foot.x, y: foot.y + length * i } })
    made.push(section)
  }
  return made
}

const kelp = strand({ x: -8, y: 0 }, 8, 0.5)
const tip = kelp[7]
const sway = (force: number, ticks: number): void => {
  for (let i = 0; i < ticks; i++) {
    for (const section of kelp) section.applyForce({ x: force, y: 0 })
    world.step()
  }
}
sway(0.1, 300)
console.log(`in the current the kelp leans by ${(tip.at.x + 8).toFixed(1)} m`)
sway(0, 600)
console.log(`without it it stands again: ${Math.abs(tip.at.x + 8).toFixed(1)} m aside, ${tip.at.y.toFixed(1)} m high`)

// A flap on a hinge; a soft weld beside it brings it back.
const flap = world.add({
  type: 'dynamic',
  at: { x: 0, y: 1.2 },
  colliders: [{ shape: box(0.2, 2), layer: 'machine', density: 20 }],
})
const hinge = world.join({ type: 'hinge', a: flap, at: { x: 0, y: 2.2 }, limits: { min: -1.4, max: 1.4 } })
world.join({ type: 'fixed', a: flap, at: { x: 0, y: 2.2 }, frequency: 0.8, damping: 0.6 })
const ball = world.add({
  type: 'dynamic',
  at: { x: -3, y: 0.5 },
  velocity: { x: 11, y: 0 },
  colliders: [{ shape: circle(0.5), layer: 'craft', density: 20 }],
})
let widest = 0
for (let i = 0; i < 120; i++) {
  world.step()
  widest = Math.max(widest, Math.abs(hinge.angle))
}
console.log(`the gate opens by ${widest.toFixed(1)} rad, lets the ball through to ${ball.at.x.toFixed(1)} m`)
run(240)
console.log(`and shuts: ${Math.abs(hinge.angle).toFixed(2)} rad`)

// A ramp: upright, then lowered by its motor against its weight, and held there.
const ramp = world.add({
  type: 'dynamic',
  at: { x: 10, y: 2.3 },
  colliders: [{ shape: box(0.3, 4), layer: 'machine', density: 30 }],
})
const winch = world.join({
  type: 'hinge',
  a: ramp,
  at: { x: 10, y: 0.45 },
  limits: { min: 0, max: 1.3 },
  motor: { speed: 0, torque: 2000 },
})
run(60)
winch.motor = { speed: 0.6, torque: 2000 }
run(180)
console.log(`the ramp is lowered by ${winch.angle.toFixed(2)} rad, held with ${winch.torque.toFixed(0)} Nm`)
winch.motor = { speed: -0.6, torque: 300 }
run(120)
console.log(winch.explain())
