/** Places in 3D, as pictures need them. */
import { type Rotation, rotated, type Vec3 } from '../3d/index.ts'

/** A place and the three axes of a rotation: x, y, z, then the axes one after the other. */
export type Frame = Float64Array

/** The frame of a pose. */
export function frameOf(at: Vec3, rotation?: Rotation): Frame {
  const axes =
    rotation === undefined
      ? [1, 0, 0, 0, 1, 0, 0, 0, 1]
      : [
          { x: 1, y: 0, z: 0 },
          { x: 0, y: 1, z: 0 },
          { x: 0, y: 0, z: 1 },
        ].flatMap((axis) => {
          const { x, y, z } = rotated(rotation, axis)
          return [x, y, z]
        })
  return Float64Array.of(at.x, at.y, at.z, ...axes)
}

/** First the second frame, then the first. */
export function within(outer: Frame, inner: Frame): Frame {
  const axes = placed(inner.subarray(3), Float64Array.of(0, 0, 0, ...outer.subarray(3)))
  return Float64Array.of(...placed(inner.subarray(0, 3), outer), ...axes)
}

/** Points, three numbers each, put into a frame. */
export function placed(points: Float64Array, f: Frame): Float64Array {
  const out = new Float64Array(points.length)
  for (let i = 0; i < points.length; i += 3) {
    const x = points[i]
    const y = points[i + 1]
    const z = points[i + 2]
    out[i] = f[0] + f[3] * x + f[6] * y + f[9] * z
    out[i + 1] = f[1] + f[4] * x + f[7] * y + f[10] * z
    out[i + 2] = f[2] + f[5] * x + f[8] * y + f[11] * z
  }
  return out
}

/** One point put into a frame. */
export function placedPoint({ x, y, z }: Vec3, f: Frame): Vec3 {
  return {
    x: f[0] + f[3] * x + f[6] * y + f[9] * z,
    y: f[1] + f[4] * x + f[7] * y + f[10] * z,
    z: f[2] + f[5] * x + f[8] * y + f[11] * z,
  }
}
