/** The stages of the ledger's model: the worlds, random places and shapes of each dimension, and gaps found by another way. */
import * as two from '../../src/2d/index.ts'
import * as three from '../../src/3d/index.ts'
import { gapOf, placed, type Round } from '../oracle/round.ts'
import { type Modelled, NAMES, PAIRS, type Stage } from './ledger-model.ts'
import type { Random } from './random.ts'

type Body2 = two.Body2<Modelled>
type Collider2 = two.Collider2<Modelled>
type Body3 = three.Body3<Modelled>
type Collider3 = three.Collider3<Modelled>

const BODY_TYPES = ['static', 'kinematic', 'dynamic'] as const
const layers = two.defineLayers(NAMES, { pairs: PAIRS })

const FAR = [0, 0, 50, 20_000] as const

/** Metres within which a gap can go either way by rounding. */
function doubtAt(far: number): number {
  return 1e-9 + 1e-12 * far
}

export class Stage2 implements Stage<Body2, Collider2, { x: number; y: number }> {
  readonly world = two.createWorld({ layers, tags: ['lamp'], gravity: { x: 0, y: -2 } })
  readonly random: Random
  readonly dynamic: boolean
  readonly own: number
  /** How far from the origin all this is. */
  readonly far: number
  readonly doubt: number

  constructor(random: Random, dynamic: boolean) {
    this.random = random
    this.far = random.pick(FAR)
    this.doubt = doubtAt(this.far)
    this.dynamic = dynamic
    this.own = dynamic ? 4 : 0
  }

  add(): Body2 {
    const { random } = this
    const body = this.world.add({
      type: random.chance(0.35) ? 'static' : this.dynamic && random.chance(0.7) ? 'dynamic' : 'kinematic',
      at: this.place(),
      angle: random.between(-3, 3),
    })
    const count = 1 + random.below(3)
    for (let i = 0; i < count; i++) this.attach(body)
    if (body.type === 'kinematic') body.velocity = { x: random.between(-6, 6), y: random.between(-6, 6) }
    return body
  }

  attach(body: Body2): void {
    const { random } = this
    body.attach({
      shape: this.shape(body),
      layer: random.pick(NAMES),
      at: { x: random.between(-0.5, 0.5), y: random.between(-0.5, 0.5) },
      angle: random.between(-3, 3),
      tags: random.chance(0.3) ? ['lamp'] : [],
      sensor: random.chance(0.15),
    })
  }

  teleport(body: Body2): void {
    body.teleport({ at: this.place(), angle: this.random.between(-3, 3) })
  }

  move(body: Body2): void {
    const { random } = this
    if (random.chance(0.5)) body.velocity = { x: random.between(-20, 20), y: random.between(-20, 20) }
    else body.arriveAt({ at: this.place(), angle: body.angle + random.between(-1, 1) })
    body.spin = random.between(-3, 3)
  }

  reshape(collider: Collider2): void {
    collider.shape = this.shape(collider.body)
  }

  operate(body: Body2, which: number): void {
    const { random } = this
    if (which === 0) {
      if (!hasPlane(body)) body.type = random.pick(BODY_TYPES)
    } else if (which === 3) this.join(body)
    else if (body.type !== 'dynamic') return
    else if (which === 1) {
      body.applyImpulse({ x: random.between(-50, 50), y: random.between(-50, 50) }, this.near(body))
    } else if (random.chance(0.5)) body.mass = random.chance(0.5) ? null : random.between(0.1, 9)
    else body.sweep = random.pick(['off', 'statics', 'all'])
  }

  /** Joins a body to another one or to the world, or ends or changes a joint that it has. */
  private join(body: Body2): void {
    const { random, world } = this
    const joints = body.joints()
    if (joints.length > 0 && random.chance(0.5)) {
      const joint = random.pick(joints)
      const what = random.below(4)
      if (what === 0) joint.remove()
      else if (what === 1) joint.touching = !joint.touching
      else if (what === 2) joint.enabled = !joint.enabled
      else joint.breaks = { force: random.between(1, 200) }
      return
    }
    const other = random.pick(world.bodies())
    const b = other === body || random.chance(0.2) ? null : other
    if (body.type === 'static' && (b === null || b.type === 'static')) return
    const base = { a: body, b, touching: random.chance(0.2), ...(random.chance(0.3) && { breaks: { force: 50 } }) }
    const at = body.at
    const what = random.below(4)
    if (what === 0) world.join({ ...base, type: 'hinge', at })
    else if (what === 1) world.join({ ...base, type: 'distance', atB: at, min: 0, max: random.between(0.5, 3) })
    else if (what === 2) world.join({ ...base, type: 'spring', atB: at, frequency: random.between(0.5, 5) })
    else world.join({ ...base, type: 'fixed', at })
  }

