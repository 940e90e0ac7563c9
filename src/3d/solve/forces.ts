/** Forces and contacts of 3D, put together. What they do in a tick stands in `core/solve/forces.ts`. */
import { ForcesCore } from '../../core/solve/forces.ts'
import { type KernelSetup, touchDistance } from '../../core/step/kernel.ts'
import { Joints3 } from '../joints/joints.ts'
import type { Kernel3, MakeForces3 } from '../kernel.ts'
import type { Path3 } from '../path.ts'
import { type Contacts3, TOTAL } from './contacts.ts'
import { Dynamics3, LOCK_NAMES } from './dynamics.ts'
import { Motion3 } from './motion.ts'
import { Sweeper3 } from './sweep.ts'

export class Forces3 extends ForcesCore<Dynamics3, Contacts3, Motion3, Path3, Joints3> {
  override readonly motion: Motion3
  override readonly dynamics: Dynamics3
  override readonly joints: Joints3
  protected override readonly sweeper: Sweeper3
  protected override readonly lockNames = LOCK_NAMES

  constructor(
    kernel: Kernel3,
    { population, pairs, dt, unit }: KernelSetup,
    path: Path3,
    normal: { data: Float64Array },
    metAt: { data: Float64Array },
  ) {
    super({ population, pairs, kernel, path, normal, axes: 3, unit })
    const { poses, geometry, distances, surfaces, oneWay } = kernel
    const scale = { touch: touchDistance(unit), unit, dt }
    const dynamics = new Dynamics3(population, surfaces)
    this.dynamics = dynamics
    const shared = { population, pairs, poses, geometry, normal, scale }
    this.motion = new Motion3({ ...shared, distances, dynamics, surfaces, oneWay, metAt })
    const { motion } = this
    const wake = (body: number): void => motion.activation.wake(body)
    this.joints = new Joints3({ population, unit, dt, wake }, motion.bodyRows, motion, poses, dynamics)
    // Contacts come last, so that nothing else has the last word on what lies on a floor.
    motion.solver.kinds.unshift(this.joints.kind)
    this.sweeper = new Sweeper3({ ...shared, path, motion: this.motion })
  }

  override impulseAt(pair: number, partA: number, partB: number, name: number): number {
    const { contacts } = this.motion
    const point = contacts.pointAt(pair, partA, partB, name)
    return point < 0 ? 0 : contacts.points.data[point + TOTAL]
  }
}

export const makeForces3: MakeForces3 = (...parts) => new Forces3(...parts)
