/**
 * Mistakes of a scene that runs but will not do what it was made for: masks that can never match, things that can never
 * report, motions that lead nowhere. Each with its place and its cure. Asked only of scenes whose names are right.
 */

import { defineLayers, type Layers } from 'keen-sentry'
import { masks, PASS, RESPONSE_NAMES, SENSE, SOLID } from 'keen-sentry/internal'
import { advise } from './advice.ts'
import type { SceneSide } from './parts.ts'
import { type Problem, placeOf } from './problems.ts'
import type { Scene, SceneBody } from './schema.ts'

/** Metres up to which two that overlap only touch. */
const TOUCHING = 0.001
/** Metres that a fall is followed beyond the end of the scene, and into how many straight parts the way until then is cut. */
const FALL = 1e4
const PARTS = 48

/** How a collider of the scene is filtered, and where in its body the file says so. */
interface Filtered {
  readonly layer: string | readonly string[]
  readonly tags?: readonly string[] | undefined
  readonly solid?: readonly string[] | undefined
  readonly sense?: readonly string[] | undefined
  readonly sensor?: boolean | undefined
}

export interface Part {
  readonly spec: Filtered
  readonly path: Path
}

/** What is asked of the world before its first tick. */
interface Standing<C> {
  readonly body: { readonly name: string | null; readonly type: string }
  readonly mine: C & { readonly index: number }
  readonly other: C & { readonly index: number }
  readonly depth: number
}

/** A joint as it is before the first tick. */
interface MadeJoint {
  readonly a: { readonly mass: number }
  readonly b: { readonly mass: number } | null
  /** Metres between the points that it holds. */
  readonly distance: number
}

/** A ray as it is before the first tick. */
interface MadeRay {
  readonly hit: { readonly startedInside: boolean; readonly body: { readonly name: string | null } } | null
}

/** Beyond so many times the other's mass a joint is pulled about by what it holds; metres by which a rod may be off. */
const UNEVEN = 200
const TORN = 0.01

/** What is met on a way: anything solid, or else what only senses. */
export interface Met {
  readonly solid: boolean
  readonly sensor: string | null
}

/** A collider of the scene in one of the states that it is in at some time. */
export interface State {
  readonly body: SceneBody
  readonly bodyIndex: number
  readonly part: Part
  /** Among the colliders of its body. */
  readonly index: number
  readonly at: number
  readonly press: number
  readonly meet: number
  /** Whether its body stands still for ever. */
  readonly fixed: boolean
}

/** The states of bodies of one type that are filtered alike: what meets one of them meets all of other bodies. */
interface Kind {
  /** The first. */
  readonly of: State
  /** The first of another body. */
  readonly another: State | null
}

export type Path = readonly PropertyKey[]

type Action = NonNullable<Scene['actions']>[number]

/** Finds the mistakes that both dimensions know; a dimension adds its geometry and its own. */
export abstract class Finder<C extends { readonly index: number; readonly body: { readonly name: string | null } }> {
  private readonly scene: Scene
  private readonly layers: Layers
  protected states: readonly State[] = []
  /** The states of each body, by its name. */
  private byBody = new Map<string, State[]>()
  private kinds: readonly Kind[] = []
  private byTag = new Map<string, State[]>()
  /** The layers that somebody is on at some time. */
  private used = 0
  /** The actions on each body, by its name. */
  private readonly actionsOn: ReadonlyMap<string, readonly Action[]>
  private readonly problems: Problem[] = []
  /** What was found already: colliders of one grid make the same mistake once. */
  private readonly told = new Set<string>()

  constructor(scene: Scene) {
    this.scene = scene
    const { names, otherwise, pairs } = scene.layers
    this.layers = defineLayers(names, { otherwise, pairs })
    this.actionsOn = grouped<Action>(scene.actions ?? [], (action) => ('body' in action ? [action.body] : []))
  }

