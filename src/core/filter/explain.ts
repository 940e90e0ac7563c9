/**
 * Why two things do not meet, or why nothing is reported: every check that a pair goes through, in order, with its
 * verdict, the numbers behind it, and for the one that refused what would let the pair meet. Cold; allocates freely.
 */

import type { DescribedJoints } from '../joints/strains.ts'
import type { Population } from '../state/population.ts'
import type { Crossing } from '../step/crossings.ts'
import type { Apart, Jumped, Passage } from '../step/kernel.ts'
import type { Pairs } from '../step/pairs.ts'
import type { Interest } from '../watch/interest.ts'
import type { Side } from '../watch/sides.ts'
import type { Watch } from '../watch/watch.ts'
import { type AnyBody, type AnyCollider, codeOf, fallCure, length, notesOf } from './explainNotes.ts'
import { PASS, RESPONSE_NAMES, SENSE, SENSOR, SOLID } from './filter.ts'
import type { Layers } from './layers.ts'

/** The checks, in the order in which a pair goes through them. */
export const CHECKS = [
  'alive',
  'enabled',
  'colliders',
  'same-body',
  'both-static',
  'ignored',
  'joined',
  'masks',
  'sensor',
  'decide',
  'bounds',
  'shapes',
  'crossed',
  'motion',
  'teleport',
  'stepped',
  'watched',
  'over',
] as const
/** The name of a check, in the order in which `explain` makes them. */
export type Check = (typeof CHECKS)[number]

/** One check of an explanation: its verdict and what was found. */
export interface ExplainedCheck {
  /** Which check it is. */
  readonly check: Check
  /** `'note'`: nothing that refuses, but worth knowing. */
  readonly verdict: 'passed' | 'refused' | 'note'
  /** What was found, in a sentence. */
  readonly detail: string
  /** What to change so that the check passes, or so that what is noted does not happen; null where there is nothing to change. */
  readonly cure: string | null
}

/** The whole account of two bodies or colliders, as it stands now. */
export class Explanation {
  /** The two, as texts. */
  readonly a: string
  /** The second of the two. */
  readonly b: string
  /** Whether they meet now. */
  readonly meets: boolean
  /** How, or how they would: what filter and hooks say. */
  readonly response: 'solid' | 'sense' | 'pass'
  /** Whether some watch reports it. */
  readonly watched: boolean
  /** The first check that refused, or null. */
  readonly refusedBy: Check | null
  /** Every check that was made, in order; the last is the one that refused, where one did. */
  readonly checks: readonly ExplainedCheck[]

  /** @internal */
  constructor(a: string, b: string, response: number, checks: readonly ExplainedCheck[]) {
    this.a = a
    this.b = b
    this.checks = checks
    this.response = RESPONSE_NAMES[response]
    const refused = checks.filter((each) => each.verdict === 'refused')
    this.refusedBy = refused[0]?.check ?? null
    this.meets = !refused.some((each) => each.check !== 'watched' && each.check !== 'over')
    this.watched = checks.some((each) => each.check === 'watched' && each.verdict === 'passed')
  }

  /** The account as text, one line a check; ends with what to change. */
  toString(): string {
    const marks = { passed: 'ok', refused: 'NO', note: '..' }
    const lines = this.checks.map((each) => `  ${marks[each.verdict]}  ${each.check.padEnd(11)}  ${each.detail}`)
    return [`${this.a} and ${this.b}: ${this.summary()}`, ...lines, ...this.cures.map((cure) => `  => ${cure}`)].join(
      '\n',
    )
  }

  /** What to change: first what lets the check pass that refused, then what the notes say; each once. */
  get cures(): readonly string[] {
    const refused = this.checks.filter((each) => each.verdict === 'refused')
    const notes = this.checks.filter((each) => each.verdict === 'note')
    return [...new Set([...refused, ...notes].flatMap(({ cure }) => cure ?? []))]
  }

  /** The verdict in a few words. */
  summary(): string {
    if (!this.meets) return `they do not meet (${this.refusedBy})`
    const how = this.response === 'solid' ? 'they touch' : 'they overlap and sense each other'
    if (!this.watched) return `${how}, but no watch reports it`
    return this.refusedBy === 'over' ? `${how}, but not hard enough for an impact` : how
  }
}

