/** The surfaces of 3D: a velocity about their body. */
import { PAIR_SPEED, SURFACE_SPEED, Surfaces } from '../core/solve/surfaces.ts'
import type { Column, Table } from '../core/state/table.ts'
import type { Pairs } from '../core/step/pairs.ts'
import type { Poses } from './poses.ts'

export class Surfaces3 extends Surfaces {
  private readonly body: Column<Int32Array>
  private readonly poses: Poses

  /** @param body of a collider */
  constructor(colliders: Table, pairs: Pairs, body: Column<Int32Array>, poses: Poses) {
    super(colliders, pairs, 3)
    this.body = body
    this.poses = poses
  }

  /** How fast the first is carried along past the second, about the world. */
  protected override mixSpeeds(pair: number, out: Float64Array): void {
    out[PAIR_SPEED] = out[PAIR_SPEED + 1] = out[PAIR_SPEED + 2] = 0
    this.add(this.pairs.b.data[pair], 1, out)
    this.add(this.pairs.a.data[pair], -1, out)
  }

  private add(c: number, sign: number, out: Float64Array): void {
    const { data } = this.of
    const at = this.size * c + SURFACE_SPEED
    const x = sign * data[at]
    const y = sign * data[at + 1]
    const z = sign * data[at + 2]
    if (x === 0 && y === 0 && z === 0) return
    const { matrix } = this.poses
    for (let i = 0; i < 3; i++) {
      const m = 9 * this.body.data[c] + 3 * i
      out[PAIR_SPEED + i] += matrix.data[m] * x + matrix.data[m + 1] * y + matrix.data[m + 2] * z
    }
  }
}
