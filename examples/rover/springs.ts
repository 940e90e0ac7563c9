/** A hull on ray springs: four legs feel for the ground, carry the hull, drive it and keep it from slipping aside. */
import { type Body3, type Kinds, rotated, type Vec3, type World3 } from 'keen-sentry/3d'

/** Where the legs are on the hull, front legs first, and how long they are with nothing on them. */
const MOUNTS: readonly Vec3[] = [-1.1, 1.1].flatMap((z) => [-0.95, 0.95].map((x) => ({ x, y: -0.1, z })))
const LENGTH = 0.9
/** Newtons at a metre a second aside, for each leg. */
const GRIP = 90
/** Metres a second, beyond which the motor gives no more. */
const FASTEST = 9

export interface Drive {
  /** Newtons a metre, of each leg. */
  readonly stiffness: number
  /** Newtons at a metre a second, of each leg. */
  readonly damping: number
  /** Newtons of each leg's motor, forwards. */
  readonly throttle: number
  /** Radians by which the front legs look to the left. */
  readonly steering: number
}

/** What a leg does in a tick. */
export interface Leg {
  readonly from: Vec3
  /** Its foot: on the ground, or where it hangs. */
  readonly foot: Vec3
  /** Newtons along the leg; 0 where it hangs. */
  readonly push: number
}

const dot = (a: Vec3, b: Vec3): number => a.x * b.x + a.y * b.y + a.z * b.z
/** The sum of vectors, each so many times. */
const mix = (...parts: [number, Vec3][]): Vec3 =>
  parts.reduce((sum, [by, v]) => ({ x: sum.x + by * v.x, y: sum.y + by * v.y, z: sum.z + by * v.z }), {
    x: 0,
    y: 0,
    z: 0,
  })

/** Before each step: pushes the hull by its legs. */
export function ride<K extends Kinds>(world: World3<K>, hull: Body3<K>, drive: Drive): Leg[] {
  const { at, rotation } = hull
  const down = rotated(rotation, { x: 0, y: -1, z: 0 })
  return MOUNTS.map((mount) => {
    const from = mix([1, at], [1, rotated(rotation, mount)])
    const hit = world.raycast.first({ from, direction: down, reach: LENGTH }, { except: hull })
    if (hit === null) return { from, foot: mix([1, from], [LENGTH, down]), push: 0 }
    const velocity = hull.velocityAt(from)
    const push = Math.max(0, drive.stiffness * (LENGTH - hit.distance) + drive.damping * dot(velocity, down))
    const angle = mount.z < 0 ? drive.steering : 0
    const ahead = along(rotated(rotation, { x: -Math.sin(angle), y: 0, z: -Math.cos(angle) }), hit.normal)
    const aside = along(rotated(rotation, { x: Math.cos(angle), y: 0, z: -Math.sin(angle) }), hit.normal)
    const speed = dot(velocity, ahead)
    const motor =
      drive.throttle * speed > 0 ? drive.throttle * Math.max(0, 1 - Math.abs(speed) / FASTEST) : drive.throttle
    const slip = -GRIP * dot(velocity, aside)
    hull.applyForce(mix([-push, down], [motor - 6 * speed, ahead], [slip, aside]), from)
    return { from, foot: hit.point, push }
  })
}

/** A direction without its part out of the ground. */
function along(direction: Vec3, normal: Vec3): Vec3 {
  return mix([1, direction], [-dot(direction, normal), normal])
}
