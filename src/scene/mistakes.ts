/**
 * Mistakes of a scene that runs but will not do what it was made for: masks that can never match, things that can never
 * report, motions that lead nowhere. Each with its place and its cure. Asked only of scenes whose names are right.
 */

import { type AskingShape2, type Collider2, distance, type Pose2, type Shape2, type Vec2 } from '../2d/index.ts'
import { masks, PASS, RESPONSE_NAMES, SENSE, SOLID } from '../core/filter.ts'
import { defineLayers, type Layers } from '../core/index.ts'
import { cosSin } from '../core/maths.ts'
import { type SceneKinds, ScenePlayer } from './play.ts'
import { type Problem, placeOf } from './problems.ts'
import type { Scene, SceneBody, SceneCollider, SceneSide } from './schema.ts'
import { sceneShape, vector } from './shapes.ts'

/** Metres up to which two that overlap only touch. */
const TOUCHING = 1e-6
/** Metres that a fall is followed. */
const FALL = 1e4

/** A collider of the scene in one of the states that it is in at some time. */
interface State {
  readonly body: SceneBody
  readonly bodyIndex: number
  readonly collider: SceneCollider
  readonly index: number
  readonly at: number
  readonly press: number
  readonly meet: number
}

type Path = readonly PropertyKey[]
type Part = Collider2<SceneKinds>

/** All such mistakes, in the order of the file's sections. */
export function findMistakes(scene: Scene): Problem[] {
  return new Finder(scene).run()
}

class Finder {
  private readonly scene: Scene
  private readonly layers: Layers
  private readonly states: readonly State[]
  /** The scene before its first tick. */
  private readonly player: ScenePlayer
  private readonly problems: Problem[] = []

  constructor(scene: Scene) {
    this.scene = scene
    this.player = new ScenePlayer(scene)
    const { names, otherwise, pairs } = scene.layers
    this.layers = defineLayers(names, { otherwise, pairs })
    this.states = scene.bodies.flatMap((body, bodyIndex) =>
      (body.colliders ?? []).flatMap((collider, index) => this.statesOf(body, bodyIndex, collider, index)),
    )
  }

  run(): Problem[] {
    this.pairRows()
    for (const [index, body] of this.scene.bodies.entries()) this.body(body, index)
    this.startOverlaps()
    this.actions()
    this.rays()
    this.watches()
    return this.problems
  }

  private add(level: Problem['level'], code: string, path: Path, message: string, cure: string): void {
    this.problems.push({ level, code, place: placeOf(path), message, cure })
  }

