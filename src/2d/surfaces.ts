/** The surfaces of 2D: a speed along them. */
import { PAIR_SPEED, SURFACE_SPEED, Surfaces } from '../core/solve/surfaces.ts'

export class Surfaces2 extends Surfaces {
  protected override mixSpeeds(pair: number, out: Float64Array): void {
    const { size, of, pairs } = this
    const { data } = of
    out[PAIR_SPEED] = data[size * pairs.a.data[pair] + SURFACE_SPEED] + data[size * pairs.b.data[pair] + SURFACE_SPEED]
  }
}