  /** Whether a joint holds a body. */
  protected isJoined(name: string): boolean {
    return (this.scene.joints ?? []).some((joint) => joint.a === name || ('b' in joint && joint.b === name))
  }

  /** The colliders of a body in the order of the world's. */
  protected abstract parts(index: number): readonly Part[]
  /** Who overlaps whom before the first tick, solid to each other: each pair of bodies once, by the age of the younger. */
  protected abstract standing(): Iterable<Standing<C> & { readonly name: string }>
  /** The joints of the scene as they are before the first tick, in the order of the file. */
  protected abstract madeJoints(): readonly MadeJoint[]
  /** What the rays of the scene meet before the first tick, in the order of the file. */
  protected abstract madeRays(): readonly MadeRay[]
  /** What only bodies of this dimension do wrong. */
  protected abstract ownMistakes(body: SceneBody, index: number): void

  run(): Problem[] {
    this.states = this.scene.bodies.flatMap((body, bodyIndex) =>
      this.parts(bodyIndex).flatMap((part, index) => this.statesOf(body, bodyIndex, part, index)),
    )
    this.byBody = grouped(this.states, (state) => [state.body.name])
    this.byTag = grouped(this.states, (state) => state.part.spec.tags ?? [])
    this.kinds = kindsOf(this.states)
    for (const state of this.states) this.used |= state.at
    this.pairRows()
    for (const [index, body] of this.scene.bodies.entries()) this.body(body, index)
    this.startOverlaps()
    this.joints()
    this.actions()
    this.rays()
    this.watches()
    advise(this.scene, (...found) => this.add(...found))
    return this.problems
  }

  protected add(level: Problem['level'], code: string, path: Path, message: string, cure: string): void {
    const place = placeOf(path)
    const key = JSON.stringify([place, code, message])
    if (this.told.has(key)) return
    this.told.add(key)
    this.problems.push({ level, code, place, message, cure })
  }

  /** The words of a collider as it starts, and after each action that puts it on another layer. */
  private statesOf(body: SceneBody, bodyIndex: number, part: Part, index: number): State[] {
    const { layers } = this
    const { spec } = part
    const actions = this.actionsOn.get(body.name) ?? []
    const fixed = body.type === 'static' && !actions.some((action) => action.do === 'type' && action.type !== 'static')
    const state = (set: string | readonly string[], byHand: boolean): State => {
      const at = layers.mask(...listOf(set)) | 0
      const solid = byHand && spec.solid !== undefined ? layers.mask(...spec.solid) : layers.solidBits(set as string[])
      const sense = byHand && spec.sense !== undefined ? layers.mask(...spec.sense) : layers.senseBits(set as string[])
      const sensor = spec.sensor === true || (solid === 0 && sense !== 0)
      return { body, bodyIndex, part, index, at, press: sensor ? 0 : solid, meet: solid | sense, fixed }
    }
    const later = actions.flatMap((action) => {
      if (action.do !== 'layer') return []
      return action.collider === undefined || action.collider === index ? [state(action.layer, false)] : []
    })
    return [state(spec.layer, true), ...later]
  }

  private occupied(layer: string): boolean {
    return (this.used & this.layers.bit(layer)) !== 0
  }

  /** Says so when nobody is ever on a layer that a set names. */
  private empty(set: string | readonly string[], path: Path): boolean {
    let none = true
    for (const [index, layer] of listOf(set).entries()) {
      if (layer === '*' || this.occupied(layer)) none = false
      else {
        const place = typeof set === 'string' ? path : [...path, index]
        const used = this.scene.layers.names.filter((each) => this.occupied(each))
        this.add(
          'warning',
          'empty-layer',
          place,
          `nobody is ever on layer ${JSON.stringify(layer)}`,
          `put a collider on it, or name another; in use are ${used.join(', ') || 'none'}`,
        )
      }
    }
    return none
  }

