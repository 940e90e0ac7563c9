/** A hanging walkway between two points, made of sections on hinges, with a sag that is asked for; somebody lands on it. */
import { type Body2, box, capsule, createWorld, defineLayers, type Vec2, type World2 } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'plank', 'hero']) })

/** Sections along a curve from one point to the other, hinged to each other and at both ends to the world. */
function walkway(place: World2, from: Vec2, to: Vec2, sections: number, sag: number): Body2[] {
  const point = (i: number): Vec2 => {
    const t = i / sections
    return { x: from.x + (to.x - from.x) * t, y: from.y + (to.y - from.y) * t - 4 * sag * t * (1 - t) }
  }
  const made: Body2[] = []
  for (let i = 0; i < sections; i++) {
    const [a, b] = [point(i), point(i + 1)]
    const section = place.add({
      type: 'dynamic',
      at: { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 },
      angle: Math.atan2(b.y - a.y, b.x - a.x),
      spinDamping: 1,
      colliders: [{ shape: box(Math.hypot(b.x - a.x, b.y - a.y), 0.1), layer: 'plank', density: 40, friction: 0.9 }],
    })
    place.join({ type: 'hinge', a: section, b: made[i - 1], at: a })
    made.push(section)
  }
  place.join({ type: 'hinge', a: made[sections - 1], at: to })
  return made
}

const planks = walkway(world, { x: -5, y: 4 }, { x: 5, y: 5 }, 14, 0.8)
const lowest = (): string => Math.min(...planks.map(({ at }) => at.y)).toFixed(2)
for (let i = 0; i < 240; i++) world.step()
console.log(`it hangs down to ${lowest()} m${planks.every((plank) => plank.asleep) ? ', and sleeps' : ''}`)
const ends = world.joints().filter(({ b }) => b === null)
console.log(`its ends pull with ${ends.map((end) => end.force.toFixed(0)).join(' and ')} N`)

const hero = world.add({
  type: 'dynamic',
  at: { x: 1, y: 7 },
  locks: { turn: true },
  colliders: [{ shape: capsule({ x: 0, y: -0.5 }, { x: 0, y: 0.5 }, 0.3), layer: 'hero', density: 90, friction: 0.9 }],
})
world.watch(
  hero,
  'plank',
  { begin: (e) => console.log(`${e.time.toFixed(2)} s  somebody lands on it, ${e.impulse.toFixed(0)} Ns`) },
  { once: true },
)
for (let i = 0; i < 300; i++) world.step()
console.log(
  `with him it hangs down to ${lowest()} m; the ends pull with ${ends.map((end) => end.force.toFixed(0)).join(' and ')} N`,
)
console.log(
  `the widest gap between two sections is ${(1000 * Math.max(...world.joints().map((joint) => joint.distance))).toFixed(2)} mm`,
)