  gap(a: Collider2, b: Collider2): number {
    const [one, other] = a.shape.kind === 'halfspace' ? [b, a] : [a, b]
    if (other.shape.kind !== 'halfspace') return gapOf(round(one), round(other))
    const angle = other.body.angle + other.angle
    const { x, y } = other.shape.normal
    const normal = { x: Math.cos(angle) * x - Math.sin(angle) * y, y: Math.sin(angle) * x + Math.cos(angle) * y }
    const [origin] = round(other, [{ x: 0, y: 0 }]).points
    const { points, radius } = round(one)
    const heights = points.map((p) => (p.x - origin.x) * normal.x + (p.y - origin.y) * normal.y)
    return Math.min(...heights) - other.shape.offset - radius
  }

  length({ x, y }: { x: number; y: number }): number {
    return Math.hypot(x, y)
  }

  private near({ at }: Body2): { x: number; y: number } {
    const { random } = this
    return { x: at.x + random.between(-2, 2), y: at.y + random.between(-2, 2) }
  }

  private place(): { x: number; y: number } {
    return { x: this.far + this.random.between(-4, 4), y: this.random.between(-4, 4) - this.far / 2 }
  }

  private shape(body: Body2): two.Shape2 {
    const { random } = this
    if (body.type === 'static' && random.chance(0.2)) {
      return two.halfspace({ x: random.between(-1, 1), y: random.between(-1, 1) + 1.5 }, random.between(-4, -1))
    }
    const size = (): number => random.between(0.2, 1.6)
    switch (random.below(3)) {
      case 0:
        return two.circle(size())
      case 1:
        return two.box(size(), size())
      default:
        return two.capsule({ x: -size(), y: 0 }, { x: size(), y: 0.1 }, size() / 2)
    }
  }
}

function hasPlane({ colliders }: { readonly colliders: readonly { readonly shape: { kind: string } }[] }): boolean {
  return colliders.some(({ shape }) => shape.kind === 'halfspace')
}

/** A collider in the world, or points that are given within it. */
function round(collider: Collider2, within?: readonly { x: number; y: number }[]): Round {
  const { body } = collider
  const inner = placed(collider.shape, collider.at, collider.angle)
  const points = within?.map(() => collider.at) ?? inner.points
  return {
    radius: inner.radius,
    points: points.map((p) => ({
      x: body.at.x + Math.cos(body.angle) * p.x - Math.sin(body.angle) * p.y,
      y: body.at.y + Math.sin(body.angle) * p.x + Math.cos(body.angle) * p.y,
    })),
  }
}

export class Stage3 implements Stage<Body3, Collider3, { x: number; y: number; z: number }> {
  readonly world = three.createWorld({ layers, tags: ['lamp'], gravity: { x: 0, y: -2, z: 0 } })
  readonly random: Random
  readonly dynamic: boolean
  readonly own: number
  readonly far: number
  readonly doubt: number

  constructor(random: Random, dynamic: boolean) {
    this.random = random
    this.dynamic = dynamic
    this.own = dynamic ? 4 : 1
    this.far = random.pick(FAR)
    this.doubt = doubtAt(this.far)
  }

  add(): Body3 {
    const { random } = this
    const type = random.chance(0.35) ? 'static' : this.dynamic && random.chance(0.7) ? 'dynamic' : 'kinematic'
    const body = this.world.add({ type, at: this.place(), rotation: this.rotation() })
    const count = 1 + random.below(3)
    for (let i = 0; i < count; i++) this.attach(body)
    if (body.type === 'kinematic') body.velocity = this.vector(6)
    return body
  }

  attach(body: Body3): void {
    const { random } = this
    body.attach({
      shape: this.shape(body),
      layer: random.pick(NAMES),
      at: this.vector(0.5),
      rotation: this.rotation(),
      tags: random.chance(0.3) ? ['lamp'] : [],
      sensor: random.chance(0.15),
    })
  }

  teleport(body: Body3): void {
    body.teleport({ at: this.place(), rotation: this.rotation() })
  }

  move(body: Body3): void {
    if (this.random.chance(0.5)) body.velocity = this.vector(20)
    else body.arriveAt({ at: this.place(), rotation: this.rotation() })
    body.spin = this.vector(2)
  }

  reshape(collider: Collider3): void {
    collider.shape = this.shape(collider.body)
  }