  private pairRows(): void {
    for (const [index, row] of (this.scene.layers.pairs ?? []).entries()) {
      for (const side of [0, 1] as const) this.empty(row[side], ['layers', 'pairs', index, side])
    }
  }

  private body(body: SceneBody, index: number): void {
    const path = ['bodies', index]
    const parts = this.parts(index)
    const carries = (this.scene.rays ?? []).some((ray) => ray.body === body.name) || this.isJoined(body.name)
    if (parts.length === 0 && !carries) {
      this.add(
        'warning',
        'no-collider',
        path,
        `${JSON.stringify(body.name)} has no collider: nothing meets it`,
        'give it a collider, or take it out',
      )
    }
    for (const { spec, path: place } of new Set(parts)) {
      for (const field of ['solid', 'sense'] as const) {
        if (spec[field] !== undefined) this.empty(spec[field], [...path, ...place, field])
      }
    }
    const colliders = (body.colliders ?? []).map((each) => JSON.stringify(each))
    for (const [at, collider] of colliders.entries()) {
      const twin = colliders.indexOf(collider)
      if (twin < at) {
        this.add(
          'warning',
          'twin-colliders',
          [...path, 'colliders', at],
          `is the same as colliders[${twin}] of this body: whatever counts colliders counts it twice`,
          'take one of the two out',
        )
      }
    }
    this.oneSided(body, index)
    this.ownMistakes(body, index)
    if (body.type === 'kinematic') this.motion(body, index)
  }

  /** Words by hand that want to meet somebody who does not want to meet them. */
  private oneSided(body: SceneBody, index: number): void {
    for (const [at, { spec, path }] of this.parts(index).entries()) {
      if (spec.solid === undefined && spec.sense === undefined) continue
      const own = this.byBody.get(body.name)!.find((state) => state.index === at)!
      for (const kind of this.kinds) {
        const other = kind.of.body === body ? kind.another : kind.of
        if (other === null || respond(own, other) !== PASS) continue
        if ((other.at & own.meet) === 0 || (own.at & other.meet) !== 0) continue
        const field = spec.solid !== undefined ? 'solid' : 'sense'
        const layer = this.layers.names((other.at & own.meet) >>> 0)[0]
        this.add(
          'warning',
          'one-sided',
          ['bodies', index, ...path, field],
          `wants to meet ${JSON.stringify(layer)}, but ${JSON.stringify(other.body.name)} lets ${this.layers.names(own.at >>> 0).join('+')} pass: a response needs both sides`,
          `add ${JSON.stringify(this.layers.names(own.at >>> 0)[0])} to the words of ${JSON.stringify(other.body.name)}, or a row to layers.pairs`,
        )
        break
      }
    }
  }

  /** A kinematic body that never moves and that a static one would do as well as. */
  private motion(body: SceneBody, index: number): void {
    const teleports = (this.actionsOn.get(body.name) ?? []).some((action) => action.do === 'teleport')
    if (moves(body) || teleports) return
    const own = this.byBody.get(body.name) ?? []
    const needed = this.kinds.some(
      ({ of: other }) => other.body.type === 'static' && own.some((state) => respond(state, other) !== PASS),
    )
    if (needed || own.length === 0) return
    this.add(
      'hint',
      'no-motion',
      ['bodies', index, 'type'],
      `${JSON.stringify(body.name)} is kinematic but never moves, and meets nothing static`,
      'give it a velocity, a spin or a path, or make it static',
    )
  }

  private startOverlaps(): void {
    const indexes = new Map(this.scene.bodies.map((body, index) => [body.name, index]))
    const told = new Set<string>()
    for (const { name, body, mine, other, depth } of this.standing()) {
      if (depth < TOUCHING * (this.scene.unit ?? 1) || told.has(name)) continue
      told.add(name)
      const type = this.scene.bodies[indexes.get(name)!].type
      this.add(
        'hint',
        'start-overlap',
        ['bodies', indexes.get(body.name!)!],
        `starts ${Number(depth.toPrecision(2))} m deep within ${JSON.stringify(name)} (colliders ${other.index} and ${mine.index}), and the two are solid to each other${
          type === 'dynamic' || body.type === 'dynamic' ? ': they will be pushed apart' : ''
        }`,
        'move one of them, or let the pair sense or pass',
      )
    }
  }

