/** What explanations say of joints: anchors that are off their bodies, and joints that cannot all hold. Cold; allocates freely. */
import type { JointType } from './book.ts'
import type { Limits } from './spec.ts'

/** Metres by which a joint that holds may be off. */
const TORN = 0.05
/** Types that hold both bodies at one point, so that the other body may be the one that it is on. */
const ONE_POINT: readonly JointType[] = ['hinge', 'ball', 'fixed', 'slide', 'axle']

/** How far a point is off the shapes of a body, by their bounds, and how large these are; null for a body without any. */
export type OffBody = (
  body: number,
  point: readonly number[],
) => { readonly off: number; readonly extent: number } | null

/** Something that is wrong with a joint, and what to change. */
export interface Strain {
  readonly detail: string
  readonly cure: string | null
}

/** What an explanation tells of the joints of two bodies. */
export interface DescribedJoints {
  /** Those between the two, each in a few words. */
  readonly names: readonly string[]
  /** A body that both are joined to; -1 for none. */
  readonly shared: number
  readonly strains: readonly Strain[]
}

/** A joint, as far as its strains are told. */
interface Strained {
  readonly type: JointType
  readonly enabled: boolean
  readonly a: unknown
  readonly b: unknown
  readonly frequency: number
  readonly force: number
  readonly limits: Limits | null
  readonly anchors: { readonly a: object; readonly b: object; readonly axis: object }
}

/** @param near the joints of either body, with those between them */
export function strainsOf(
  joints: readonly object[],
  near: readonly object[],
  unit: number,
  offBody: OffBody,
): Strain[] {
  const strains: Strain[] = []
  for (const joint of joints as readonly Strained[]) {
    const name = `the ${joint.type} '${joint}'`
    const anchors = [joint.anchors.a, joint.anchors.b].map(Object.values)
    const bodies = [joint.a, joint.b] as { slot: number }[]
    const offs = bodies.map((body, side) => {
      const found = offBody(body.slot, anchors[side])
      return found !== null && found.off > Math.max(found.extent, TORN * unit) ? found.off : 0
    })
    const single = ONE_POINT.includes(joint.type)
    if (single ? offs.every((off) => off > 0) : offs.some((off) => off > 0)) {
      const which = offs[0] > 0 ? 0 : 1
      const detail = `${name} holds ${bodies[which]} ${digits(offs[which])} m away from its shapes`
      const field = single ? 'at' : which === 0 ? 'atA' : 'atB'
      strains.push({ detail, cure: `give '${field}' as a point of the world, on the body, not as one of the body` })
    }
    const torn = tear(joint)
    if (torn <= TORN * unit) continue
    const others = (near as readonly Strained[]).filter((other) => other !== joint && other.force > 0)
    const detail = `${name} is torn by ${digits(torn)} m`
    if (others.length === 0) strains.push({ detail, cure: null })
    else {
      const against = others.map((other) => `the ${other.type} '${other}' bears ${digits(other.force)} N`).join(', ')
      const cure = 'join at points where all of them fit, give one of them limits, or remove one'
      strains.push({ detail: `${detail}, ${against}: they pull against each other`, cure })
    }
  }
  return strains
}

/** Lengths by which a rigid joint is off what it holds; 0 for a soft one. */
function tear(joint: Strained): number {
  const { type, enabled, anchors } = joint
  if (!enabled || type === 'spring' || type === 'carry' || (type === 'fixed' && joint.frequency > 0)) return 0
  const [a, b, axis] = [anchors.a, anchors.b, anchors.axis].map((each) => Object.values(each) as number[])
  const way = b.map((part, i) => part - a[i])
  const square = way.reduce((sum, part) => sum + part * part, 0)
  if (type === 'distance') {
    const length = Math.sqrt(square)
    const { limits } = joint
    return Math.max(0, (limits?.min ?? 0) - length, length - (limits?.max ?? Infinity))
  }
  const along = type === 'slide' || type === 'axle' ? way.reduce((sum, part, i) => sum + part * axis[i], 0) : 0
  return Math.sqrt(Math.max(0, square - along * along))
}

function digits(value: number): number {
  return Number(value.toPrecision(3))
}
