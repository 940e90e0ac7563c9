/**
 * Where a motion may go from a place at which it is held by several planes: along one, along the crease of two, or nowhere; never back, against
 * the way that was asked for. Ground bears what walks: the motion is lifted onto it, so that its level part stays whole.
 */
const MOST = 12
/** Planes of the place before that are kept. */
const MOST_OLD = 2
/** Part of a motion that may lead into a plane by rounding. */
const ROUNDING = 1e-12

export class Planes {
  /** Those that hold here, and, behind them, those along which it came. */
  count = 0
  private old = 0
  private readonly axes: number
  private readonly normals: Float64Array
  /** 1 for ground. */
  private readonly bears = new Int32Array(MOST + MOST_OLD)
  private readonly trial: Float64Array
  private readonly crease: Float64Array
  private readonly level: Float64Array

  constructor(axes: number) {
    this.axes = axes
    this.normals = new Float64Array((MOST + MOST_OLD) * axes)
    this.trial = new Float64Array(axes)
    this.crease = new Float64Array(axes)
    this.level = new Float64Array(axes)
  }

  clear(): void {
    this.count = 0
    this.old = 0
  }

  /** It has gone on, along these: they hold no more, but may make a crease with what comes. */
  leave(): void {
    if (this.count === 0) return
    this.old = Math.min(this.count, MOST_OLD)
    for (let i = 0; i < this.old; i++) this.copy(this.count - 1 - i, MOST + i)
    this.count = 0
  }

  private copy(from: number, to: number): void {
    const { axes, normals, bears } = this
    for (let k = 0; k < axes; k++) normals[axes * to + k] = normals[axes * from + k]
    bears[to] = bears[from]
  }

  /** One more plane, by its unit normal. Too many leave no way. */
  add(normal: Float64Array, bears: boolean): void {
    const { axes, normals } = this
    const at = this.count < MOST ? this.count++ : MOST - 1
    for (let k = 0; k < axes; k++) normals[axes * at + k] = normal[k]
    this.bears[at] = bears ? 1 : 0
  }

  /**
   * Writes the longest motion that no plane holds, of those that a wished one leads to.
   * @param by the whole way that was asked for
   */
  solve(wish: Float64Array, by: Float64Array, up: Float64Array, out: Float64Array): void {
    const { axes, trial, count } = this
    out.fill(0, 0, axes)
    const size = square(wish, axes)
    const slack = ROUNDING * Math.sqrt(size)
    let best = 0
    for (let i = 0; i < count; i++) {
      this.alongPlane(i, wish, up)
      const far = square(trial, axes)
      if (!(far > best) || !this.isFree(slack) || this.goesBack(by, up, this.bears[i] !== 0)) continue
      best = far
      for (let k = 0; k < axes; k++) out[k] = trial[k]
    }
    if (best > 0 || axes === 2) return
    for (let i = 0; i < count; i++) {
      for (let j = 0; j < i + this.old; j++) {
        const other = j < i ? j : MOST + j - i
        if (!this.alongCrease(i, other, wish, up)) continue
        const far = square(trial, axes)
        const bears = (this.bears[i] | this.bears[other]) !== 0
        if (!(far > best) || !this.isFree(slack) || this.goesBack(by, up, bears)) continue
        best = far
        for (let k = 0; k < axes; k++) out[k] = trial[k]
      }
    }
  }

  private isFree(slack: number): boolean {
    const { axes, trial, normals } = this
    for (let i = 0; i < this.count; i++) {
      let along = 0
      for (let k = 0; k < axes; k++) along += trial[k] * normals[axes * i + k]
      if (along < -slack) return false
    }
    return true
  }

  /** Whether a trial leads against the way that was asked for; on ground, its level part. */
  private goesBack(by: Float64Array, up: Float64Array, bears: boolean): boolean {
    const { axes, trial } = this
    let along = 0
    let rise = 0
    let rises = 0
    for (let k = 0; k < axes; k++) {
      along += trial[k] * by[k]
      rise += trial[k] * up[k]
      rises += by[k] * up[k]
    }
    if (bears) along -= rise * rises
    return along < -ROUNDING * Math.sqrt(square(trial, axes) * square(by, axes))
  }

  /** Along one plane: across its normal, or of ground lifted onto it. */
  private alongPlane(i: number, wish: Float64Array, up: Float64Array): void {
    const { axes, trial, normals, bears } = this
    let into = 0
    let rise = 0
    for (let k = 0; k < axes; k++) {
      into += wish[k] * normals[axes * i + k]
      rise += up[k] * normals[axes * i + k]
    }
    if (into > 0) into = 0
    const lifted = bears[i] !== 0
    for (let k = 0; k < axes; k++) {
      trial[k] = lifted ? wish[k] - (into / rise) * up[k] : wish[k] - into * normals[axes * i + k]
    }
    if (lifted) return
    // What is left along the normal is rounding.
    let left = 0
    for (let k = 0; k < axes; k++) left += trial[k] * normals[axes * i + k]
    if (into < 0) for (let k = 0; k < axes; k++) trial[k] -= left * normals[axes * i + k]
  }

  /** Along the crease of two planes of 3D; by its level part where one of them is ground. */
  private alongCrease(i: number, j: number, wish: Float64Array, up: Float64Array): boolean {
    const { trial, crease, normals, bears, level } = this
    const a = 3 * i
    const b = 3 * j
    crease[0] = normals[a + 1] * normals[b + 2] - normals[a + 2] * normals[b + 1]
    crease[1] = normals[a + 2] * normals[b] - normals[a] * normals[b + 2]
    crease[2] = normals[a] * normals[b + 1] - normals[a + 1] * normals[b]
    const whole = square(crease, 3)
    if (!(whole > 1e-18)) return false
    let along = 0
    let size = whole
    if ((bears[i] | bears[j]) !== 0) {
      const rise = crease[0] * up[0] + crease[1] * up[1] + crease[2] * up[2]
      for (let k = 0; k < 3; k++) level[k] = crease[k] - rise * up[k]
      size = square(level, 3)
      if (!(size > 1e-12 * whole)) return false
    } else for (let k = 0; k < 3; k++) level[k] = crease[k]
    for (let k = 0; k < 3; k++) along += wish[k] * level[k]
    for (let k = 0; k < 3; k++) trial[k] = (crease[k] * along) / size
    return true
  }
}

function square(v: Float64Array, axes: number): number {
  return v[0] * v[0] + v[1] * v[1] + (axes === 3 ? v[2] * v[2] : 0)
}
