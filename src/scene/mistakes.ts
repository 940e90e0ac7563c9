/**
 * Mistakes of a scene that runs but will not do what it was made for: masks that can never match, things that can never
 * report, motions that lead nowhere. Each with its place and its cure. Asked only of scenes whose names are right.
 */
import { masks, PASS, RESPONSE_NAMES, SENSE, SOLID } from '../core/filter.ts'
import { defineLayers, type Layers } from '../core/index.ts'
import type { SceneSide } from './parts.ts'
import { type Problem, placeOf } from './problems.ts'
import type { Scene, SceneBody } from './schema.ts'

/** Metres up to which two that overlap only touch. */
const TOUCHING = 1e-6

/** How a collider of the scene is filtered, and where in its body the file says so. */
interface Filtered {
  readonly layer: string | readonly string[]
  readonly tags?: readonly string[]
  readonly solid?: readonly string[]
  readonly sense?: readonly string[]
  readonly sensor?: boolean
}

export interface Part {
  readonly spec: Filtered
  readonly path: Path
}

/** A straight way of a body's origin. */
export interface Leg<V> {
  readonly from: V
  readonly by: V
  /** Metres and seconds of the whole way. */
  readonly length: number
  readonly seconds: number
}

/** What is asked of the world before its first tick. */
interface Standing<C> {
  readonly body: { readonly name: string | null; readonly type: string }
  readonly mine: C & { readonly index: number }
  readonly other: C & { readonly index: number }
  readonly depth: number
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
}

export type Path = readonly PropertyKey[]

/** Finds the mistakes that both dimensions know; a dimension adds its geometry and its own. */
export abstract class Finder<V, C> {
  private readonly scene: Scene
  private readonly layers: Layers
  protected states: readonly State[] = []
  private readonly problems: Problem[] = []

  constructor(scene: Scene) {
    this.scene = scene
    const { names, otherwise, pairs } = scene.layers
    this.layers = defineLayers(names, { otherwise, pairs })
  }

  /** The colliders of a body in the order of the world's. */
  protected abstract parts(index: number): readonly Part[]
  /** The straight ways of a body's origin over the whole scene. */
  protected abstract legs(index: number): readonly Leg<V>[]
  /** The least extent of a collider's shape: what a motion has to bridge in one tick to pass it. */
  protected abstract thickness(state: State): number
  /** Whether a leg leads through a collider. */
  protected abstract crosses(leg: Leg<V>, state: State): boolean
  /** Who overlaps whom before the first tick, solid to each other: each pair of bodies once, by the age of the younger. */
  protected abstract standing(): Iterable<Standing<C> & { readonly name: string }>
  /** What only bodies of this dimension do wrong. */
  protected abstract ownMistakes(body: SceneBody, index: number): void

  run(): Problem[] {
    this.states = this.scene.bodies.flatMap((body, bodyIndex) =>
      this.parts(bodyIndex).flatMap((part, index) => this.statesOf(body, bodyIndex, part, index)),
    )
    this.pairRows()
    for (const [index, body] of this.scene.bodies.entries()) this.body(body, index)
    this.startOverlaps()
    this.actions()
    this.rays()
    this.watches()
    return this.problems
  }

  protected add(level: Problem['level'], code: string, path: Path, message: string, cure: string): void {
    this.problems.push({ level, code, place: placeOf(path), message, cure })
  }

  /** The words of a collider as it starts, and after each action that puts it on another layer. */
  private statesOf(body: SceneBody, bodyIndex: number, part: Part, index: number): State[] {
    const { layers } = this
    const { spec } = part
    const state = (set: string | readonly string[], byHand: boolean): State => {
      const at = layers.mask(...listOf(set)) | 0
      const solid = byHand && spec.solid !== undefined ? layers.mask(...spec.solid) : layers.solidBits(at)
      const sense = byHand && spec.sense !== undefined ? layers.mask(...spec.sense) : layers.senseBits(at)
      const sensor = spec.sensor === true || (solid === 0 && sense !== 0)
      return { body, bodyIndex, part, index, at, press: sensor ? 0 : solid, meet: solid | sense }
    }
    const later = (this.scene.actions ?? []).flatMap((action) => {
      const meant = action.do === 'layer' && action.body === body.name
      return meant && (action.collider === undefined || action.collider === index) ? [state(action.layer, false)] : []
    })
    return [state(spec.layer, true), ...later]
  }

