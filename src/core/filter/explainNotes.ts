/**
 * What an explanation notes besides its checks, with cures: who passed through whom, what moves the two, teleports, falls through what only
 * senses. Cold; allocates freely.
 */

import type { BodyHandle, ColliderHandle, Kinds } from '../state/handle.ts'
import type { Crossing } from '../step/crossings.ts'
import type { Jumped, Passage } from '../step/kernel.ts'
import type { Check, Explainable, ExplainedCheck } from './explain.ts'
import { RESPONSE_NAMES, SOLID } from './filter.ts'

export type AnyBody = BodyHandle<Kinds, unknown>
export type AnyCollider = ColliderHandle<Kinds, AnyBody>

/** What is worth knowing besides: passes, what moves them, teleports, a world that has not stepped. */
export function notesOf<B extends object, C extends object, V extends object>(
  rooms: Explainable<B, C, V>,
  one: AnyCollider,
  other: AnyCollider,
  response: number,
  isApart: boolean,
): ExplainedCheck[] {
  const notes: ExplainedCheck[] = []
  const note = (check: Check, detail: string, cure: string | null): void => {
    notes.push({ check, verdict: 'note', detail, cure })
  }
  const pass = rooms.passed(one.serial, other.serial)
  const jump = rooms.jumped(one.slot, other.slot)
  if (pass !== null) note('crossed', passedDetail(pass, rooms.dt), passedCure(pass, one.body, other.body))
  if (response === SOLID) notes.push(...motionsOf(rooms, one.body, other.body, isApart))
  if (pass === null && jump === null && response === SOLID && isApart) {
    const came = rooms.came(one.slot, other.slot)
    const [mover, met] = came?.body === one.body ? [one.body, other.body] : [other.body, one.body]
    const cure = came === null ? null : wayCure(mover, met)
    if (came !== null && cure !== null) note('crossed', cameDetail(came, rooms.dt), cure)
  }
  if (jump !== null) {
    const past = jump.body === one.body ? other.body : one.body
    note('teleport', jumpDetail(jump, past), jumpCure(jump))
  }
  if (rooms.tick === 0) note('stepped', 'the world has not stepped: nothing is told yet', 'world.step()')
  return notes
}

/** What lets one press on the other that it has fallen through; null where none has. */
export function fallCure<B extends object, C extends object, V extends object>(
  rooms: Explainable<B, C, V>,
  one: AnyCollider,
  other: AnyCollider,
  sensors: readonly AnyCollider[],
): string | null {
  const { gravity } = rooms
  const fell = [
    [one, other],
    [other, one],
  ].some(([c, floor]) => c.body.type === 'dynamic' && gravity !== null && rooms.below(c.slot, floor.slot, gravity))
  if (!fell) return null
  if (sensors.length > 0) return sensors.map((each) => `${placeOf(each)}.sensor = false`).join(' and ')
  return `world.setPair('${layersOf(rooms, one)[0]}', '${layersOf(rooms, other)[0]}', 'solid')`
}

/** The world as code: a body by its name, or by its place in the list. */
export function codeOf(body: AnyBody): string {
  return body.name !== null && /^[\p{L}_$][\p{L}\d_$]*$/u.test(body.name) ? body.name : `(${body})`
}

/** A collider as code. */
function placeOf({ body, index }: AnyCollider): string {
  return `${codeOf(body)}.colliders[${index}]`
}

function layersOf<B extends object, C extends object, V extends object>(
  { population, layers }: Explainable<B, C, V>,
  { slot }: AnyCollider,
): readonly string[] {
  return layers.names(population.filter.activeLayers.data[slot] >>> 0)
}

