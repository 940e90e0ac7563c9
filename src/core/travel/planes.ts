/**
 * Where a motion may go from a place at which it is held by several planes: along one, along the crease of two, or nowhere. Ground bears
 * what walks: the motion is lifted onto it, so that its level part stays whole.
 */
const MOST = 12
/** Part of a motion that may lead into a plane by rounding. */
const ROUNDING = 1e-12

export class Planes {
  count = 0
  private readonly axes: number
  private readonly normals: Float64Array
  /** 1 for ground. */
  private readonly bears = new Int32Array(MOST)
  private readonly trial: Float64Array
  private readonly crease: Float64Array
  private readonly level: Float64Array

  constructor(axes: number) {
    this.axes = axes
    this.normals = new Float64Array(MOST * axes)
    this.trial = new Float64Array(axes)
    this.crease = new Float64Array(axes)
    this.level = new Float64Array(axes)
  }

  clear(): void {
    this.count = 0
  }

  /** One more plane, by its unit normal. Too many leave no way. */
  add(normal: Float64Array, bears: boolean): void {
    const { axes, normals } = this
    const at = this.count < MOST ? this.count++ : MOST - 1
    for (let k = 0; k < axes; k++) normals[axes * at + k] = normal[k]
    this.bears[at] = bears ? 1 : 0
  }

  /** Writes the longest motion that no plane holds, of those that a wished one leads to. */
  solve(wish: Float64Array, up: Float64Array, out: Float64Array): void {
    const { axes, trial, count } = this
    out.fill(0, 0, axes)
    const size = square(wish, axes)
    const slack = ROUNDING * Math.sqrt(size)
    let best = 0
    for (let i = 0; i < count; i++) {
      this.alongPlane(i, wish, up)
      const far = square(trial, axes)
      if (!(far > best) || !this.isFree(slack)) continue
      best = far
      for (let k = 0; k < axes; k++) out[k] = trial[k]
    }
    if (best > 0 || axes === 2) return
    for (let i = 0; i < count; i++) {
      for (let j = 0; j < i; j++) {
        if (!this.alongCrease(i, j, wish, up)) continue
        const far = square(trial, axes)
        if (!(far > best) || !this.isFree(slack)) continue
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