  /** Joints that cannot do what they were made for, or do it badly. */
  private joints(): void {
    const made = this.madeJoints()
    for (const [index, joint] of (this.scene.joints ?? []).entries()) {
      const path = ['joints', index]
      const { a, b, distance } = made[index]
      if ('motor' in joint && joint.motor !== undefined) {
        const strength = 'torque' in joint.motor ? joint.motor.torque : joint.motor.force
        const later = (this.scene.actions ?? []).some((action) => action.do === 'motor' && action.joint === joint.name)
        if (strength === 0 && !later) {
          const field = 'torque' in joint.motor ? 'torque' : 'force'
          this.add(
            'warning',
            'weak-motor',
            [...path, 'motor'],
            'has a motor that gives nothing',
            `give it a '${field}' above 0`,
          )
        }
      }
      const [light, heavy] = [a.mass, b?.mass ?? 0].sort((x, y) => x - y)
      if (light > 0 && heavy > UNEVEN * light) {
        const times = `${Math.round(heavy / light)} times`
        this.add(
          'hint',
          'uneven-masses',
          path,
          `holds a body that weighs ${times} as much as the other`,
          'make the light one heavier, or join the heavy one to something else',
        )
      }
      if (joint.type !== 'distance' || (joint.min === undefined && joint.max === undefined)) continue
      const [min, max] = [joint.min ?? 0, joint.max ?? Infinity]
      if (distance <= max + TORN && distance >= min - TORN) continue
      const found = `holds two points that are ${distance.toFixed(2)} m apart, and allows ${distance > max ? `${max} m at most` : `no less than ${min} m`}`
      this.add(
        'warning',
        'torn-joint',
        path,
        found,
        'put the bodies where the joint allows: it draws them there in the first ticks',
      )
    }
    this.machines()
  }

  /** Parts of one machine, joined through a third, that are within each other and solid to each other. */
  private machines(): void {
    const partners = new Map<string, Set<string>>()
    const joined = (one: string, other: string): void => {
      partners.set(one, (partners.get(one) ?? new Set()).add(other))
    }
    for (const joint of this.scene.joints ?? []) {
      if (!('b' in joint) || joint.b === undefined || joint.touching === true) continue
      joined(joint.a, joint.b)
      joined(joint.b, joint.a)
    }
    const told = new Set<string>()
    for (const { name, body } of this.standing()) {
      const other = body.name!
      const through = [...(partners.get(name) ?? [])].find(
        (third) => third !== other && partners.get(other)?.has(third),
      )
      const key = [name, other].sort().join(' ')
      if (through === undefined || partners.get(name)!.has(other) || told.has(key)) continue
      told.add(key)
      const index = this.scene.bodies.findIndex((each) => each.name === name)
      const found = `stands within ${JSON.stringify(other)}, and both are joined to ${JSON.stringify(through)}: the two push each other about`
      this.add(
        'warning',
        'machine-parts',
        ['bodies', index],
        found,
        'let the pair of their layers pass, or join the two as well',
      )
    }
  }