/** What bodies of a solid pair add: what moves them, whether anything pushes the two apart, and what may keep them from moving. */
function motionsOf<B extends object, C extends object, V extends object>(
  { weight, gravity }: Explainable<B, C, V>,
  one: AnyBody,
  other: AnyBody,
  isApart: boolean,
): ExplainedCheck[] {
  const found: ExplainedCheck[] = []
  const note = (detail: string, cure: string | null): void => {
    found.push({ check: 'motion', verdict: 'note', detail, cure })
  }
  const pulls = gravity?.some((part) => part !== 0) === true
  const movable = [one, other].filter((body) => body.type === 'dynamic')
  for (const body of movable) {
    note(`${body} is dynamic, ${weight(body.slot)}`, null)
    const { gravityScale = 1 } = body as { gravityScale?: number }
    if (!pulls || !isApart) continue
    if (gravityScale === 0) note(`gravity does not pull ${body}`, `${codeOf(body)}.gravityScale = 1`)
    else if (gravityScale < 0)
      note(`${body} falls upwards, by its gravityScale`, `${codeOf(body)}.gravityScale = ${-gravityScale}`)
    else if (gravity![1] > 0) {
      const [x, y, z] = gravity!
      const vector = (up: number): string => `{ x: ${x}, y: ${up}${z === undefined ? '' : `, z: ${z}`} }`
      note(`gravity is ${vector(y)}, and y is up: ${body} falls upwards`, `world.gravity = ${vector(-y)}`)
    }
  }
  if (movable.length > 0) return found
  const types = `${one} is ${one.type}, ${other} is ${other.type}`
  const mover = one.type === 'static' ? other : one
  const cure = `${codeOf(mover)}.type = 'dynamic', or move it by travel(), which stops at what is solid`
  if (!isApart) note(`${types}: they touch and it is reported, but nothing pushes them apart`, cure)
  else note(`${types}: neither gravity nor contacts move a body that is not dynamic`, pulls ? cure : null)
  return found
}

/** When two met and parted within one tick. */
function passedDetail({ tick, entry, exit, closing, response }: Crossing, dt: number): string {
  const time = (part: number): string => `${Number(((tick - 1 + part) * dt).toPrecision(4))} s`
  const fast = closing > 0 ? `, at ${Number(closing.toPrecision(3))} m/s` : ''
  return `in tick ${tick} they met at ${time(entry)} and parted at ${time(exit)}${fast}, within one tick: a ${RESPONSE_NAMES[response]} pair`
}

/** Who went through what it is solid to, by how it moves now. */
function cameDetail({ body, ticks, speed }: Passage, dt: number): string {
  const far = length(speed * dt)
  const when = ticks === 1 ? 'the last tick' : `the last ${ticks} ticks`
  return `on the straight way that ${body} came within ${when}, at ${Number(speed.toPrecision(3))} m/s (${far} a tick), lies the other: it went through`
}

/** How a body is stopped that nothing stopped; null where something would have. */
function wayCure(mover: AnyBody, other: AnyBody): string | null {
  const { sweep } = mover as { sweep?: string }
  if (mover.type === 'kinematic') {
    return `${mover} is kinematic, and nothing stops what is led: ${codeOf(mover)}.travel(by) stops at what is solid, and a shape cast asks before`
  }
  if (sweep === 'off') return `${codeOf(mover)}.sweep = 'statics': then its way is followed, and what is solid stops it`
  if (other.type !== 'static' && sweep !== 'all') return `${codeOf(mover)}.sweep = 'all': then what moves stops it too`
  return null
}

function passedCure({ tick, response, pressed }: Crossing, one: AnyBody, other: AnyBody): string {
  const told = `they met and parted within tick ${tick}, faster than a tick can show: a watch reports it, begin and end`
  if (response !== SOLID || pressed) return told
  const dynamic = [one, other].find((body) => body.type === 'dynamic')
  const mover = dynamic ?? (one.type === 'static' ? other : one)
  return wayCure(mover, mover === one ? other : one) ?? told
}

function jumpDetail({ body, tick, out, often }: Jumped, other: AnyBody): string {
  const most = often ? ', as it is in tick after tick' : ''
  if (out) return `before tick ${tick} ${body} was teleported out of ${other}${most}: its end has cause 'teleported'`
  return `before tick ${tick} ${body} was teleported over it${most}: a teleport never sweeps what lies between`
}

function jumpCure({ body, out, often }: Jumped): string | null {
  if (out && !often) return null
  return `move ${body} by arriveAt() or a velocity, which are swept, or by travel(), which stops at what is solid; teleport() is for jumps`
}

/** Metres with as many digits as tell something. */
export function length(metres: number): string {
  return `${Number(metres.toPrecision(3))} m`
}
