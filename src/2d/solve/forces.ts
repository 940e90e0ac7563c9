/** Forces and contacts of 2D, put together. What they do in a tick stands in `core/solve/forces.ts`. */
import { ForcesCore } from '../../core/solve/forces.ts'
import { type KernelSetup, touchDistance } from '../../core/step/kernel.ts'
import { Joints2 } from '../joints/joints.ts'
import type { Kernel2, MakeForces2 } from '../kernel.ts'
import type { Path2 } from '../path.ts'
import { type Contacts, TOTAL } from './contacts.ts'
import { Dynamics, type PlacedShape } from './dynamics.ts'
import { Motion } from './motion.ts'
import { Sweeper } from './sweep.ts'

export class Forces2 extends ForcesCore<Dynamics, Contacts, Motion, Path2, Joints2> {
  override readonly motion: Motion
  override readonly dynamics: Dynamics
  override readonly joints: Joints2
  protected override readonly sweeper: Sweeper
  protected override readonly lockNames = ['x', 'y', 'turn']

  constructor(
    kernel: Kernel2,
    { population, pairs, dt, unit }: KernelSetup,
    path: Path2,
    normal: { data: Float64Array },
    metAt: { data: Float64Array },
  ) {
    super({ population, pairs, kernel, path, normal, axes: 2, unit })
    const { poses, geometry, distances, surfaces, oneWay } = kernel
    const placed = (c: number): PlacedShape => population.handles.of(c) as unknown as PlacedShape
    const scale = { touch: touchDistance(unit), unit, dt }
    const dynamics = new Dynamics(population, surfaces, placed)
    this.dynamics = dynamics
    const shared = { population, pairs, poses, geometry, normal, scale }
    this.motion = new Motion({ ...shared, distances, dynamics, surfaces, oneWay, metAt })
    const { motion } = this
    const wake = (body: number): void => motion.activation.wake(body)
    this.joints = new Joints2({ population, unit, dt, wake }, motion.bodyRows, motion, poses, dynamics)
    // Contacts come last, so that nothing else has the last word on what lies on a floor.
    motion.solver.kinds.unshift(this.joints.kind)
    this.sweeper = new Sweeper({ ...shared, distances, path, motion: this.motion })
  }

  override impulseAt(pair: number, partA: number, partB: number, name: number): number {
    const { contacts } = this.motion
    const point = contacts.pointAt(pair, partA, partB, name)
    return point < 0 ? 0 : contacts.points.data[point + TOTAL]
  }
}

export const makeForces2: MakeForces2 = (...parts) => new Forces2(...parts)