  private actions(): void {
    const removed = new Map<string, number>()
    const actions = (this.scene.actions ?? []).map((action, index) => ({ action, index }))
    actions.sort((a, b) => a.action.time - b.action.time)
    for (const { action, index } of actions) {
      if (!('body' in action)) continue
      const gone = removed.get(action.body)
      if (gone !== undefined) {
        this.add(
          'warning',
          'after-removal',
          ['actions', index],
          `comes at ${action.time} s, but ${JSON.stringify(action.body)} is removed at ${gone} s`,
          'put it before the removal, or take it out',
        )
      } else if (action.do === 'remove' && action.collider === undefined) removed.set(action.body, action.time)
    }
    for (const [index, body] of this.scene.bodies.entries()) {
      const gone = removed.get(body.name)
      if (gone === undefined || body.path === undefined || body.path.loop === true) continue
      const { points } = body.path
      // The point that the body is on its way to is part of the motion until then.
      const late = points.findIndex((_, at) => at > 0 && points[at - 1].time >= gone)
      if (late < 0) continue
      this.add(
        'warning',
        'after-removal',
        ['bodies', index, 'path', 'points', late],
        `comes at ${points[late].time} s, but ${JSON.stringify(body.name)} is removed at ${gone} s`,
        'end the path there, or remove the body later',
      )
    }
  }

  private rays(): void {
    const made = this.madeRays()
    for (const [index, ray] of (this.scene.rays ?? []).entries()) {
      const hit = made[index]?.hit
      if (hit?.startedInside === true) {
        const name = JSON.stringify(hit.body.name)
        const cure = `let it pass over that: "filter": { "except": [${name}] }, or let ${name} carry it: "body": ${name}`
        this.add('hint', 'ray-inside', ['rays', index], `starts inside ${name}, and meets nothing else`, cure)
      }
      const set = ray.filter?.layers
      if (set === undefined) continue
      const path = ['rays', index, 'filter', 'layers']
      if (this.empty(set, path)) continue
      const mask = this.layers.mask(...set)
      const sensors = ray.filter?.sensors ?? false
      const met = this.states.some(
        (state) => (state.at & mask) !== 0 && (sensors === true || (state.press === 0) === (sensors === 'only')),
      )
      if (met) continue
      this.add(
        'warning',
        'never-matches',
        path,
        sensors === 'only'
          ? 'the ray asks for sensors only, and none is on these layers'
          : 'everything on these layers is a sensor, which a ray passes unless it asks for sensors',
        sensors === 'only' ? "leave 'sensors' out" : "set 'sensors' to true",
      )
    }
  }

  private watches(): void {
    for (const [index, watch] of (this.scene.watches ?? []).entries()) {
      const path = ['watches', index]
      let empty = false
      for (const side of ['a', 'b'] as const) {
        const value = watch[side]
        if (typeof value === 'string' || Array.isArray(value)) empty = this.empty(value, [...path, side]) || empty
      }
      if (empty) continue
      const a = this.matching(watch.a)
      const b = this.matching(watch.b)
      let someStatic = false
      let pressed = false
      let strongest: number = PASS
      let example: readonly [State, State] | null = null
      for (const [one, other] of meetings(a, b)) {
        if (one.fixed && other.fixed) someStatic = true
        else {
          example ??= [one, other]
          if (respond(one, other) === SOLID) {
            pressed ||= one.body.type === 'dynamic' || other.body.type === 'dynamic'
          }
          strongest = Math.max(
            strongest,
            watch.response === undefined ? respond(one, other) : this.narrow(watch.response, one, other),
          )
        }
      }
      if (strongest !== PASS) {
        if (watch.over !== undefined && 'impulse' in watch.over && !pressed) this.noForces(path)
        continue
      }
      if (someStatic && example === null) {
        this.add(
          'warning',
          'both-static',
          path,
          'can never tell anything: all that match are static, and two things that stand still never report each other',
          'make one side kinematic; it costs next to nothing while it stands still',
        )
        continue
      }
      const why =
        example === null
          ? a.length === 0 || b.length === 0
            ? `nobody matches side ${a.length === 0 ? 'a' : 'b'}`
            : 'all that match are of one body'
          : watch.response === undefined
            ? 'the pair table lets all that match pass through each other'
            : `none of those that match is ${watch.response} to another`
      this.add(
        'warning',
        'never-matches',
        path,
        `can never tell anything: ${why}`,
        this.cureOf(watch.response, example),
      )
    }
  }

