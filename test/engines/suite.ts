/**
 * Worlds that are played on every engine, hashed tick by tick: forces, joints, travel, tiles, meshes. It uses nothing of a browser or of Node, so
 * that a bare shell runs it. The last lines print it.
 */
import * as two from '../../src/2d/index.ts'
import * as three from '../../src/3d/index.ts'
import { simdRays } from '../../src/3d/simd/index.ts'
import { busy } from '../helpers/busy.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { Random } from '../helpers/random.ts'

interface Played {
  step(): void
  hash(): string
}

/** Each scene: a world, and what is done before each of its ticks. */
const scenes: Record<string, () => { world: Played; before?: (tick: number) => void; ticks: number }> = {}

for (const dimension of DIMENSIONS) {
  for (let seed = 0; seed < 3; seed++) {
    scenes[`${dimension.name}: much at once, ${seed + 1}`] = () => {
      const { world, prepare } = busy(dimension, 10 + seed)
      return { world, before: prepare, ticks: 200 }
    }
  }
  scenes[`${dimension.name}: a pile`] = () => {
    const { at, box, circle, createWorld } = dimension
    const random = new Random(4)
    const world = createWorld({ layers: two.defineLayers(['rock', 'crate']) })
    for (const [x, y, w, h] of [
      [0, -1, 20, 2],
      [-9, 8, 2, 20],
      [9, 8, 2, 20],
    ])
      world.add({ type: 'static', at: at(x, y), colliders: [{ shape: box(w, h), layer: 'rock' }] })
    for (let i = 0; i < 60; i++) {
      const shape =
        i % 2 === 0 ? box(random.between(0.4, 1.2), random.between(0.4, 1.2)) : circle(random.between(0.2, 0.6))
      world.add({
        type: 'dynamic',
        at: at(random.between(-7, 7), 1 + i * 0.4),
        colliders: [{ shape, layer: 'crate', restitution: 0.3, friction: 0.5 }],
      })
    }
    return { world, ticks: 240 }
  }
  scenes[`${dimension.name}: a chain on a crane`] = () => {
    const { about, at, box, createWorld } = dimension
    const world = createWorld({ layers: two.defineLayers(['rock', 'link']) }) as two.World2
    let last: two.Body2 = world.add({ type: 'static', colliders: [{ shape: box(1, 1), layer: 'rock' }] })
    for (let i = 0; i < 12; i++) {
      const next = world.add({
        type: 'dynamic',
        at: at(0.8 * (i + 1), 0),
        colliders: [{ shape: box(0.6, 0.2), layer: 'link' }],
      })
      world.join({ type: 'hinge', a: last, b: next, at: at(0.8 * i + 0.4, 0), ...about } as never)
      last = next
    }
    world.join({ type: 'spring', a: last, atA: last.at, atB: at(9, 4), frequency: 1.5, damping: 0.2 } as never)
    return { world, ticks: 240 }
  }
}

scenes['3D: rays, by SIMD where it is there'] = () => {
  const random = new Random(12)
  const anywhere = (far: number): number => random.between(-far, far)
  const world = three.createWorld({ layers: two.defineLayers(['rock']) })
  simdRays(world)
  for (let i = 0; i < 300; i++) {
    const shape = i % 2 === 0 ? three.box(1, 1, 1) : three.sphere(0.6)
    world.add({
      type: i % 3 === 0 ? 'kinematic' : 'static',
      at: { x: anywhere(9), y: anywhere(9), z: anywhere(9) },
      colliders: [{ shape, layer: 'rock' }],
    })
  }
  const rays = Float64Array.from({ length: 6 * 200 }, () => anywhere(14))
  const out = three.rayResults(200)
  const played: Played = {
    step() {
      world.step()
      world.raycast.batch(rays, out)
      // Asked again, for by now the tree may be copied.
      world.raycast.batch(rays, out)
    },
    hash: () => `${world.hash()} ${out.fraction.reduce((sum, fraction, i) => sum + fraction * (i + 1), 0)}`,
  }
  const before = (): void => {
    for (const body of world.bodies()) {
      if (body.type === 'kinematic') body.velocity = { x: anywhere(3), y: anywhere(3), z: anywhere(3) }
    }
  }
  return { world: played, before, ticks: 60 }
}

scenes['2D: tiles that are dug into'] = () => {
  const rows = Array.from({ length: 12 }, (_, row) => (row < 4 ? '.'.repeat(40) : '#'.repeat(40)))
  const world = two.createWorld({ layers: two.defineLayers(['rock', 'ball']) })
  const [ground] = world.add({
    type: 'static',
    at: { x: -20, y: -8 },
    colliders: [{ shape: two.tiles({ cell: 1, rows, kinds: { '#': {} } }), layer: 'rock' }],
  }).colliders
  for (let i = 0; i < 30; i++)
    world.add({
      type: 'dynamic',
      at: { x: i - 15, y: 2 + (i % 5) },
      colliders: [{ shape: two.circle(0.4), layer: 'ball', restitution: 0.5 }],
    })
  const before = (tick: number): void => {
    if (tick % 20 === 5) ground.carve({ shape: two.circle(1.5), at: { x: (tick % 37) - 18, y: -1 - (tick % 5) } })
  }
  return { world, before, ticks: 240 }
}

scenes['3D: hulls on a heightfield'] = () => {
  const size = 24
  const heights = Array.from({ length: size * size }, (_, i) => ((i * 7919) % 13) / 10 + (i % size) / 12)
  const world = three.createWorld({ layers: three.defineLayers(['rock', 'stone']) })
  world.add({
    type: 'static',
    at: { x: -12, y: 0, z: -12 },
    colliders: [{ shape: three.heightfield({ columns: size, rows: size, heights, cell: 1 }), layer: 'rock' }],
  })
  const random = new Random(8)
  for (let i = 0; i < 24; i++) {
    const points = Array.from({ length: 10 }, () => ({
      x: random.between(-0.6, 0.6),
      y: random.between(-0.6, 0.6),
      z: random.between(-0.6, 0.6),
    }))
    const shapes = [
      three.hull(points),
      three.capsule({ x: -0.4, y: 0, z: 0 }, { x: 0.4, y: 0, z: 0 }, 0.3),
      three.cylinder(0.4, 0.8),
    ]
    world.add({
      type: 'dynamic',
      at: { x: random.between(-8, 8), y: 5 + i * 0.3, z: random.between(-8, 8) },
      spin: { x: random.between(-4, 4), y: 1, z: random.between(-4, 4) },
      colliders: [{ shape: shapes[i % 3], layer: 'stone' }],
    })
  }
  return { world, ticks: 240 }
}

/** The hashes of each scene, one a tick, for so many ticks at most. */
export function play(most: number): Record<string, string[]> {
  const played: Record<string, string[]> = {}
  for (const [name, make] of Object.entries(scenes)) {
    const { world, before, ticks } = make()
    played[name] = []
    for (let tick = 0; tick < Math.min(ticks, most); tick++) {
      before?.(tick)
      world.step()
      played[name].push(world.hash())
    }
  }
  return played
}

declare const print: ((text: string) => void) | undefined
declare const KEEN_ENGINES: number | undefined
if (typeof KEEN_ENGINES !== 'undefined') {
  const text = JSON.stringify(play(KEEN_ENGINES))
  const host = globalThis as { result?: string; document?: object }
  host.result = text
  // In a browser that would print the page.
  if (host.document === undefined && typeof print === 'function') print(text)
}