/** What an explanation is made from. */
export interface Explainable<B extends object, C extends object, V extends object> {
  readonly population: Population<B, C>
  readonly pairs: Pairs
  readonly layers: Layers
  readonly interest: Interest<Watch<B, C, V>, B, C>
  matches(side: Side, collider: number): boolean
  apart(a: number, b: number): Apart
  /** The last teleport of one past the other. */
  jumped(a: number, b: number): Jumped | null
  /** How forces move a dynamic body, in a few words. */
  weight(body: number): string
  /** What is told of the joints of two bodies; null for a world without any. */
  joints(a: number, b: number): DescribedJoints | null
  /** When two colliders, by their ages, last met and parted within one tick. */
  passed(a: number, b: number): Crossing | null
  /** Whether a collider lies below another, by gravity. */
  below(a: number, b: number, gravity: Float64Array): boolean
  /** Whether one of two has come straight through the other. */
  came(a: number, b: number): Passage | null
  /** Seconds a tick. */
  readonly dt: number
  /** The last step that is done; 0 before the first. */
  readonly tick: number
  /** What pulls dynamic bodies; null in a world without forces. */
  readonly gravity: Float64Array | null
}

/** So many times the reach of a touch that parts of one machine are within each other, when they do not only rest. */
const PRESSED = 5

/**
 * Explains two bodies or colliders. Of bodies with several colliders the pair is explained that came furthest.
 */
export function explain<B extends object, C extends object, V extends object>(
  rooms: Explainable<B, C, V>,
  a: AnyBody | AnyCollider,
  b: AnyBody | AnyCollider,
): Explanation {
  const checks: ExplainedCheck[] = []
  const finish = (response: number): Explanation => new Explanation(String(a), String(b), response, checks)
  const no = (check: Check, detail: string, cure: string): Explanation => {
    checks.push({ check, verdict: 'refused', detail, cure })
    return finish(PASS)
  }
  const yes = (check: Check, detail: string): void => {
    checks.push({ check, verdict: 'passed', detail, cure: null })
  }

  for (const each of [a, b]) {
    if (!each.alive) return no('alive', `${each} was removed from the world`, 'add it again, and watch the new one')
  }
  yes('alive', 'both are in the world')
  for (const each of [a, b]) {
    const body = bodyOf(each)
    if (!body.enabled) return no('enabled', `${body} is disabled`, `set enabled = true on ${body}`)
  }
  for (const body of [bodyOf(a), bodyOf(b)]) {
    if (body.colliders.length > 0) continue
    return no('colliders', `${body} has no collider: it is nowhere`, `attach({ shape, layer }) one to ${body}`)
  }
  const on = [a, b].map((each) => collidersOf(each).filter((c) => c.enabled))
  for (const [index, each] of [a, b].entries()) {
    if (on[index].length > 0) continue
    const which = isCollider(each) ? `${each} is disabled` : `every collider of ${each} is disabled`
    return no('enabled', which, 'set enabled = true on it')
  }
  yes('enabled', 'both are enabled')
  yes('colliders', `${count(on[0].length)} and ${count(on[1].length)}`)
  if (bodyOf(a) === bodyOf(b)) {
    return no('same-body', 'the colliders of one body never meet each other', 'put them on two bodies')
  }
  yes('same-body', 'they are of different bodies')
  if (bodyOf(a).type === 'static' && bodyOf(b).type === 'static') {
    return no(
      'both-static',
      'both are static: two things that stand still never report each other, sensors neither',
      "make one of them 'kinematic'; it costs next to nothing while it stands still",
    )
  }
  yes('both-static', `${bodyOf(a)} is ${bodyOf(a).type}, ${bodyOf(b)} is ${bodyOf(b).type}`)

  // The pair of colliders that comes furthest stands for the whole.
  let best: Account | null = null
  for (const one of on[0]) {
    for (const other of on[1]) {
      const found = explainColliders(rooms, one, other)
      if (best === null || further(found, best)) best = found
    }
  }
  const several = on[0].length * on[1].length
  if (several > 1) {
    checks.push({
      check: 'colliders',
      verdict: 'note',
      detail: `of ${several} pairs of colliders the one that came furthest is explained from here on`,
      cure: null,
    })
  }
  checks.push(...best!.checks)
  return finish(best!.response)
}

/** What one pair of colliders went through. */
interface Account {
  readonly checks: ExplainedCheck[]
  readonly response: number
  /** Between the shapes; Infinity when it did not come so far. */
  readonly gap: number
}