  /** The words of a collider as it starts, and after each action that puts it on another layer. */
  private statesOf(body: SceneBody, bodyIndex: number, collider: SceneCollider, index: number): State[] {
    const { layers } = this
    const state = (set: string | readonly string[], byHand: boolean): State => {
      const at = layers.mask(...listOf(set)) | 0
      const solid = byHand && collider.solid !== undefined ? layers.mask(...collider.solid) : layers.solidBits(at)
      const sense = byHand && collider.sense !== undefined ? layers.mask(...collider.sense) : layers.senseBits(at)
      const sensor = collider.sensor === true || (solid === 0 && sense !== 0)
      return { body, bodyIndex, collider, index, at, press: sensor ? 0 : solid, meet: solid | sense }
    }
    const later = (this.scene.actions ?? []).flatMap((action) => {
      const meant = action.do === 'layer' && action.body === body.name
      return meant && (action.collider === undefined || action.collider === index) ? [state(action.layer, false)] : []
    })
    return [state(collider.layer, true), ...later]
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
    const colliders = body.colliders ?? []
    if (colliders.length === 0) {
      this.add(
        'warning',
        'no-collider',
        path,
        `${JSON.stringify(body.name)} has no collider: nothing meets it`,
        'give it a collider, or take it out',
      )
    }
    for (const [at, collider] of colliders.entries()) {
      for (const field of ['solid', 'sense'] as const) {
        if (collider[field] !== undefined) this.empty(collider[field], [...path, 'colliders', at, field])
      }
      const twin = colliders.findIndex((each) => sameCollider(each, collider))
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
    if (body.type === 'dynamic') {
      this.floor(body, index)
      this.weight(body, index)
    }
    if (body.type === 'kinematic') {
      this.motion(body, index)
      this.speed(body, index)
    }
  }

  /** Words by hand that want to meet somebody who does not want to meet them. */
  private oneSided(body: SceneBody, index: number): void {
    for (const [at, collider] of (body.colliders ?? []).entries()) {
      if (collider.solid === undefined && collider.sense === undefined) continue
      const own = this.states.find((state) => state.body === body && state.index === at)!
      for (const other of this.states) {
        if (other.body === body || respond(own, other) !== PASS) continue
        if ((other.at & own.meet) === 0 || (own.at & other.meet) !== 0) continue
        const field = collider.solid !== undefined ? 'solid' : 'sense'
        const layer = this.layers.names((other.at & own.meet) >>> 0)[0]
        this.add(
          'warning',
          'one-sided',
          ['bodies', index, 'colliders', at, field],
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
      (body.velocity !== undefined && (body.velocity[0] !== 0 || body.velocity[1] !== 0)) ||
      (body.spin !== undefined && body.spin !== 0) ||
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
    const legs = this.legs(body)
    const rate = this.scene.rate ?? 60
    for (const state of this.states) {
      if (state.body !== body) continue
      const own = thickness(state.collider)
      for (const other of this.states) {
        if (other.body.type !== 'static' || respond(state, other) !== SOLID) continue
        const thin = thickness(other.collider)
        for (const { from, by, seconds } of legs) {
          const step = Math.hypot(by.x, by.y) / (seconds * rate)
          if (own + thin >= step) continue
          const target = this.player.world.find(other.body.name)!.colliders[other.index]
          if (!this.player.world.raycast.any({ from, by }, { where: (collider) => collider === target })) continue
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

  /** The straight ways of a body's origin over the whole scene. */
  private legs(body: SceneBody): { from: Vec2; by: Vec2; seconds: number }[] {
    if (body.path === undefined) {
      const [x, y] = body.velocity ?? [0, 0]
      const seconds = this.player.ticks / (this.scene.rate ?? 60)
      return [{ from: vector(body.at ?? [0, 0]), by: { x: x * seconds, y: y * seconds }, seconds }]
    }
    return body.path.points.slice(1).map((point, at) => {
      const before = body.path!.points[at]
      return {
        from: vector(before.at),
        by: { x: point.at[0] - before.at[0], y: point.at[1] - before.at[1] },
        seconds: point.time - before.time,
      }
    })
  }

  private startOverlaps(): void {
    const names = this.scene.bodies.map((body) => body.name)
    for (const body of this.player.world.bodies()) {
      for (const met of body.overlapping()) {
        if (met.response !== 'solid' || met.body.serial < body.serial) continue
        const depth = depthOf(met.mine, met.other)
        if (depth < TOUCHING) continue
        this.add(
          'hint',
          'start-overlap',
          ['bodies', names.indexOf(met.body.name!)],
          `starts ${Number(depth.toPrecision(2))} m deep within ${JSON.stringify(body.name)} (colliders ${met.other.index} and ${met.mine.index}), and the two are solid to each other${
            body.type === 'dynamic' || met.body.type === 'dynamic' ? ': they will be pushed apart' : ''
          }`,
          'move one of them, or let the pair sense or pass',
        )
        break
      }
    }
  }

  /** A dynamic body that falls, and that nothing solid is below: on a sensor, or on nothing at all. */
  private floor(body: SceneBody, index: number): void {
    const { world } = this.player
    const { x, y } = world.gravity
    const scale = body.gravityScale ?? 1
    const length = Math.sqrt(x * x + y * y) * Math.abs(scale)
    if (length === 0 || body.locks?.y === true || body.locks?.x === true) return
    const mover = world.find(body.name)!
    const fall = { x: (x * scale * FALL) / length, y: (y * scale * FALL) / length }
    let sensor: Part | null = null
    for (const collider of mover.colliders) {
      for (const shape of askingParts(collider.shape)) {
        const { at: from, angle } = poseOf(collider)
        const to = { x: from.x + fall.x, y: from.y + fall.y }
        for (const hit of world.shapecast.all(
          { shape: shape as AskingShape2, from, to, angle },
          { as: collider, response: 'any', except: mover },
        )) {
          if (hit.body.type === 'dynamic') continue
          if (respondBetween(this.states, collider, hit.collider) === SOLID) return
          sensor ??= hit.collider
        }
      }
    }
    if (mover.colliders.length === 0) return
    if (sensor !== null) {
      this.add(
        'warning',
        'sensor-floor',
        ['bodies', index],
        `will fall through ${JSON.stringify(sensor.body.name)}, which only senses it, and nothing solid is below`,
        `let the pair of layers be 'solid', or give ${JSON.stringify(sensor.body.name)} a solid collider`,
      )
    } else {
      this.add(
        'hint',
        'no-floor',
        ['bodies', index],
        `falls without end: nothing solid is below ${JSON.stringify(body.name)}`,
        'put something solid below it, set gravityScale or gravity to 0, or make it kinematic',
      )
    }
  }

  /** A dynamic body whose mass nobody has thought of. */
  private weight(body: SceneBody, index: number): void {
    if (body.mass !== undefined || (body.colliders ?? []).length === 0) return
    const mover = this.player.world.find(body.name)!
    const light = mover.colliders.every((each) => each.sensor || each.density === 0 || each.shape.area === 0)
    if (!light) return
    this.add(
      'hint',
      'no-mass',
      ['bodies', index],
      'none of its colliders has area and density, so it weighs 1 kg',
      "give the body a 'mass', or a collider a density",
    )
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
    if ('tag' in side) return state.collider.tags?.includes(side.tag) === true
    return side.body === state.body.name && (side.collider === undefined || side.collider === state.index)
  }
}

function listOf(set: string | readonly string[]): readonly string[] {
  return typeof set === 'string' ? [set] : set
}

function respond(a: State, b: State): number {
  if (a.body === b.body || (a.body.type === 'static' && b.body.type === 'static')) return PASS
  return masks(a.at, a.press, a.meet, b.at, b.press, b.meet)
}

function sameCollider(a: SceneCollider, b: SceneCollider): boolean {
  return JSON.stringify(a) === JSON.stringify(b)
}

/** The least extent of a collider's shape: what a motion has to bridge in one tick to pass it. */
function thickness(collider: SceneCollider): number {
  const { bounds } = sceneShape(collider.shape)
  if (collider.shape.kind === 'polyline' || collider.shape.kind === 'segment') return 0
  return Math.min(bounds.max.x - bounds.min.x, bounds.max.y - bounds.min.y)
}

function tidy(metres: number): number {
  return Number(metres.toPrecision(3))
}

/** Where a collider is in the world. */
function poseOf({ body, at, angle }: Part): Pose2 {
  const turn = Float64Array.of(body.angle, 0, 0)
  cosSin(turn, 0)
  const [, cos, sin] = turn
  const place = { x: body.at.x + cos * at.x - sin * at.y, y: body.at.y + sin * at.x + cos * at.y }
  return { at: place, angle: body.angle + angle }
}

function depthOf(one: Part, other: Part): number {
  return -distance(one.shape, poseOf(one), other.shape, poseOf(other)).distance
}

/** The shapes by which a shape can ask: none for a polyline. */
function askingParts(shape: Shape2): Shape2[] {
  return shape.kind === 'polyline' || shape.kind === 'halfspace' ? [] : [shape]
}

function respondBetween(states: readonly State[], one: Part, other: Part): number {
  const find = (each: Part): State | undefined =>
    states.find((state) => state.body.name === each.body.name && state.index === each.index)
  const a = find(one)
  const b = find(other)
  return a === undefined || b === undefined ? PASS : respond(a, b)
}