  /** What a body meets on its way, from one place to another as seen from where it starts; null for what is never asked. */
  protected abstract meets(name: string, from: readonly number[], to: readonly number[]): Met | null

  /** Follows a dynamic body that falls, as it was thrown, to the end of the scene and on: whether anything solid catches it. */
  protected fall(index: number): void {
    const { scene } = this
    const body = scene.bodies[index]
    const axes = scene.dimension === '2d' ? 2 : 3
    const gravity: readonly number[] = scene.gravity ?? [0, -9.8 * (scene.unit ?? 1), 0].slice(0, axes)
    const pull = gravity.map((part) => part * (body.gravityScale ?? 1))
    const length = Math.hypot(...pull)
    const locked = Object.entries(body.locks ?? {}).some(([axis, held]) => held === true && axis.length === 1)
    if (length === 0 || locked || this.isJoined(body.name) || this.mayBeCaught(body)) return
    const thrown: readonly number[] = body.velocity ?? []
    const time = (scene.ticks ?? 600) / (scene.rate ?? 60)
    const place = (t: number): number[] => pull.map((part, axis) => (thrown[axis] ?? 0) * t + (part * t * t) / 2)
    const way = Array.from({ length: PARTS + 1 }, (_, part) => place((time * part) / PARTS))
    const end = way[PARTS]
    const along = (far: number): number[] => end.map((at, axis) => at + (pull[axis] / length) * far)
    way.push(along(FALL))
    let sensor: string | null = null
    for (let part = 1; part < way.length; part++) {
      const met = this.meets(body.name, way[part - 1], way[part])
      if (met === null || met.solid) return
      sensor ??= met.sensor
    }
    const back =
      gravity[1] > 0
        ? this.meets(
            body.name,
            way[0],
            way[0].map((at, axis) => at - (pull[axis] / length) * FALL),
          )
        : null
    if (back?.solid !== true) {
      this.noFloor(index, body.name, sensor)
      return
    }
    const found = `is [${gravity.join(', ')}], and y is up: ${JSON.stringify(body.name)} falls upwards, away from what is below it`
    this.add(
      'warning',
      'gravity-upwards',
      ['gravity'],
      found,
      `write [${gravity.map((part, axis) => (axis === 1 ? -part : part)).join(', ')}]`,
    )
  }

  /** Whether something that moves, or that an action moves, may come under a body; or an action moves it. */
  private mayBeCaught(body: SceneBody): boolean {
    if ((this.actionsOn.get(body.name) ?? []).length > 0) return true
    const own = this.byBody.get(body.name) ?? []
    return this.states.some(
      (state) =>
        state.body !== body &&
        (moves(state.body) || (this.actionsOn.get(state.body.name) ?? []).length > 0) &&
        own.some((each) => respond(each, state) === SOLID),
    )
  }

  /** A dynamic body falls, and nothing solid is below it; perhaps a body that only senses it is. */
  private noFloor(index: number, name: string, sensor: string | null): void {
    const path = ['bodies', index]
    if (sensor !== null) {
      this.add(
        'warning',
        'sensor-floor',
        path,
        `will fall through ${JSON.stringify(sensor)}, which only senses it, and nothing solid is below`,
        `let the pair of layers be 'solid', or give ${JSON.stringify(sensor)} a solid collider`,
      )
      return
    }
    this.add(
      'hint',
      'no-floor',
      path,
      `falls without end: nothing solid is below ${JSON.stringify(name)}`,
      'put something solid below it, set gravityScale or gravity to 0, or make it kinematic',
    )
  }

  /** A dynamic body whose mass nobody has thought of. */
  protected noMass(index: number, size: 'area' | 'volume'): void {
    this.add(
      'hint',
      'no-mass',
      ['bodies', index],
      `none of its colliders has ${size} and density, so it weighs 1 kg`,
      "give the body a 'mass', or a collider a density",
    )
  }

