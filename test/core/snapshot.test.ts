/** Taken down and put back, a world goes on as if it had never left: to the bit, with the same events, whatever happened in between. */
import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import { type Body2, defineLayers, KeenError, type World2 } from '../../src/2d/index.ts'
import { DIMENSIONS, type Dimension } from '../helpers/dimensions.ts'
import { Random } from '../helpers/random.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

/** A world in which much happens, and what is done to it before each step: by its tick and its bodies alone. */
function busy({ at, box, circle, about, createWorld }: Dimension, seed: number) {
  const world = createWorld({ layers, tags: ['loud'] }) as World2
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
  const act = (): void => {
    const random = new Random(1000 * seed + world.tick)
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
          mover.travel(at(random.between(-3, 3), random.between(-3, 3)), { onHit: 'slide' })
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
  const tick = (): string => {
    try {
      act()
    } catch (error) {
      // What cannot be done to a body in its state is refused, each time.
      assert.ok(error instanceof KeenError, String(error))
    }
    heard.length = 0
    world.step()
    return trace(world, heard)
  }
  return { world, tick, heard, act, crate }
}

/** All that can be seen of a step. */
function trace(world: World2, heard: readonly string[]): string {
  const bodies = world.bodies().map((body) => {
    const { angle, rotation } = body as { angle?: number; rotation?: object }
    const met = body.overlapping().map((other) => String(other.body))
    return [body.serial, body.name, body.type, body.at, angle ?? rotation, body.velocity, body.spin, body.enabled, met]
  })
  const joints = world.joints().map((joint) => [joint.serial, joint.force, joint.torque])
  const { tests: _, ...stats } = world.stats
  return JSON.stringify([heard, world.events(), world.events({ per: 'collider' }), bodies, joints, stats])
}

for (const dimension of DIMENSIONS) {
  describe(dimension.name, () => {
    test('restore, then the same again, is as if nothing had been in between', () => {
      for (let seed = 0; seed < 6; seed++) {
        const { world, tick } = busy(dimension, seed)
        let kept = world.snapshot()
        for (let round = 0; round < 12; round++) {
          kept = world.snapshot(kept)
          const ticks = 5 + 3 * round
          const first = Array.from({ length: ticks }, tick)
          world.restore(kept)
          assert.equal(world.tick, kept.tick)
          const again = Array.from({ length: ticks }, tick)
          for (let i = 0; i < ticks; i++) assert.equal(again[i], first[i], `seed ${seed}, round ${round}, tick ${i}`)
        }
      }
    })
  })
}
