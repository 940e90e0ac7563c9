/** The match: two craft, a pearl, and a bay at either end. All that happens follows from the inputs of both, tick by tick, to the bit. */
import { type Body2, box, circle, createWorld, defineLayers, type World2 } from 'keen-sentry/2d'

/** What is seen of the arena: min x, min y, max x, max y. */
export const ARENA = { min: { x: -10.5, y: -6.1 }, max: { x: 10.5, y: 6.1 } }
/** The bits of an input. */
export const LEFT = 1
export const RIGHT = 2
export const UP = 4
export const DOWN = 8

/** Lengths a second squared. */
const THRUST = 34
const layers = defineLayers(['wall', 'craft', 'pearl', 'bay'], {
  pairs: [
    ['bay', '*', 'pass'],
    ['bay', 'pearl', 'sense'],
  ],
})

export interface Match {
  readonly world: World2
  readonly crafts: readonly [Body2, Body2]
  readonly pearl: Body2
  /** Pearls that either has brought home. */
  readonly score: [number, number]
}

export function newMatch(): Match {
  const world = createWorld({ layers, gravity: { x: 0, y: 0 } })
  const wall = (name: string, x: number, y: number, width: number, height: number): void => {
    world.add({
      type: 'static',
      name,
      at: { x, y },
      colliders: [{ shape: box(width, height), layer: 'wall', restitution: 0.7 }],
    })
  }
  wall('floor', 0, -5.75, 21, 0.5)
  wall('ceiling', 0, 5.75, 21, 0.5)
  wall('left end', -10.25, 0, 0.5, 12)
  wall('right end', 10.25, 0, 0.5, 12)
  wall('upper rock', 0, 3.2, 1.2, 1.2)
  wall('lower rock', 0, -3.2, 1.2, 1.2)
  const bay = (name: string, x: number): Body2 =>
    world.add({
      type: 'static',
      name,
      at: { x, y: 0 },
      colliders: [{ shape: box(1.2, 4), layer: 'bay', sensor: true }],
    })
  bay('left bay', -9.4)
  bay('right bay', 9.4)
  const craft = (name: string, x: number): Body2 =>
    world.add({
      type: 'dynamic',
      name,
      at: { x, y: 0 },
      damping: 1.6,
      colliders: [{ shape: circle(0.65), layer: 'craft', restitution: 0.4, friction: 0.2 }],
    })
  const crafts = [craft('left craft', -6), craft('right craft', 6)] as const
  const pearl = world.add({
    type: 'dynamic',
    name: 'pearl',
    damping: 0.25,
    colliders: [{ shape: circle(0.45), layer: 'pearl', density: 0.4, restitution: 0.8, friction: 0.1 }],
  })
  world.watch('pearl', 'bay', {}, { key: 'home' })
  return { world, crafts, pearl, score: [0, 0] }
}

/**
 * A tick. What the rules need is read from `events()`, which quiet steps have too: handlers would not be called in a tick that is played again.
 * @param quiet whether it was played before
 */
export function playTick(match: Match, inputs: readonly [number, number], quiet: boolean): void {
  const { world, crafts, pearl, score } = match
  for (const [i, craft] of crafts.entries()) {
    const x = Number((inputs[i] & RIGHT) !== 0) - Number((inputs[i] & LEFT) !== 0)
    const y = Number((inputs[i] & UP) !== 0) - Number((inputs[i] & DOWN) !== 0)
    const push = THRUST * craft.mass * world.dt
    if (x !== 0 || y !== 0) craft.applyImpulse({ x: x * push, y: y * push })
  }
  world.step({ quiet })
  for (const event of world.events()) {
    if (event.joint !== null || event.kind !== 'begin') continue
    score[[event.a.name, event.b.name].includes('left bay') ? 1 : 0]++
    pearl.teleport({ x: 0, y: 0 })
    pearl.velocity = { x: 0, y: 0 }
    pearl.spin = 0
  }
}

/** What one would do who has nobody at the keys: get behind the pearl, and push it home. */
export function autopilot({ world, crafts, pearl }: Match, me: 0 | 1): number {
  const own = crafts[me].at
  const { x, y } = pearl.at
  const ahead = me === 0 ? 1 : -1
  const behind = (x - own.x) * ahead > 0.7
  // Now and then it takes another run-up, from above or below, so that two do not hold the pearl between them for ever.
  const mood = Math.floor(world.tick / (me === 0 ? 71 : 97)) % 4
  const aim =
    mood === 3
      ? { x: x - 3.5 * ahead, y: me === 0 ? 3 : -3 }
      : behind
        ? { x: x + 0.1 * ahead, y: y + 0.25 * (mood - 1) }
        : { x: x - 1.6 * ahead, y: y + (own.y > y ? 1.3 : -1.3) }
  let keys = 0
  if (aim.x < own.x - 0.2) keys |= LEFT
  if (aim.x > own.x + 0.2) keys |= RIGHT
  if (aim.y < own.y - 0.2) keys |= DOWN
  if (aim.y > own.y + 0.2) keys |= UP
  return keys
}
