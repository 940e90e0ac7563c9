/**
 * What a running world has to say of itself while it is made: watches that have told nothing, masks that nobody is on, bodies that have left,
 * pairs that were passed at speed. Cold; found when it is asked for.
 */

import type { BodyHandle, ColliderHandle, Kinds } from '../state/handle.ts'
import type { Crossing } from '../step/crossings.ts'
import type { Side } from '../watch/sides.ts'
import { CHECKS, type Explanation } from './explain.ts'
import { SOLID } from './filter.ts'

/** Ticks after which a watch is expected to have told something. */
const PATIENCE = 60
/** Bodies of either side of a watch that are tried for a reason. */
const TRIED = 12
/** Metres beyond what stands, besides its own extent, after which a body has left. */
const BEYOND = 100

/** Metres that a way leads through another body, from which on it went through. */
const WITHIN = 0.01
/** Refusals that say only that it has not happened yet. */
const NOT_YET: readonly (string | null)[] = ['bounds', 'shapes']

/** Something that is worth a look. */
export interface Advice {
  /** What kind of mistake it is likely to be. */
  readonly code: 'silent-watch' | 'empty-mask' | 'left' | 'passed'
  /** What was found, in a sentence. */
  readonly text: string
  /** What to change. */
  readonly cure: string
}

type AnyBody = BodyHandle<Kinds, unknown>
type AnyCollider = ColliderHandle<Kinds, AnyBody>

/** A watch, as far as advice looks at it. */
interface AdvisedWatch {
  readonly first: Side
  readonly second: Side
  readonly hasTold: boolean
  readonly over: boolean
  readonly observer: boolean
}

/** What advice is made from. */
export interface Advised {
  readonly tick: number
  /** Seconds a tick. */
  readonly dt: number
  readonly unit: number
  readonly bodies: readonly AnyBody[]
  readonly watches: Iterable<AdvisedWatch>
  /** The names of layers that queries asked for while nobody was on them. */
  readonly emptyMasks: ReadonlySet<string>
  /** The pairs that met and parted within one tick, by the ages of their colliders. */
  readonly crossings: Iterable<Crossing & { readonly a: number; readonly b: number }>
  matches(side: Side, collider: number): boolean
  explain(a: AnyBody, b: AnyBody): Explanation
}

/** All there is to say now. */
export function advise(world: Advised): Advice[] {
  return [...silentWatches(world), ...emptyMasks(world), ...leavers(world), ...passes(world)]
}

function* silentWatches({ tick, bodies, watches, matches, explain }: Advised): Generator<Advice> {
  if (tick < PATIENCE) return
  for (const watch of watches) {
    if (watch.hasTold || watch.over || watch.observer) continue
    const told = `${String(watch)} has told nothing in ${tick} ticks`
    const [first, second] = [watch.first, watch.second].map((side) =>
      bodies.filter((body) => (body.colliders as readonly AnyCollider[]).some((each) => matches(side, each.slot))),
    )
    const nobody = first.length === 0 ? watch.first : second.length === 0 ? watch.second : null
    if (nobody !== null) {
      const cure = `put a collider there, or watch something else`
      yield { code: 'silent-watch', text: `${told}: nobody is on its side '${nobody.text}'`, cure }
      continue
    }
    let best: Explanation | null = null
    for (const one of first.slice(0, TRIED)) {
      for (const other of second.slice(0, TRIED)) {
        if (one === other) continue
        const found = explain(one, other)
        if (best === null || rankOf(found) > rankOf(best)) best = found
      }
    }
    if (best === null || isNotYet(best)) continue
    const text = `${told}: ${best.a} and ${best.b}, which come nearest to it: ${best.summary()}`
    yield { code: 'silent-watch', text, cure: best.cures[0] ?? 'bring them nearer to each other' }
  }
}

