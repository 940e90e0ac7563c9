/** From where a scene of 3D is seen, and where its points are on a picture then. */
import type { Vec3 } from '../3d/index.ts'

/** From where and how a picture of 3D is seen. */
export interface Camera {
  /** Where the camera is. */
  readonly eye: Vec3
  /** What is in the middle of the picture. */
  readonly target: Vec3
  /** Radians from the lower edge to the upper; 0 is a parallel view. */
  readonly angle: number
  /** Of a parallel view: metres from the lower edge to the upper. */
  readonly height?: number | undefined
}

/** Parallel views along an axis or from a corner, and the perspective from there. */
export const VIEWS = ['perspective', 'corner', 'top', 'front', 'back', 'left', 'right'] as const
/** A view that goes by a name. */
export type NamedView = (typeof VIEWS)[number]

const DIRECTIONS: Readonly<Record<NamedView, Vec3>> = {
  perspective: { x: 0.55, y: 0.5, z: 0.9 },
  corner: { x: 1, y: 0.8, z: 1 },
  top: { x: 0, y: 1, z: 0 },
  front: { x: 0, y: 0, z: 1 },
  back: { x: 0, y: 0, z: -1 },
  left: { x: -1, y: 0, z: 0 },
  right: { x: 1, y: 0, z: 0 },
}

/** Radians of the perspective view. */
export const ANGLE = 0.8

/**
 * A camera that has a box in view. From the top, -z is up.
 * @param aspect width of the picture over its height
 */
export function cameraFor(view: NamedView, min: Vec3, max: Vec3, aspect: number): Camera {
  const target = { x: (min.x + max.x) / 2, y: (min.y + max.y) / 2, z: (min.z + max.z) / 2 }
  const away = unit(DIRECTIONS[view])
  const { right, up, forward } = axesOf(away)
  // How far the corners reach across and along the view.
  let half = 1e-6
  let distance = 0
  const angle = view === 'perspective' ? ANGLE : 0
  const slope = Math.tan(angle / 2)
  for (let i = 0; i < 8; i++) {
    const d = {
      x: ((i & 1) === 0 ? min.x : max.x) - target.x,
      y: ((i & 2) === 0 ? min.y : max.y) - target.y,
      z: ((i & 4) === 0 ? min.z : max.z) - target.z,
    }
    const across = Math.max(Math.abs(dot(d, right)) / aspect, Math.abs(dot(d, up)))
    half = Math.max(half, across)
    distance = Math.max(distance, angle === 0 ? -dot(d, forward) : across / slope - dot(d, forward))
  }
  // A parallel view is the same from any distance: outside of all.
  const back = angle === 0 ? distance + half : distance
  return {
    eye: { x: target.x + away.x * back, y: target.y + away.y * back, z: target.z + away.z * back },
    target,
    angle,
    height: 2 * half,
  }
}

/** Looking against `away`: to the right, up, and ahead. */
function axesOf(away: Vec3): { right: Vec3; up: Vec3; forward: Vec3 } {
  const forward = { x: -away.x, y: -away.y, z: -away.z }
  const upright = Math.abs(away.y) > 0.9999 ? { x: 0, y: 0, z: -1 } : { x: 0, y: 1, z: 0 }
  const right = unit(cross(forward, upright))
  return { right, up: cross(right, forward), forward }
}

/** Puts points of 3D on a picture of so many pixels, y up. */
export class Projection {
  readonly camera: Camera
  readonly width: number
  readonly height: number
  readonly parallel: boolean
  /** Nearest that is drawn, in metres ahead of the eye. */
  readonly near: number
  readonly right: Vec3
  readonly up: Vec3
  readonly forward: Vec3
  /** Pixels to a metre, at one metre ahead where it is a perspective. */
  readonly scale: number

  constructor(camera: Camera, width: number, height: number) {
    this.camera = camera
    this.width = width
    this.height = height
    this.parallel = camera.angle === 0
    const { eye, target } = camera
    const away = unit({ x: eye.x - target.x, y: eye.y - target.y, z: eye.z - target.z })
    const { right, up, forward } = axesOf(away)
    this.right = right
    this.up = up
    this.forward = forward
    this.scale = this.parallel ? height / (camera.height ?? 1) : height / 2 / Math.tan(camera.angle / 2)
    const distance = Math.hypot(eye.x - target.x, eye.y - target.y, eye.z - target.z)
    this.near = this.parallel ? -Infinity : 0.01 * distance
  }

  /** Writes how far right, up and ahead of the eye each point is, three numbers each. */
  toView(points: Float64Array): Float64Array {
    const { right, up, forward } = this
    const { eye } = this.camera
    const out = new Float64Array(points.length)
    for (let i = 0; i < points.length; i += 3) {
      const d = { x: points[i] - eye.x, y: points[i + 1] - eye.y, z: points[i + 2] - eye.z }
      out[i] = dot(right, d)
      out[i + 1] = dot(up, d)
      out[i + 2] = dot(forward, d)
    }
    return out
  }

  /**
   * Writes the pixels of a point that is given as right, up, ahead, and how near it is: a number that runs straight over
   * the picture along a straight line.
   */
  toScreen(view: ArrayLike<number>, from: number, out: Float64Array, at: number): void {
    const ahead = view[from + 2]
    const scale = this.parallel ? this.scale : this.scale / ahead
    out[at] = this.width / 2 + view[from] * scale
    out[at + 1] = this.height / 2 + view[from + 1] * scale
    out[at + 2] = this.parallel ? -ahead : 1 / ahead
  }

  /** How far ahead something is that is so near. */
  ahead(nearness: number): number {
    return this.parallel ? -nearness : 1 / nearness
  }
}

function dot(a: Vec3, b: Vec3): number {
  return a.x * b.x + a.y * b.y + a.z * b.z
}

function cross(a: Vec3, b: Vec3): Vec3 {
  return { x: a.y * b.z - a.z * b.y, y: a.z * b.x - a.x * b.z, z: a.x * b.y - a.y * b.x }
}

function unit(v: Vec3): Vec3 {
  const length = Math.hypot(v.x, v.y, v.z)
  return length === 0 ? { x: 0, y: 0, z: 1 } : { x: v.x / length, y: v.y / length, z: v.z / length }
}