  operate(body: Body3, which: number): void {
    const { random } = this
    if (which === 0) {
      if (!hasPlane(body)) body.type = random.pick(this.dynamic ? BODY_TYPES : ['static', 'kinematic'])
    } else if (which === 3) this.join(body)
    else if (body.type !== 'dynamic') return
    else if (which === 1) {
      const { at } = body
      const off = this.vector(2)
      body.applyImpulse(this.vector(50), { x: at.x + off.x, y: at.y + off.y, z: at.z + off.z })
    } else if (random.chance(0.5)) body.mass = random.chance(0.5) ? null : random.between(0.1, 9)
    else body.sweep = random.pick(['off', 'statics', 'all'])
  }

  /** Joins a body to another one or to the world, or ends or changes a joint that it has. */
  private join(body: Body3): void {
    const { random, world } = this
    const joints = body.joints()
    if (joints.length > 0 && random.chance(0.5)) {
      const joint = random.pick(joints)
      const what = random.below(4)
      if (what === 0) joint.remove()
      else if (what === 1) joint.touching = !joint.touching
      else if (what === 2) joint.enabled = !joint.enabled
      else joint.breaks = { force: random.between(1, 200) }
      return
    }
    const other = random.pick(world.bodies())
    const b = other === body || random.chance(0.2) ? null : other
    if (body.type === 'static' && (b === null || b.type === 'static')) return
    const base = { a: body, b, touching: random.chance(0.2), ...(random.chance(0.3) && { breaks: { force: 50 } }) }
    const at = body.at
    const what = random.below(4)
    if (what === 0) world.join({ ...base, type: 'hinge', at, axis: this.vector(1) })
    else if (what === 1) world.join({ ...base, type: 'distance', atB: at, min: 0, max: random.between(0.5, 3) })
    else if (what === 2) world.join({ ...base, type: 'spring', atB: at, frequency: random.between(0.5, 5) })
    else world.join({ ...base, type: 'fixed', at })
  }

  /** By the plain function, which is proved against every direction on its own. */
  gap(a: Collider3, b: Collider3): number {
    return three.distance(a.shape, poseOf(a), b.shape, poseOf(b)).distance
  }

  length({ x, y, z }: { x: number; y: number; z: number }): number {
    return Math.hypot(x, y, z)
  }

  private vector(reach: number): three.Vec3 {
    const { random } = this
    return { x: random.between(-reach, reach), y: random.between(-reach, reach), z: random.between(-reach, reach) }
  }

  /** Flatter than it is wide, so that as much meets as in the two. */
  private place(): three.Vec3 {
    const { random } = this
    const { far } = this
    return {
      x: far + random.between(-3.5, 3.5),
      y: random.between(-3.5, 3.5) - far / 2,
      z: far + random.between(-1, 1),
    }
  }

  private rotation(): three.Rotation {
    const axis = this.vector(1)
    return three.rotationAbout({ ...axis, z: axis.z + 1.5 }, this.random.between(-3, 3))
  }

  private shape(body: Body3): three.Shape3 {
    const { random } = this
    if (body.type === 'static' && random.chance(0.2)) {
      return three.halfspace({ ...this.vector(1), y: 1.5 }, random.between(-4, -1))
    }
    const size = (): number => random.between(0.3, 1.8)
    switch (random.below(4)) {
      case 0:
        return three.sphere(size())
      case 1:
        return three.box(size(), size(), size())
      case 2:
        return three.hull([
          { x: size(), y: 0, z: 0 },
          { x: -size(), y: 0, z: 0.2 },
          { x: 0, y: size(), z: -0.1 },
          { x: 0.1, y: -size(), z: 0 },
          { x: 0, y: 0, z: size() },
        ])
      default:
        return three.capsule({ x: -size(), y: 0, z: 0 }, { x: size(), y: 0.1, z: 0.2 }, size() / 2)
    }
  }
}

function poseOf({ body, at, rotation }: Collider3): three.Pose3 {
  const own = three.rotated(body.rotation, at)
  const a = body.rotation
  const b = rotation
  return {
    at: { x: body.at.x + own.x, y: body.at.y + own.y, z: body.at.z + own.z },
    rotation: {
      x: a.w * b.x + a.x * b.w + a.y * b.z - a.z * b.y,
      y: a.w * b.y - a.x * b.z + a.y * b.w + a.z * b.x,
      z: a.w * b.z + a.x * b.y - a.y * b.x + a.z * b.w,
      w: a.w * b.w - a.x * b.x - a.y * b.y - a.z * b.z,
    },
  }
}