/** Whether one account came further than another, or as far with the shapes nearer. */
function further(one: Account, other: Account): boolean {
  const rank = ({ checks }: Account): number => {
    const at = checks.find((each) => each.verdict === 'refused')?.check
    return at === undefined ? CHECKS.length : CHECKS.indexOf(at)
  }
  return rank(one) > rank(other) || (rank(one) === rank(other) && one.gap < other.gap)
}

function explainColliders<B extends object, C extends object, V extends object>(
  rooms: Explainable<B, C, V>,
  one: AnyCollider,
  other: AnyCollider,
): Account {
  const checks: ExplainedCheck[] = []
  const { filter } = rooms.population
  const a = one.slot
  const b = other.slot
  const add = (check: Check, verdict: ExplainedCheck['verdict'], detail: string, cure: string | null = null): void => {
    checks.push({ check, verdict, detail, cure })
  }
  if (filter.ignores(a, b)) {
    const bodies = filter.bodiesIgnoring.now(filter.body.data[a], filter.body.data[b])
    const who = bodies ? `${one.body} and ${other.body}` : `${one} and ${other}`
    add('ignored', 'refused', `${who} were told to ignore each other`, 'take it back with unignore()')
    return { checks, response: PASS, gap: Infinity }
  }
  add('ignored', 'passed', 'neither was told to ignore the other')
  const joined = rooms.joints(filter.body.data[a], filter.body.data[b])
  const joints = joined?.names ?? []
  const strains: readonly ExplainedCheck[] =
    joined?.strains.map(({ detail, cure }) => ({ check: 'joined', verdict: 'note', detail, cure })) ?? []
  if (filter.joined(a, b)) {
    add(
      'joined',
      'refused',
      `${joints.join(' and ')} of ${one.body} and ${other.body} ${joints.length > 1 ? 'keep' : 'keeps'} them from touching`,
      "set 'touching' of the joint to true",
    )
    return { checks: [...checks, ...strains], response: PASS, gap: Infinity }
  }
  add('joined', 'passed', joints.length === 0 ? 'no joint holds them' : `${joints.join(' and ')} lets them touch`)

  let response = filter.byMasks(a, b)
  const masks = [direction(rooms, one, other), direction(rooms, other, one)]
  const detail = `${masks[0].text}; ${masks[1].text}`
  if (response === PASS) {
    add('masks', 'refused', detail, maskCure(rooms, one, other, masks))
    return { checks, response, gap: Infinity }
  }
  add('masks', 'passed', `${detail}: ${RESPONSE_NAMES[response]}`)

  const sensors = [one, other].filter((each) => (filter.flags.data[each.slot] & SENSOR) !== 0)
  const presses = response === SENSE ? fallCure(rooms, one, other, sensors) : null
  if (sensors.length > 0) {
    add('sensor', 'note', `${sensors.join(' and ')}: a sensor, which never presses`, presses)
  } else if (presses === null) add('sensor', 'passed', 'neither is a sensor')
  else add('sensor', 'note', 'their layers sense each other, so neither presses on the other', presses)

  const [older, younger] = one.serial < other.serial ? [a, b] : [b, a]
  const pair = rooms.pairs.find(older, younger)
  if (pair >= 0 && rooms.pairs.through.data[pair] !== 0) {
    add(
      'decide',
      'refused',
      'one of the two is passing the other by its one-way side',
      'let them part first: then it holds again',
    )
    return { checks, response: PASS, gap: Infinity }
  }
  const answer = pair < 0 ? 0 : rooms.pairs.answer.data[pair]
  if (answer !== 0 && answer - 1 < response) {
    response = answer - 1
    const said = `a decide hook answered '${RESPONSE_NAMES[response]}' when they came into touch`
    if (response === PASS) {
      add('decide', 'refused', `${said}; that is kept until they part`, 'let the hook answer otherwise, or stop() it')
      return { checks, response, gap: Infinity }
    }
    add('decide', 'note', said)
  } else add('decide', 'passed', 'no decide hook weakened it')

  const apart = rooms.apart(a, b)
  // What touches is held until it is twice as far.
  const held = pair >= 0 && rooms.pairs.state.data[pair] === SOLID
  const reach = response === SOLID ? (held ? 2 : 1) * apart.touch : 0
  const isApart = apart.shapes > reach
  const notes = [...notesOf(rooms, one, other, response, isApart), ...strains]
  if (joints.length > 0 && response === SOLID && !isApart) {
    const detail = `${joints.join(' and ')} lets them touch, and they press on each other against it`
    notes.push({ check: 'joined', verdict: 'note', detail, cure: "set 'touching' of the joint to false" })
  }
  const shared = joints.length === 0 && response === SOLID && apart.shapes < -PRESSED * apart.touch
  const third = shared ? (joined?.shared ?? -1) : -1
  if (third >= 0) {
    const detail = `both are joined to ${rooms.population.bodyHandles[third]}, and they stand within each other: contact and joints pull against each other`
    const cure = `${codeOf(one.body)}.ignore(${codeOf(other.body)}), or let the pair of their layers pass`
    notes.push({ check: 'joined', verdict: 'note', detail, cure })
  }
  // What was found says more than that they are apart.
  const isTold = presses !== null || notes.some(({ check, cure }) => cure !== null || check === 'teleport')
  const nearer = isTold ? null : 'bring them nearer to each other'
  if (apart.bounds > reach) {
    add('bounds', 'refused', `their bounds are ${length(apart.bounds)} apart`, nearer)
  } else {
    add('bounds', 'passed', 'their bounds overlap')
    if (apart.shapes > reach) {
      add('shapes', 'refused', `their shapes are ${length(apart.shapes)} apart`, nearer)
    } else if (apart.shapes > 0)
      add('shapes', 'passed', `their shapes are ${length(apart.shapes)} apart, which counts as touching`)
    else add('shapes', 'passed', `their shapes overlap by ${length(-apart.shapes)}`)
  }
  checks.push(...notes)
  const speaking: Watch<B, C, V>[] = []
  checks.push(watchedCheck(rooms, a, b, one, other, response, speaking))
  const impact = held ? overCheck(rooms, pair, speaking) : null
  if (impact !== null) checks.push(impact)
  return { checks, response, gap: apart.shapes }
}

