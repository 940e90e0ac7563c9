/** A hand grabs a crate within its reach, carries it softly and turns it with its bearer, loses what is too heavy or stuck, and throws. */
import { type Body2, box, createWorld, defineLayers, type Joint2, type Vec2 } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'hero', 'crate']) })
world.add({ type: 'static', at: { x: 0, y: -0.5 }, colliders: [{ shape: box(60, 1), layer: 'rock' }] })
world.add({ type: 'static', at: { x: 6, y: 1 }, colliders: [{ shape: box(0.4, 2), layer: 'rock' }] })
const hero = world.add({ type: 'kinematic', at: { x: 0, y: 1 }, colliders: [{ shape: box(0.6, 2), layer: 'hero' }] })
const crate = (name: string, x: number, density: number) =>
  world.add({
    type: 'dynamic',
    name,
    at: { x, y: 0.4 },
    colliders: [{ shape: box(0.8, 0.8), layer: 'crate', density }],
  })
const light = crate('the light crate', 1.5, 10)
const heavy = crate('the heavy crate', -1.5, 200)

const REACH = 2
const STRENGTH = 300

/** Where the hand is: before the hero, at the height of the chest. */
const palm = (): Vec2 => ({ x: hero.at.x + 1.2, y: hero.at.y + 0.4 })

/** Grabs the nearest crate within reach; it passes through its bearer meanwhile. */
function grab(): Joint2 | null {
  const [hit] = world.nearest.all({ point: palm(), reach: REACH }, { layers: 'crate' })
  if (hit === undefined) return null
  hero.ignore(hit.body)
  return world.join({
    type: 'carry',
    a: hit.body,
    target: { at: palm(), angle: hero.angle },
    force: STRENGTH,
    torque: 60,
    end: ({ a }) => hero.unignore(a as Body2),
  })
}

/** Before each step: the hand follows its bearer. What is left behind by more than its reach slips off. */
function follow(hand: Joint2): boolean {
  hand.target = { at: palm(), angle: hero.angle }
  if (hand.distance < REACH) return true
  console.log(`${hand.a} slips off, ${hand.distance.toFixed(1)} m from the hand`)
  hand.remove()
  return false
}

function walk(ticks: number, speed: number, hand: Joint2 | null): void {
  hero.velocity = { x: speed, y: 0 }
  for (let i = 0; i < ticks; i++) {
    if (hand?.alive && !follow(hand)) break
    world.step()
  }
  hero.velocity = { x: 0, y: 0 }
}

let hand = grab()!
console.log(`grabs ${hand.a}`)
walk(60, 0, hand)
console.log(`holds it at ${light.at.x.toFixed(2)}, ${light.at.y.toFixed(2)} with ${hand.force.toFixed(0)} N`)
walk(120, 1.5, hand)
console.log(`carries it to ${light.at.x.toFixed(1)} m`)
hand.remove()
light.velocity = { x: 6, y: 6 }
walk(60, 0, null)
console.log(`throws it over the wall, to ${light.at.x.toFixed(1)} m`)

hero.teleport({ x: -2.7, y: 1 })
hand = grab()!
walk(60, 0, hand)
console.log(
  `${hand.a} is ${heavy.at.y > 0.5 ? 'lifted' : 'too heavy'}: ${hand.force.toFixed(0)} N of ${(heavy.mass * 9.8).toFixed(0)} N`,
)
walk(200, -2, hand)