  private occupied(layer: string): boolean {
    const bit = this.layers.bit(layer)
    return this.states.some((state) => (state.at & bit) !== 0)
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
    if (parts.length === 0) {
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
    if (body.type === 'kinematic') {
      this.motion(body, index)
      this.speed(body, index)
    }
  }

  /** Words by hand that want to meet somebody who does not want to meet them. */
  private oneSided(body: SceneBody, index: number): void {
    for (const [at, { spec, path }] of this.parts(index).entries()) {
      if (spec.solid === undefined && spec.sense === undefined) continue
      const own = this.states.find((state) => state.body === body && state.index === at)!
      for (const other of this.states) {
        if (other.body === body || respond(own, other) !== PASS) continue
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
    const moves =
      body.path !== undefined ||
      [body.velocity ?? 0, body.spin ?? 0].flat().some((value) => value !== 0) ||
      (this.scene.actions ?? []).some((action) => action.body === body.name && action.do === 'teleport')
    if (moves) return
    const own = this.states.filter((state) => state.body === body)
    const needed = this.states.some(
      (other) => other.body.type === 'static' && own.some((state) => respond(state, other) !== PASS),
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

  /** A motion so fast that the body is before an obstacle in one tick and behind it in the next. */
  private speed(body: SceneBody, index: number): void {
    const legs = this.legs(index)
    const rate = this.scene.rate ?? 60
    for (const state of this.states) {
      if (state.body !== body) continue
      const own = this.thickness(state)
      for (const other of this.states) {
        if (other.body.type !== 'static' || respond(state, other) !== SOLID) continue
        const thin = this.thickness(other)
        for (const leg of legs) {
          const step = leg.length / (leg.seconds * rate)
          if (own + thin >= step || !this.crosses(leg, other)) continue
          this.add(
            'warning',
            'too-fast',
            ['bodies', index, body.path === undefined ? 'velocity' : 'path'],
            `${JSON.stringify(body.name)} moves ${tidy(step)} m a tick, and can pass ${JSON.stringify(other.body.name)} (${tidy(thin)} m thick) without touching it: solid pairs of kinematic bodies are not swept`,
            `move it slower, raise 'rate', or make the obstacle thicker`,
          )
          return
        }
      }
    }
  }

  private startOverlaps(): void {
    const names = this.scene.bodies.map((body) => body.name)
    const told = new Set<string>()
    for (const { name, body, mine, other, depth } of this.standing()) {
      if (depth < TOUCHING || told.has(name)) continue
      told.add(name)
      const type = this.scene.bodies[names.indexOf(name)].type
      this.add(
        'hint',
        'start-overlap',
        ['bodies', names.indexOf(body.name!)],
        `starts ${Number(depth.toPrecision(2))} m deep within ${JSON.stringify(name)} (colliders ${other.index} and ${mine.index}), and the two are solid to each other${
          type === 'dynamic' || body.type === 'dynamic' ? ': they will be pushed apart' : ''
        }`,
        'move one of them, or let the pair sense or pass',
      )
    }
  }

  private actions(): void {
    const removed = new Map<string, number>()
    const actions = (this.scene.actions ?? []).map((action, index) => ({ action, index }))
    actions.sort((a, b) => a.action.time - b.action.time)
    for (const { action, index } of actions) {
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
    for (const [index, ray] of (this.scene.rays ?? []).entries()) {
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
      const a = this.states.filter((state) => this.matches(watch.a, state))
      const b = this.states.filter((state) => this.matches(watch.b, state))
      let fixed = 0
      let strongest: number = PASS
      let pairs = 0
      let example: readonly [State, State] | null = null
      for (const one of a) {
        for (const other of b) {
          if (one.body === other.body) continue
          pairs++
          if (one.body.type === 'static' && other.body.type === 'static') fixed++
          else {
            example ??= [one, other]
            strongest = Math.max(
              strongest,
              watch.response === undefined ? respond(one, other) : this.narrow(watch.response, one, other),
            )
          }
        }
      }
      if (strongest !== PASS) continue
      if (pairs > 0 && fixed === pairs) {
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
        pairs === 0
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

  private narrow(response: 'solid' | 'sense', one: State, other: State): number {
    return RESPONSE_NAMES[respond(one, other)] === response ? SENSE : PASS
  }

  private cureOf(response: string | undefined, example: readonly [State, State] | null): string {
    if (example === null) return 'name other sides, or give a collider the layer or tag'
    if (response !== undefined) return "take 'response' out"
    const [one, other] = example.map((state) => this.layers.names(state.at >>> 0)[0])
    return `add a row to layers.pairs, as ${JSON.stringify([one, other, 'sense'])}`
  }

  private matches(side: SceneSide, state: State): boolean {
    if (side === '*') return true
    if (typeof side === 'string' || Array.isArray(side)) {
      return (state.at & this.layers.mask(...listOf(side))) !== 0
    }
    if ('tag' in side) return state.part.spec.tags?.includes(side.tag) === true
    return side.body === state.body.name && (side.collider === undefined || side.collider === state.index)
  }
}

function listOf(set: string | readonly string[]): readonly string[] {
  return typeof set === 'string' ? [set] : set
}

export function respond(a: State, b: State): number {
  if (a.body === b.body || (a.body.type === 'static' && b.body.type === 'static')) return PASS
  return masks(a.at, a.press, a.meet, b.at, b.press, b.meet)
}

function tidy(metres: number): number {
  return Number(metres.toPrecision(3))
}
