/** A world in which much happens, by nothing but its tick and its bodies: so that it can be played again, and on any engine. */
import { type Body2, defineLayers, KeenError, type World2 } from '../../src/2d/index.ts'
import type { Dimension } from './dimensions.ts'
import { Random } from './random.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

/** The world, and what is done to it before each step. */
export function busy(
  { at, box, circle, about, createWorld }: Dimension,
  seed: number,
  options: { history?: number } = {},
) {
  const world = createWorld({ layers, tags: ['loud'], ...options }) as World2
  const heard: string[] = []
  const hear = (e: unknown) => void heard.push(JSON.stringify(e))
  world.add({ type: 'static', name: 'floor', colliders: [{ shape: box(30, 1), layer: 'rock' }] })
  world.add({
    type: 'static',
    name: 'pool',
    at: at(4, 2),
    colliders: [{ shape: box(4, 4), layer: 'zone', sensor: true }],
  })
  world.add({
    type: 'kinematic',
    name: 'sweeper',
    at: at(-8, 1),
    velocity: at(2, 0),
    colliders: [{ shape: box(1, 1), layer: 'craft' }],
  })
  world.watch('craft', 'rock', { begin: hear, during: hear, end: hear, impact: hear }, { over: { impulse: 1 } })
  world.watch('craft', 'zone', { begin: hear, end: hear }, { per: 'collider' })
  world.watch('craft', 'craft', { begin: hear, end: hear })
  world.watch('craft', 'rock', { begin: hear, end: hear }, { once: true, key: 'first landing' })
  world.decide('craft', 'rock', (pair) => (pair.a.serial % 5 === 0 ? 'sense' : 'solid'))

  const crate = (random: Random) =>
    world.add({
      type: random.chance(0.8) ? 'dynamic' : 'kinematic',
      at: at(random.between(-8, 8), random.between(1, 9)),
      colliders: [
        { shape: random.chance(0.5) ? box(0.8, 0.6) : circle(0.4), layer: 'craft', restitution: 0.4 },
        ...(random.chance(0.2) ? [{ shape: circle(0.3), layer: 'zone', at: at(0.5, 0), tags: ['loud'] }] : []),
      ] as never,
    })
  const act = (which: number): void => {
    const random = new Random(5000 * seed + 2 * world.tick + which)
    const movers = world.bodies().filter((body) => body.type !== 'static') as Body2[]
    const any = () => movers[random.below(movers.length)]
    if (movers.length < 24 && random.chance(0.5)) crate(random)
    if (movers.length === 0) return
    switch (random.below(16)) {
      case 0:
        any().remove()
        break
      case 1:
        any().teleport(at(random.between(-8, 8), random.between(1, 9)))
        break
      case 2:
        any().velocity = at(random.between(-300, 300), random.between(-300, 20))
        break
      case 3: {
        const [a, b] = [any(), any()]
        if (a !== b && a.type === 'dynamic') world.join({ type: 'hinge', a, b, at: a.at, ...about } as never)
        break
      }
      case 4:
        for (const joint of world.joints().slice(0, 1)) joint.remove()
        break
      case 5:
        any().enabled = random.chance(0.5)
        break
      case 6: {
        const [a, b] = [any(), any()]
        if (a !== b) random.chance(0.5) ? a.ignore(b) : a.unignore(b)
        break
      }
      case 7:
        any().colliders[0]?.remove()
        break
      case 8:
        any().attach({ shape: circle(0.3), layer: 'craft', at: at(0, 0.4) } as never)
        break
      case 9: {
        const mover = any()
        if (mover.type === 'kinematic')
          mover.travel(at(random.between(-3, 3), random.between(-3, 3)), { onHit: 'slide', ride: true })
        break
      }
      case 10:
        world.setPair('craft', 'craft', random.chance(0.5) ? 'sense' : 'solid')
        break
      case 11:
        any().type = random.chance(0.5) ? 'kinematic' : 'dynamic'
        break
      case 12:
        world.gravity = at(0, random.chance(0.5) ? -9.8 : -3)
        break
      case 13:
        world.find('pool')!.colliders[0].sensor = random.chance(0.5)
        break
      case 14:
        for (const collider of any().colliders.slice(0, 1)) collider.shape = circle(0.5)
        break
      default:
    }
  }
  /** Does what belongs before the step of now, twice: so that much waits for it. */
  const prepare = (): void => {
    for (let i = 0; i < 2; i++) {
      try {
        act(i)
      } catch (error) {
        // What cannot be done to a body in its state is refused, each time.
        if (!(error instanceof KeenError)) throw error
      }
    }
  }
  return { world, heard, prepare }
}
