/** A fan of rays over a mesh, with one call. */
import { createWorld, defineLayers, rayResults } from 'keen-sentry/3d'

const RAYS = 64

/** How far each ray comes, as a part of its length; -1 where it meets nothing. */
export function fan(shape) {
  const world = createWorld({ layers: defineLayers(['ground']) })
  world.add({ type: 'static', name: 'sea floor', colliders: [{ shape, layer: 'ground' }] })
  const rays = new Float64Array(6 * RAYS)
  for (let i = 0; i < RAYS; i++) {
    const angle = (i / RAYS) * 2 * Math.PI
    rays.set([0, 8, 0, 20 * Math.cos(angle), 8 + 20 * Math.sin(angle), 3], 6 * i)
  }
  const out = rayResults(RAYS)
  world.raycast.batch(rays, out)
  return [...out.fraction]
}
