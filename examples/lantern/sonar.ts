/** What the craft sees of its world: the light of its lamp, and the echoes of its sonar. Both are rays. */
import type { Vec2 } from 'keen-sentry/2d'
import type { Craft } from './craft.ts'
import type { GameBody, GameWorld, Thing } from './place.ts'

/** Metres, half the angle of the beam, and rays in it. */
const BEAM = 13
const SPREAD = 0.62
const RAYS = 56
/** What is lit about the craft itself. */
const GLOW = 3.2
const GLOW_RAYS = 40
/** How far a ping is heard, and how many ways it goes. */
const HEARD = 22
const WAYS = 180

/** What stops light and sound. */
const STOPS = ['rock', 'debris', 'gate', 'cargo', 'charge'] as const
const NAMED: ReadonlySet<Thing> = new Set(['lantern', 'crate', 'gate', 'door', 'pendulum'])

export interface Echo {
  readonly at: Vec2
  /** How far the sound went. */
  readonly distance: number
  readonly thing: Thing
  /** What it is, said once for each body. */
  readonly name: string | null
}

/** What the lamp lights: a polygon that begins at the lamp, of `count` pairs of numbers. */
export interface Lit {
  readonly points: Float64Array
  count: number
}

export const litPlace = (): Lit => ({ points: new Float64Array(2 * (RAYS + 1)), count: 0 })
export const glowPlace = (): Lit => ({ points: new Float64Array(2 * GLOW_RAYS), count: 0 })

// tour: lamp
/** The light of the lamp: as far as rays come. */
export function lamp(world: GameWorld, craft: Craft, out: Lit): Lit {
  const { at, angle } = craft.body
  const ahead = (craft.facing > 0 ? angle : Math.PI + angle) - 0.08 * craft.facing
  const from = { x: at.x + 0.9 * Math.cos(ahead), y: at.y + 0.9 * Math.sin(ahead) }
  out.count = 0
  put(out, from)
  fan(world, craft, from, ahead - SPREAD, ahead + SPREAD, RAYS, BEAM, out)
  return out
}
// end

/** The glow about the craft. */
export function glow(world: GameWorld, craft: Craft, out: Lit): Lit {
  out.count = 0
  fan(world, craft, craft.body.at, 0, 2 * Math.PI * (1 - 1 / GLOW_RAYS), GLOW_RAYS, GLOW, out)
  return out
}

function fan(
  world: GameWorld,
  { body, holds }: Craft,
  from: Vec2,
  low: number,
  high: number,
  rays: number,
  reach: number,
  out: Lit,
): void {
  const except = holds === null ? body : [body, holds]
  for (let i = 0; i < rays; i++) {
    const turn = low + ((high - low) * i) / (rays - 1)
    const direction = { x: Math.cos(turn), y: Math.sin(turn) }
    const hit = world.raycast.first({ from, direction, reach }, { layers: STOPS, except })
    // A little into what it meets, so that its face is lit.
    const way = hit === null ? reach : Math.min(reach, hit.distance + 0.35)
    put(out, { x: from.x + way * direction.x, y: from.y + way * direction.y })
  }
}

function put(out: Lit, { x, y }: Vec2): void {
  out.points[2 * out.count] = x
  out.points[2 * out.count + 1] = y
  out.count++
}

// tour: ping
/** A ping: a ray each way, and what it meets. */
export function ping(world: GameWorld, { body, holds }: Craft): Echo[] {
  const except = holds === null ? body : [body, holds]
  const named = new Set<GameBody>()
  const echoes: Echo[] = []
  for (let i = 0; i < WAYS; i++) {
    const turn = (2 * Math.PI * i) / WAYS
    const direction = { x: Math.cos(turn), y: Math.sin(turn) }
    const hit = world.raycast.first({ from: body.at, direction, reach: HEARD }, { layers: STOPS, except })
    if (hit === null) continue
    const { thing } = hit.body.data
    const isNew = NAMED.has(thing) && !named.has(hit.body)
    if (isNew) named.add(hit.body)
    echoes.push({ at: hit.point, distance: hit.distance, thing, name: isNew ? hit.body.name : null })
  }
  return echoes
}
// end
