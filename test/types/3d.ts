/**
 * What must compile, and what must not, for a user of 3d: this file is checked by the compiler and never run. The lines under
 * `@ts-expect-error` fail the check when they compile.
 */
import {
  type Body3,
  type BodyOf,
  type BodySpec3,
  type Collider3,
  type ColliderOf,
  createWorld,
  defineLayers,
  type EventOf,
  type Kinds,
  ofType,
  type RayHit3,
  sphere,
  type WatchEvent3,
  type World3,
} from '../../src/3d/index.ts'

/** Several kinds of data, told apart by a field. */
type Data = { kind: 'zone'; next: string } | { kind: 'crate'; worth: number }

const layers = defineLayers(['rock', 'craft', 'zone'])
const world = createWorld({ layers, tags: ['player', 'weak'], data: ofType<Data>() })
const plain = createWorld({ layers })
const loose = createWorld({ layers, data: ofType<number | undefined>() })

const zone = world.add({ type: 'kinematic', data: { kind: 'zone', next: 'the cove' } })
const rock = plain.add({ type: 'static', colliders: [{ shape: sphere(1), layer: 'rock' }] })
loose.add({ type: 'static' })
plain.add({ type: 'static', data: 'anything' })

// Plain types take what any world makes.
function hurt(body: Body3): void {
  body.remove()
}
function switchOff(collider: Collider3): void {
  collider.enabled = false
}
function advance(any: World3): void {
  any.step()
  any.watch('craft', 'zone', { begin: (event) => hurt(event.a) })
}
function report(event: WatchEvent3): string {
  return event.a.name ?? 'nameless'
}
hurt(zone)
hurt(rock)
advance(world)
advance(plain)
switchOff(rock.colliders[0])
export const list: Body3[] = [zone, rock]
export const worth = new Map<Body3, number>([[zone, 1]])
export const seen = new Set<Collider3>(rock.colliders)
export const specs: BodySpec3[] = [{ type: 'static' }]

// Exact types are had from a world.
type Mine = BodyOf<typeof world>
export const mine: Mine = zone
export function tell(event: EventOf<typeof world>, collider: ColliderOf<typeof world>): string {
  if (collider.body.data.kind === 'zone') return collider.body.data.next
  return event.a.data.kind === 'crate' ? event.a.data.worth.toFixed() : event.cause
}
/** A function for worlds of any names keeps them. */
export function first<K extends Kinds>(any: World3<K>): Body3<K> | undefined {
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
export const hit: RayHit3 | null = world.raycast.first(
  { from: { x: 0, y: 0, z: 0 }, to: { x: 0, y: 0, z: 0 } },
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
plain.add({ type: 'static', colliders: [{ shape: sphere(1), layer: 'rok' }] })
// @ts-expect-error a world without tags has none
plain.add({ type: 'static', colliders: [{ shape: sphere(1), layer: 'rock', tags: ['player'] }] })
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
zone.at = { x: 0, y: 0, z: 0 }
// @ts-expect-error data of this world is not a text
zone.data = 'crate'
// @ts-expect-error of two kinds of data one must be made sure of first
zone.data.next.length
// @ts-expect-error a body of the other dimension
export const other: Body3 = null as unknown as import('../../src/2d/index.ts').Body2