interface Direction {
  /** The strongest that the one takes part in towards the other. */
  readonly strength: number
  readonly text: string
}

/** What the words of one collider say of the layers of another. */
function direction<B extends object, C extends object, V extends object>(
  { population, layers }: Explainable<B, C, V>,
  from: AnyCollider,
  to: AnyCollider,
): Direction {
  const { filter } = population
  const there = filter.activeLayers.data[to.slot]
  const strength =
    (there & filter.activeSolid.data[from.slot]) !== 0
      ? SOLID
      : (there & filter.activeMeet.data[from.slot]) !== 0
        ? SENSE
        : PASS
  const on = named(layers, there)
  const says = strength === PASS ? `lets ${on} pass` : strength === SENSE ? `senses ${on}` : `is solid to ${on}`
  return { strength, text: `${from} (on ${named(layers, filter.activeLayers.data[from.slot])}) ${says}` }
}

function named(layers: Layers, bits: number): string {
  if (bits === 0) return 'no layer'
  const names = layers.names(bits >>> 0)
  const nameless = (bits & ~layers.mask(...names)) >>> 0
  const rest = nameless === 0 ? [] : [`nameless bits 0x${nameless.toString(16)}`]
  return [...names, ...rest].join('+')
}

function maskCure<B extends object, C extends object, V extends object>(
  { population, layers }: Explainable<B, C, V>,
  one: AnyCollider,
  other: AnyCollider,
  masks: readonly Direction[],
): string {
  const { filter } = population
  for (const each of [one, other]) {
    if (filter.activeLayers.data[each.slot] === 0) return `put ${each} on a layer: set its layer`
  }
  const blind = masks[0].strength === PASS ? [one, other] : [other, one]
  const both = masks[0].strength === PASS && masks[1].strength === PASS
  const [who, whom] = blind
  const table =
    (layers.solidBits(filter.activeLayers.data[who.slot] >>> 0) |
      layers.senseBits(filter.activeLayers.data[who.slot] >>> 0)) &
    filter.activeLayers.data[whom.slot]
  const [from] = layers.names(filter.activeLayers.data[who.slot] >>> 0)
  const [to] = layers.names(filter.activeLayers.data[whom.slot] >>> 0)
  if (table !== 0) {
    return `the pair table would let them meet, but the words of ${who} were set by hand: add '${to}' to its solidBits or senseBits`
  }
  const side = both ? '' : ` (a response needs both sides; only ${whom} agrees)`
  return `world.setPair('${from}', '${to}', 'sense') or 'solid', or add '${to}' to the senseBits of ${who}${side}`
}

