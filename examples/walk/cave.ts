/** The cave of the page: stairs, slopes below and above what can be walked on, a lift, a belt, ledges, vanes and crates. */
import { box, capsule, circle, createWorld, defineLayers, polygon, type Vec2 } from 'keen-sentry/2d'

/** What the page shows. */
export const SEEN = { min: { x: 0, y: 0 }, max: { x: 36, y: 16 } }
export const ROUND = capsule({ x: 0, y: -0.4 }, { x: 0, y: 0.4 }, 0.35)
export const SQUARE = box(0.7, 1.5)

const layers = defineLayers(['rock', 'ledge', 'crate', 'diver', 'pearl', 'zone'], {
  pairs: [
    ['zone', '*', 'pass'],
    ['zone', 'diver', 'sense'],
    ['pearl', 'diver', 'pass'],
  ],
})

export function build() {
  const world = createWorld({ layers })
  const rock = (name: string, x: number, y: number, width: number, height: number, angle = 0) =>
    world.add({
      type: 'static',
      name,
      at: { x, y },
      angle,
      colliders: [{ shape: box(width, height), layer: 'rock' }],
    })
  const wedge = (name: string, points: Vec2[]) =>
    world.add({ type: 'static', name, colliders: [{ shape: polygon(points), layer: 'rock' }] })
  rock('floor', 18, 0.25, 36, 0.5)
  rock('roof', 18, 15.75, 36, 0.5)
  rock('west wall', 0.25, 8, 0.5, 16)
  rock('east wall', 35.75, 8, 0.5, 16)
  for (let i = 0; i < 6; i++) rock(`stair ${i + 1}`, 6.25 + 0.5 * i, 0.5 + 0.125 * (i + 1), 0.5, 0.25 * (i + 1))
  rock('landing', 10, 1.25, 2, 1.5)
  wedge('gentle slope', [
    { x: 11, y: 0.5 },
    { x: 14, y: 0.5 },
    { x: 11, y: 2 },
  ])
  world.add({
    type: 'static',
    name: 'belt',
    at: { x: 17, y: 0.6 },
    colliders: [{ shape: box(4, 0.2), layer: 'rock', surfaceSpeed: 2 }],
  })
  const lift = world.add({
    type: 'kinematic',
    name: 'lift',
    at: { x: 21, y: 0.6 },
    colliders: [{ shape: box(2.4, 0.2), layer: 'rock' }],
  })
  const table = world.add({
    type: 'kinematic',
    name: 'tilting raft',
    at: { x: 13, y: 6.2 },
    colliders: [{ shape: box(4, 0.3), layer: 'rock' }],
  })
  rock('gallery', 27, 5.95, 9, 0.5)
  wedge('steep rock', [
    { x: 32, y: 0.5 },
    { x: 35.5, y: 0.5 },
    { x: 35.5, y: 5.5 },
  ])
  for (const [name, x, y] of [
    ['low ledge', 17, 3],
    ['high ledge', 8, 4.6],
  ] as const) {
    world.add({
      type: 'static',
      name,
      at: { x, y },
      colliders: [{ shape: box(3, 0.2), layer: 'ledge', oneWay: { x: 0, y: 1 } }],
    })
  }
  rock('vane', 5, 11, 3, 0.4, 0.7)
  rock('other vane', 19, 11.5, 4, 0.4, -0.4)
  rock('cross vane', 29, 12, 0.4, 4, 0.5)
  world.add({
    type: 'static',
    name: 'air pocket',
    at: { x: 29, y: 7.3 },
    colliders: [{ shape: box(2.4, 2.2), layer: 'zone', sensor: true }],
  })
  for (const [i, x] of [25, 26.2, 24].entries()) {
    world.add({
      type: 'dynamic',
      name: `crate ${i + 1}`,
      at: { x, y: i === 2 ? 1 : 6.7 },
      mass: 8 + 6 * i,
      colliders: [{ shape: box(0.9, 0.9), layer: 'crate', friction: 0.4 }],
    })
  }
  const diver = world.add({
    type: 'kinematic',
    name: 'diver',
    at: { x: 3, y: 1.3 },
    colliders: [{ shape: ROUND, layer: 'diver' }],
  })
  const pearl = world.add({
    type: 'kinematic',
    name: 'pearl',
    at: { x: 3, y: 8 },
    colliders: [{ shape: circle(0.3), layer: 'pearl' }],
  })
  /** Sends lift and raft where they are after the next step. */
  const lead = (): void => {
    const time = (world.tick + 1) * world.dt
    // Up and down with a rest at both ends.
    const turn = Math.min(1, Math.max(0, 1.5 * Math.abs(((time / 7) % 2) - 1) - 0.25))
    lift.arriveAt({ x: 21, y: 0.6 + 5.5 * (1 - turn) })
    table.arriveAt({ at: { x: 13 + 2 * Math.sin(time / 2), y: 6.2 }, angle: 0.25 * Math.sin(time) })
  }
  return { world, diver, pearl, lead }
}