/** Whether two are only apart, and nothing else keeps them from meeting. */
function isNotYet({ refusedBy, checks }: Explanation): boolean {
  const passed = checks.some(({ check, cure }) => cure !== null && (check === 'crossed' || check === 'teleport'))
  return NOT_YET.includes(refusedBy) && !passed
}

function rankOf({ refusedBy }: Explanation): number {
  return refusedBy === null ? CHECKS.length : CHECKS.indexOf(refusedBy)
}

function* emptyMasks(world: Advised): Generator<Advice> {
  for (const names of world.emptyMasks) {
    const text = `a query asked for what is on ${names}, and nobody was on it`
    yield { code: 'empty-mask', text, cure: 'put a collider there, or ask for other layers' }
  }
}

type Box = readonly [number[], number[]]

/** Dynamic bodies that are far from whatever stands, and go on. */
function* leavers({ bodies, unit }: Advised): Generator<Advice> {
  const box = boxOf(bodies.filter(({ type }) => type !== 'dynamic'))
  if (box === null) return
  const [min, max] = box
  const extent = Math.hypot(...min.map((low, axis) => max[axis] - low))
  for (const body of bodies) {
    if (body.type !== 'dynamic') continue
    const { at, velocity } = body as unknown as { at: object; velocity: object }
    const place = Object.values(at) as number[]
    const speeds = Object.values(velocity) as number[]
    const out = place.map((value, axis) => Math.max(min[axis] - value, 0) - Math.max(value - max[axis], 0))
    const far = Math.hypot(...out)
    const goesOn = out.reduce((sum, part, axis) => sum - part * speeds[axis], 0) > 0
    if (far < extent + BEYOND * unit || !goesOn) continue
    const text = `${body} has left: it is ${Number((far / unit).toPrecision(3))} m from whatever stands, and goes on`
    yield {
      code: 'left',
      text,
      cure: 'put a floor or a wall there, or remove what comes out: watch a zone around the scene',
    }
  }
}

/** The bounds of bodies, as if each lay at its place with all its turns; null for none. */
function boxOf(bodies: readonly AnyBody[]): Box | null {
  let box: Box | null = null
  for (const body of bodies) {
    const { at } = body as unknown as { at: object }
    const place = Object.values(at) as number[]
    for (const { shape, at: own } of body.colliders as unknown as {
      shape: { bounds: { min: object; max: object } }
      at: object
    }[]) {
      const corners = [...Object.values(shape.bounds.min), ...Object.values(shape.bounds.max)] as number[]
      const reach = Math.hypot(...corners) + Math.hypot(...(Object.values(own) as number[]))
      if (!Number.isFinite(reach)) continue
      box ??= [place.map(() => Infinity), place.map(() => -Infinity)]
      for (const [axis, value] of place.entries()) {
        box[0][axis] = Math.min(box[0][axis], value - reach)
        box[1][axis] = Math.max(box[1][axis], value + reach)
      }
    }
  }
  return box
}

function* passes({ bodies, crossings, explain, dt, unit }: Advised): Generator<Advice> {
  const owners = new Map<number, AnyBody>()
  for (const body of bodies) for (const each of body.colliders as readonly AnyCollider[]) owners.set(each.serial, body)
  const told = new Set<string>()
  for (const { a, b, tick, closing, response, pressed, entry, exit } of crossings) {
    const [one, other] = [owners.get(a), owners.get(b)]
    if (response !== SOLID || pressed || one === undefined || other === undefined) continue
    // What bounces or stops is within the other for no time.
    if ((exit - entry) * dt * closing < WITHIN * unit) continue
    const key = `${one.serial} ${other.serial}`
    if (told.has(key)) continue
    told.add(key)
    const text = `${one} and ${other}, solid to each other, met and parted within tick ${tick}, at ${Number(closing.toPrecision(3))} a second`
    yield {
      code: 'passed',
      text,
      cure: explain(one, other).cures[0] ?? 'follow its way: sweep, travel() or a shape cast',
    }
  }
}
