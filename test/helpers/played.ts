/** A busy world that is played, and all that can be seen of each of its steps: to be compared. */
import type { World2 } from '../../src/2d/index.ts'
import { busy } from './busy.ts'
import type { Dimension } from './dimensions.ts'

/** A busy world, with what can be seen of each of its steps. */
export function played(dimension: Dimension, seed: number) {
  const { world, heard, prepare } = busy(dimension, seed)
  const step = (): string => {
    heard.length = 0
    world.step()
    return trace(world, heard)
  }
  const tick = (): string => {
    prepare()
    return step()
  }
  return { world, heard, prepare, tick, step }
}

/** All that can be seen of a step. */
export function trace(world: World2, heard: readonly string[]): string {
  const bodies = world.bodies().map((body) => {
    const { angle, rotation } = body as { angle?: number; rotation?: object }
    const met = body.overlapping().map((other) => String(other.body))
    return [body.serial, body.name, body.type, body.at, angle ?? rotation, body.velocity, body.spin, body.enabled, met]
  })
  const joints = world.joints().map((joint) => [joint.serial, joint.force, joint.torque])
  const { tests: _, ...stats } = world.stats
  const why =
    world.tick % 4 === 0
      ? world
          .bodies()
          .slice(1, 6)
          .map((body) => String(world.explain(body, world.bodies()[0])))
      : []
  return JSON.stringify([heard, world.events(), world.events({ per: 'collider' }), bodies, joints, stats, why])
}