  /** Whether two colliders press on each other, by what the file says of them. */
  protected isSolid(one: C, other: C): boolean {
    const find = ({ body, index }: C): State | undefined =>
      this.byBody.get(body.name!)?.find((state) => state.index === index)
    const a = find(one)
    const b = find(other)
    return a !== undefined && b !== undefined && respond(a, b) === SOLID
  }

  private noForces(path: Path): void {
    this.add(
      'warning',
      'never-matches',
      [...path, 'over'],
      'no impact comes: of the solid pairs that it speaks of none has a dynamic body, and without one nothing presses',
      "wait for a closing speed: 'over': { speed }, or make one side dynamic",
    )
  }

  private narrow(response: 'solid' | 'sense', one: State, other: State): number {
    return RESPONSE_NAMES[respond(one, other)] === response ? SENSE : PASS
  }

  private cureOf(response: string | undefined, example: readonly [State, State] | null): string {
    if (example === null) return 'name other sides, or give a collider the layer or tag'
    if (response !== undefined) return "take 'response' out"
    const [one, other] = example.map((state) => this.layers.names(state.at >>> 0)[0])
    return `add a row to layers.pairs, as ${JSON.stringify([one, other, 'sense'])}`
  }

  /** The kinds that a side of a watch matches. */
  private matching(side: SceneSide): readonly Kind[] {
    if (side === '*') return this.kinds
    if (typeof side === 'string' || Array.isArray(side)) {
      const mask = this.layers.mask(...listOf(side))
      return this.kinds.filter((kind) => (kind.of.at & mask) !== 0)
    }
    if ('tag' in side) return kindsOf(this.byTag.get(side.tag) ?? [])
    const own = this.byBody.get(side.body) ?? []
    return kindsOf(own.filter((state) => side.collider === undefined || side.collider === state.index))
  }
}

/** Whether a body that is led moves at all. */
function moves(body: SceneBody): boolean {
  return (
    body.type === 'kinematic' &&
    (body.path !== undefined ||
      body.walk !== undefined ||
      [body.velocity ?? 0, body.spin ?? 0].flat().some((value) => value !== 0))
  )
}

/** Things by what they are found under, each in their order. */
function grouped<T>(all: readonly T[], keys: (each: T) => readonly string[]): Map<string, T[]> {
  const groups = new Map<string, T[]>()
  for (const each of all) {
    for (const key of keys(each)) {
      const group = groups.get(key)
      if (group === undefined) groups.set(key, [each])
      else group.push(each)
    }
  }
  return groups
}

/** The kinds of these states, in the order in which each first comes. */
function kindsOf(states: readonly State[]): Kind[] {
  const kinds = new Map<string, { of: State; another: State | null }>()
  for (const state of states) {
    const key = [state.body.type, state.fixed, state.at, state.press, state.meet].join()
    const kind = kinds.get(key)
    if (kind === undefined) kinds.set(key, { of: state, another: null })
    else if (kind.another === null && kind.of.body !== state.body) kind.another = state
  }
  return [...kinds.values()]
}

/** For each kind of one side and each of the other, two that are of different bodies, where there are such. */
function* meetings(a: readonly Kind[], b: readonly Kind[]): Generator<readonly [State, State]> {
  for (const one of a) {
    for (const other of b) {
      if (one.of.body !== other.of.body) yield [one.of, other.of]
      else if (other.another !== null) yield [one.of, other.another]
      else if (one.another !== null) yield [one.another, other.of]
    }
  }
}

function listOf(set: string | readonly string[]): readonly string[] {
  return typeof set === 'string' ? [set] : set
}

function respond(a: State, b: State): number {
  if (a.body === b.body || (a.fixed && b.fixed)) return PASS
  return masks(a.at, a.press, a.meet, b.at, b.press, b.meet)
}
