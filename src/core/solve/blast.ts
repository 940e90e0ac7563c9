/** A blast in either dimension: whom it meets, and how much each gets. A dimension brings directions, and where rays look for cover. */
import type { LayerSet } from '../filter/layers.ts'
import { callable, finite, notNegative, onlyFields, positive } from '../util/checks.ts'
import { COORDINATE, FORCE, SCALE } from '../util/limits.ts'

/** What a blast is like, as far as that knows no dimension. */
export interface BlastOptions<L extends string, B, V> {
  /** Where it goes off. */
  at: V
  /** How far it reaches. */
  reach: number
  /** Newton seconds that a body gets next to it, in the open. */
  strength: number
  /** What is left at a distance, as a part: of the part of the reach (0 next to it, 1 at its end). Default `1 - part`. */
  falloff?: ((part: number) => number) | undefined
  /** Layers that give cover. Default: none does. */
  cover?: LayerSet<L> | undefined
  /** Layers whose bodies it can move, or report. Default: all. */
  layers?: LayerSet<L> | undefined
  /** Bodies that it leaves alone, and that give no cover. */
  except?: B | readonly B[] | undefined
}

/** What a blast did to a body, as far as that knows no dimension. */
export interface BlastHit<B, V> {
  /** The body that was pushed. */
  readonly body: B
  /** To the nearest point of the body. */
  readonly distance: number
  /** Part of the body that the blast sees, 0 to 1, by a few rays. */
  readonly exposed: number
  /** Newton seconds that it got; for a body that is not dynamic, that it would have got. */
  readonly impulse: V
}

interface Pushed<V> {
  readonly type: string
  readonly centre: V
  applyImpulse(impulse: V, point?: V): void
}

/** What a blast asks of a world. */
interface Asked<L extends string, B, V> {
  readonly nearest: {
    all(
      place: { point: V; reach: number },
      filter: { layers?: LayerSet<L> | undefined; except: readonly B[] },
    ): readonly { readonly body: B; readonly point: V; readonly distance: number }[]
  }
  readonly raycast: { any(ray: { from: V; to: V }, filter: { layers: LayerSet<L>; except: readonly B[] }): boolean }
}

/** What a dimension brings. */
export interface BlastSpace<B, V> {
  checkVec(value: unknown, what: string): V
  /** Unit, from one point to another; upwards where they are the same. */
  direction(from: V, to: V): V
  scaled(vector: V, by: number): V
  /** Where rays look for a body, as seen from a place. */
  aims(body: B, from: V): readonly V[]
}

const FIELDS = ['at', 'reach', 'strength', 'falloff', 'cover', 'layers', 'except'] as const

/** Pushes every dynamic body within reach away from a point, and returns whom it met, the nearest first. */
export function blastBodies<L extends string, B extends Pushed<V>, V>(
  world: Asked<L, B, V>,
  options: BlastOptions<L, B, V>,
  space: BlastSpace<B, V>,
): BlastHit<B, V>[] {
  onlyFields(options, FIELDS, 'the options of a blast')
  const at = space.checkVec(options.at, "'at' of a blast")
  const reach = positive(options.reach, "'reach' of a blast", COORDINATE)
  const strength = notNegative(options.strength, "'strength' of a blast", FORCE)
  if (options.falloff !== undefined) callable(options.falloff, "'falloff' of a blast")
  const except = [options.except ?? []].flat() as B[]
  const met = new Set<B>()
  const hits: BlastHit<B, V>[] = []
  for (const { body, point, distance: apart } of world.nearest.all(
    { point: at, reach },
    { layers: options.layers, except },
  )) {
    if (met.has(body)) continue
    met.add(body)
    const distance = Math.max(apart, 0)
    const part = distance / reach
    const left = finite(options.falloff?.(part) ?? 1 - part, "what 'falloff' of a blast gives", SCALE)
    const exposed = options.cover === undefined ? 1 : exposure(world, at, body, options.cover, except, space)
    const size = strength * left * exposed
    const impulse = space.scaled(space.direction(at, apart > 0 ? point : body.centre), size)
    if (body.type === 'dynamic' && size !== 0) body.applyImpulse(impulse, apart > 0 ? point : undefined)
    hits.push({ body, distance, exposed, impulse })
  }
  return hits
}

/** The part of rays, spread over the width of a body, that nothing stops on its way there. */
function exposure<L extends string, B, V>(
  world: Asked<L, B, V>,
  at: V,
  body: B,
  cover: LayerSet<L>,
  except: readonly B[],
  space: BlastSpace<B, V>,
): number {
  const aims = space.aims(body, at)
  const filter = { layers: cover, except: [...except, body] }
  const free = aims.filter((to) => !world.raycast.any({ from: at, to }, filter))
  return free.length / aims.length
}
