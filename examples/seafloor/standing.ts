/** How a crawler stands on uneven ground: by probes under its six legs. */
import { type Rotation, rotated, rotationTowards, type Vec3 } from 'keen-sentry/3d'

/** Where the legs are about the body: x to the right, -z ahead. */
export const LEGS: readonly Vec3[] = [-1.5, 0, 1.5].flatMap((z) => [-1.1, 1.1].map((x) => ({ x, y: 0, z })))
/** Metres from the ground to the body's origin, and how far above and below the probes look. */
const CLEARANCE = 1.1
const LOOK = 6

export interface Standing {
  readonly at: Vec3
  readonly rotation: Rotation
  /** What the probes met, leg by leg. */
  readonly feet: readonly (Foot | null)[]
}

export interface Foot {
  readonly from: Vec3
  readonly point: Vec3
  readonly normal: Vec3
}

/** What a probe meets of the ground, as a ray of the world asks it. */
export type Probe = (from: Vec3, to: Vec3) => { readonly point: Vec3; readonly normal: Vec3 } | null

/**
 * The pose of a crawler at a place, facing a direction: as high as its feet say, and tilted with the plane through them.
 * Null when fewer than three legs find ground.
 * @param heading of the way it faces, in the plane of x and z
 */
export function standAt(
  probe: Probe,
  place: Vec3,
  heading: { readonly x: number; readonly z: number },
): Standing | null {
  const facing = rotationTowards({ x: heading.x, y: 0, z: heading.z })
  const feet = LEGS.map((leg): Foot | null => {
    const { x, z } = rotated(facing, leg)
    const from = { x: place.x + x, y: place.y + LOOK, z: place.z + z }
    const hit = probe(from, { ...from, y: place.y - LOOK })
    return hit && { from, point: hit.point, normal: hit.normal }
  })
  const found = feet.filter((foot) => foot !== null)
  if (found.length < 3) return null
  // The plane that lies least far from the feet: y = height + slopeX * x + slopeZ * z, about their middle.
  const middle = { x: mean(found, 'x'), y: mean(found, 'y'), z: mean(found, 'z') }
  let xx = 0
  let xz = 0
  let zz = 0
  let xy = 0
  let zy = 0
  for (const { point } of found) {
    const x = point.x - middle.x
    const y = point.y - middle.y
    const z = point.z - middle.z
    xx += x * x
    xz += x * z
    zz += z * z
    xy += x * y
    zy += z * y
  }
  const det = xx * zz - xz * xz
  const slopeX = det === 0 ? 0 : (xy * zz - zy * xz) / det
  const slopeZ = det === 0 ? 0 : (zy * xx - xy * xz) / det
  const up = { x: -slopeX, y: 1, z: -slopeZ }
  const ahead = { x: heading.x, y: slopeX * heading.x + slopeZ * heading.z, z: heading.z }
  const height = middle.y + slopeX * (place.x - middle.x) + slopeZ * (place.z - middle.z)
  return {
    at: { x: place.x, y: height + CLEARANCE, z: place.z },
    rotation: rotationTowards(ahead, up),
    feet,
  }
}

function mean(feet: readonly Foot[], axis: 'x' | 'y' | 'z'): number {
  return feet.reduce((sum, { point }) => sum + point[axis], 0) / feet.length
}