function watchedCheck<B extends object, C extends object, V extends object>(
  rooms: Explainable<B, C, V>,
  a: number,
  b: number,
  one: AnyCollider,
  other: AnyCollider,
  response: number,
  speaking: Watch<B, C, V>[],
): ExplainedCheck {
  const { interest, matches } = rooms
  const near: string[] = []
  const sides: string[] = []
  let missing: string | null = null
  const listening = [...interest.watches].filter(({ observer }) => !observer)
  for (const watch of listening) {
    const straight = matches(watch.first, a) && matches(watch.second, b)
    const turned = matches(watch.first, b) && matches(watch.second, a)
    if (!straight && !turned) {
      missing ??= almost(rooms, watch, [one, other])
      continue
    }
    if (watch.response !== 0 && watch.response !== response) {
      near.push(`'${watch.key}' reports ${RESPONSE_NAMES[watch.response]} pairs only`)
      continue
    }
    speaking.push(watch)
    const [first, second] = straight ? [one, other] : [other, one]
    sides.push(`'${watch.key}' (a is ${first.body}, b is ${second.body})`)
  }
  const check = 'watched'
  if (speaking.length > 0) return { check, verdict: 'passed', detail: `reported by ${sides.join(', ')}`, cure: null }
  if (near.length === 0 && missing !== null) near.push(missing)
  const others = near.length > 0 ? near.join(', ') : `${listening.length} in the world, none for these sides`
  return {
    check,
    verdict: 'refused',
    detail: `no watch covers them (${others})`,
    cure: `world.watch(${side(one)}, ${side(other)}, { begin(e) { … } })`,
  }
}

/** A watch that one of two matches, and what the other would have to be. */
function almost<B extends object, C extends object, V extends object>(
  { matches }: Explainable<B, C, V>,
  watch: Watch<B, C, V>,
  [one, other]: readonly [AnyCollider, AnyCollider],
): string | null {
  for (const [has, lacks] of [
    [one, other],
    [other, one],
  ]) {
    for (const [met, open] of [
      [watch.first, watch.second],
      [watch.second, watch.first],
    ]) {
      // That '*' takes it says nothing.
      if (met.text === '*' || !matches(met, has.slot) || matches(open, lacks.slot)) continue
      return `'${watch.key}' takes ${has.body} for '${met.text}', but ${lacks} is not of '${open.text}'`
    }
  }
  return null
}

/** Whether the strength of two that touch reached the threshold of a watch that waits for an impact; null where none does. */
function overCheck<B extends object, C extends object, V extends object>(
  { pairs }: Explainable<B, C, V>,
  pair: number,
  speaking: readonly Watch<B, C, V>[],
): ExplainedCheck | null {
  const waiting = speaking.filter((watch) => watch.wantsImpact)
  if (waiting.length === 0) return null
  const impulse = pairs.impulse.data[pair]
  const speed = pairs.closing.data[pair]
  const reached = waiting.filter((watch) => impulse >= watch.overImpulse || speed >= watch.overSpeed)
  const found = `in the last tick they pressed with ${impulse.toPrecision(3)} Ns and came together at ${speed.toPrecision(3)} m/s`
  if (reached.length > 0)
    return { check: 'over', verdict: 'passed', detail: `${found}: an impact for ${keys(reached)}`, cure: null }
  const limits = waiting.map(
    (watch) =>
      `'${watch.key}' waits for ${watch.overSpeed < Infinity ? `${watch.overSpeed} m/s` : `${watch.overImpulse} Ns`}`,
  )
  return {
    check: 'over',
    verdict: 'refused',
    detail: `${found}; ${limits.join(', ')}`,
    cure: "lower the watch's 'over', or let them meet harder; an impact is reported once, when the strength rises through it",
  }
}

function keys(watches: readonly { readonly key: string }[]): string {
  return watches.map((watch) => `'${watch.key}'`).join(', ')
}

function side(collider: AnyCollider): string {
  const { layer } = collider
  return typeof layer === 'string' ? `'${layer}'` : `[${layer.map((name) => `'${name}'`).join(', ')}]`
}

function isCollider(each: AnyBody | AnyCollider): each is AnyCollider {
  return 'body' in each
}

function bodyOf(each: AnyBody | AnyCollider): AnyBody {
  return isCollider(each) ? each.body : each
}

function collidersOf(each: AnyBody | AnyCollider): readonly AnyCollider[] {
  return isCollider(each) ? [each] : (each.colliders as readonly AnyCollider[])
}

function count(colliders: number): string {
  return colliders === 1 ? 'one collider' : `${colliders} colliders`
}
