/**
 * What must compile, and what must not, for a user of 2d: this file is checked by the compiler and never run. The lines under
 * `@ts-expect-error` fail the check when they compile.
 */
import {
  type Body2,
  type BodyOf,
  type BodySpec2,
  type Collider2,
  type ColliderOf,
  circle,
  createWorld,
  defineLayers,
  type EventOf,
  type Kinds,
  ofType,
  type RayHit2,
  tiles,
  type WatchEvent2,
  type World2,
} from '../../src/2d/index.ts'

/** Several kinds of data, told apart by a field. */
type Data = { kind: 'zone'; next: string } | { kind: 'crate'; worth: number }

const layers = defineLayers(['rock', 'craft', 'zone'])
const world = createWorld({ layers, tags: ['player', 'weak'], data: ofType<Data>() })
const plain = createWorld({ layers })
const loose = createWorld({ layers, data: ofType<number | undefined>() })

const zone = world.add({ type: 'kinematic', data: { kind: 'zone', next: 'the cove' } })
const rock = plain.add({ type: 'static', colliders: [{ shape: circle(1), layer: 'rock' }] })
loose.add({ type: 'static' })
plain.add({ type: 'static', data: 'anything' })

// Plain types take what any world makes.
function hurt(body: Body2): void {
  body.remove()
}
function switchOff(collider: Collider2): void {
  collider.enabled = false
}
function advance(any: World2): void {
  any.step()
  any.watch('craft', 'zone', { begin: (event) => hurt(event.a) })
}
function report(event: WatchEvent2): string {
  return event.a.name ?? 'nameless'
}
hurt(zone)
hurt(rock)
advance(world)
advance(plain)
switchOff(rock.colliders[0])
export const list: Body2[] = [zone, rock]
export const worth = new Map<Body2, number>([[zone, 1]])
export const seen = new Set<Collider2>(rock.colliders)
export const specs: BodySpec2[] = [{ type: 'static' }]

// Exact types are had from a world.
type Mine = BodyOf<typeof world>
export const mine: Mine = zone
export function tell(event: EventOf<typeof world>, collider: ColliderOf<typeof world>): string {
  if (collider.body.data.kind === 'zone') return collider.body.data.next
  return event.a.data.kind === 'crate' ? event.a.data.worth.toFixed() : event.cause
}
/** A function for worlds of any names keeps them. */
export function first<K extends Kinds>(any: World2<K>): Body2<K> | undefined {
  return any.bodies()[0]
}
export const found: Mine | undefined = first(world)

// Handlers tell the kinds of data apart without a cast.
world.watch('craft', 'zone', {
  begin(event) {
    const { data } = event.b
    if (data.kind === 'zone') report(event).concat(data.next)
    else data.worth.toFixed()
  },
  end: report,
})
world.decide('craft', 'zone', (pair) => (pair.b.data.kind === 'zone' ? 'sense' : 'pass'))
export const hit: RayHit2 | null = world.raycast.first(
  { from: { x: 0, y: 0 }, to: { x: 0, y: 0 } },
  { layers: 'craft', where: (collider) => collider.body.data.kind === 'crate' },
)

// @ts-expect-error 'data' is typed, and may not be left out
world.add({ type: 'static' })
// @ts-expect-error no such kind of data
world.add({ type: 'static', data: { kind: 'zoo' } })
// @ts-expect-error data of another kind has no such field
world.add({ type: 'static', data: { kind: 'zone', worth: 3 } })
// @ts-expect-error a misspelt layer
world.watch('craf', 'zone')
// @ts-expect-error a misspelt layer
plain.add({ type: 'static', colliders: [{ shape: circle(1), layer: 'rok' }] })
// @ts-expect-error a world without tags has none
plain.add({ type: 'static', colliders: [{ shape: circle(1), layer: 'rock', tags: ['player'] }] })
// @ts-expect-error a misspelt tag
world.watch({ tag: 'playr' }, 'zone')
// @ts-expect-error no such type of body
plain.add({ type: 'dynamical' })
// @ts-expect-error no such option
plain.add({ type: 'static', gravity: 2 })
// @ts-expect-error no such kind of event
world.watch('craft', 'zone', { start() {} })
// @ts-expect-error no such answer
world.decide('craft', 'zone', () => 'maybe')
// @ts-expect-error a place is not assigned
zone.at = { x: 0, y: 0 }
// @ts-expect-error data of this world is not a text
zone.data = 'crate'
// @ts-expect-error of two kinds of data one must be made sure of first
zone.data.next.length
// @ts-expect-error a body of the other dimension
export const other: Body2 = null as unknown as import('../../src/3d/index.ts').Body3

// Kinds of tiles know the layers of the world that they come into.
const level = tiles({ rows: ['#~'], kinds: { '#': {}, '~': { layer: 'zone', response: 'sense' } } })
plain.add({ type: 'static', colliders: [{ shape: level, layer: 'rock' }] })
plain.add({ type: 'static', colliders: [{ shape: tiles({ rows: ['#'], kinds: { '#': {} } }), layer: 'rock' }] })
const misspelt = tiles({ rows: ['#~'], kinds: { '#': {}, '~': { layer: 'zoen' } } })
// @ts-expect-error a misspelt layer of a kind
plain.add({ type: 'static', colliders: [{ shape: misspelt, layer: 'rock' }] })
// @ts-expect-error a misspelt field of a kind
tiles({ rows: ['#'], kinds: { '#': { frictoin: 1 } } })
const [piece] = rock.colliders[0].carve({ shape: circle(1), at: { x: 0, y: 0 }, cutOff: 9 }).pieces
plain.add({ type: 'dynamic', at: piece.at, colliders: [{ shape: piece.shape, layer: 'craft' }] })
const column: number | undefined = plain.raycast.first({ from: { x: 0, y: 0 }, to: { x: 1, y: 0 } })?.tile?.column
if (column === undefined) rock.remove()
