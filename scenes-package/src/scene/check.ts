/**
 * Finds the mistakes in a scene file before it runs: its form, the names and indexes it matches, and (`mistakes.ts`) what
 * can never do what it was made for.
 */

import { KeenError } from 'keen-sentry'
import type { Tiles } from 'keen-sentry/2d'
import { DYNAMIC_FIELDS, hint, limits, tileBehaviours } from 'keen-sentry/internal'
import { Finder2 } from './mistakes2d.ts'
import { Finder3 } from './mistakes3d.ts'
import { type Models, modelParts, modelShape } from './models.ts'
import type { SceneSide } from './parts.ts'
import { formProblems, type Problem, placeOf, refuse } from './problems.ts'
import {
  type Scene,
  type SceneAction,
  type SceneBody,
  type SceneCollider,
  type SceneJoint,
  sceneSchema,
} from './schema.ts'
import type { Scene2, SceneAction2, SceneBody2 } from './schema2d.ts'
import type { Scene3, SceneBody3, SceneModel } from './schema3d.ts'
import { sceneShape2 } from './shapes2d.ts'
import { rotation3, sceneShape3 } from './shapes3d.ts'

/**
 * All problems of a scene. Without an error it runs; warnings and hints are about what it will not do.
 * @param json the parsed file
 * @param models as `loadModels` gives them; without them nothing is said about the models of the scene
 */
export function check(json: unknown, models: Models | null = null): Problem[] {
  const scene = parse(json)
  if (Array.isArray(scene)) return scene
  const problems = checkNames(scene, models)
  if (problems.some((problem) => problem.level === 'error')) return problems
  if (scene.dimension === '2d') return silenced(scene, [...problems, ...new Finder2(scene).run()])
  // What comes from models cannot be judged without them.
  const untold = models === null && scene.bodies.some((body) => body.model !== undefined)
  return untold ? problems : silenced(scene, [...problems, ...new Finder3(scene, models ?? new Map()).run()])
}

/** Problems without those that the scene says are meant so; what silences nothing is told. */
function silenced({ silence = [] }: Scene, problems: readonly Problem[]): Problem[] {
  const isMeant = ({ code, place }: Problem): boolean =>
    silence.some((each) => each.code === code && each.place === place)
  const left = problems.filter((problem) => problem.level === 'error' || !isMeant(problem))
  for (const [index, { code, place }] of silence.entries()) {
    if (problems.some((problem) => problem.level !== 'error' && problem.code === code && problem.place === place))
      continue
    const near = problems.filter((problem) => problem.code === code).map((problem) => problem.place)
    left.push({
      level: 'hint',
      code: 'silences-nothing',
      place: placeOf(['silence', index]),
      message: `there is no ${JSON.stringify(code)} at ${JSON.stringify(place)}${near.length > 0 ? `; there is one at ${near.join(', ')}` : ''}`,
      cure: 'take it out',
    })
  }
  return left
}

/**
 * The scene of a parsed file.
 * @param dimension asks for a scene of that dimension; the other is an error
 * @throws KeenError `bad-scene`, naming every place, what was found there and what was expected
 */
export function readScene(json: unknown, dimension: '2d'): Scene2
export function readScene(json: unknown, dimension: '3d'): Scene3
export function readScene(json: unknown): Scene
export function readScene(json: unknown, dimension?: '2d' | '3d'): Scene {
  const scene = parse(json)
  if (Array.isArray(scene)) refuse(scene)
  else {
    refuse(checkNames(scene, null))
    if (dimension === undefined || scene.dimension === dimension) return scene
    throw new KeenError('bad-scene', `the scene is ${scene.dimension}, and a ${dimension} scene is wanted`)
  }
  return scene as never
}

/** The scene, or what is wrong with its form. */
function parse(json: unknown): Scene | Problem[] {
  const dimension = (json as { dimension?: unknown } | null | undefined)?.dimension
  const known = dimension === '2d' || dimension === '3d' ? dimension : null
  const parsed = sceneSchema.safeParse(json)
  return parsed.success ? parsed.data : formProblems(json, parsed.error.issues, known)
}

class Checker {
  readonly problems: Problem[] = []

  error(code: string, path: readonly PropertyKey[], message: string): void {
    this.problems.push({ level: 'error', code, place: placeOf(path), message })
  }

  warn(code: string, path: readonly PropertyKey[], message: string): void {
    this.problems.push({ level: 'warning', code, place: placeOf(path), message })
  }

  known(kind: string, value: string, all: readonly string[], path: readonly PropertyKey[]): boolean {
    if (all.includes(value)) return true
    this.error(`unknown-${kind}`, path, `no ${kind} is called ${JSON.stringify(value)}; ${hint(value, all)}`)
    return false
  }

  unique(kind: string, values: readonly (string | undefined)[], path: (index: number) => readonly PropertyKey[]): void {
    const first = new Map<string, number>()
    for (const [index, value] of values.entries()) {
      if (value === undefined) continue
      const before = first.get(value)
      if (before === undefined) first.set(value, index)
      else {
        const place = placeOf(path(before))
        this.error('duplicate-name', path(index), `a ${kind} is already called ${JSON.stringify(value)}, at ${place}`)
      }
    }
  }
}

function checkNames(scene: Scene, models: Models | null): Problem[] {
  const checker = new Checker()
  const layers = scene.layers.names
  const tags = scene.tags ?? []
  const bodies = scene.bodies.map((body) => body.name)
  checker.unique('layer', layers, (index) => ['layers', 'names', index])
  checker.unique('tag', tags, (index) => ['tags', index])
  checker.unique('body', bodies, (index) => ['bodies', index, 'name'])
  checker.unique(
    'ray',
    (scene.rays ?? []).map((ray) => ray.name),
    (index) => ['rays', index, 'name'],
  )
  checker.unique(
    'joint',
    (scene.joints ?? []).map((joint) => joint.name),
    (index) => ['joints', index, 'name'],
  )
  checker.unique(
    'watch',
    (scene.watches ?? []).map((watch) => watch.name),
    (index) => ['watches', index, 'name'],
  )
  for (const [index, layer] of layers.entries()) {
    if (layer === '*') checker.error('bad-value', ['layers', 'names', index], 'found "*", which stands for every layer')
  }

  for (const [index, row] of (scene.layers.pairs ?? []).entries()) {
    for (const side of [0, 1] as const) {
      if (row[side] !== '*') checker.known('layer', row[side], layers, ['layers', 'pairs', index, side])
    }
  }
  const layerSet = (set: string | readonly string[], path: readonly PropertyKey[]): void => {
    if (typeof set === 'string') checker.known('layer', set, layers, path)
    else for (const [index, layer] of set.entries()) checker.known('layer', layer, layers, [...path, index])
  }
  /** A body and, with an index, one of its colliders. */
  const bodyAndCollider = (name: string, collider: number | undefined, path: readonly PropertyKey[]): void => {
    if (!checker.known('body', name, bodies, [...path, 'body']) || collider === undefined) return
    const owner: SceneBody = scene.bodies[bodies.indexOf(name)]
    // What a model makes is counted only where it is there.
    const model = 'model' in owner ? owner.model : undefined
    if (model !== undefined && !(models?.has(model.file) && !(models.get(model.file) instanceof KeenError))) return
    const made = model === undefined ? 0 : modelParts(model, models!).length
    const own = (owner.colliders ?? []).reduce((sum, { shape }) => sum + countOf(shape), 0)
    const count = own + made
    if (collider < count) return
    const has = count === 0 ? 'no colliders' : count === 1 ? '1 collider' : `${count} colliders`
    checker.error(
      'bad-index',
      [...path, 'collider'],
      `found ${collider}, but ${JSON.stringify(name)} has ${has} (counted from 0)`,
    )
  }

  checkSpeeds(checker, scene)
  for (const [index, body] of scene.bodies.entries()) {
    checkBody(checker, scene, index, body, layerSet)
    checkForces(checker, index, scene.bodies[index])
    if (scene.dimension === '3d') checkSpace(checker, index, scene.bodies[index], scene.tags ?? [], layerSet, models)
  }
  for (const [index, action] of (scene.actions ?? []).entries()) {
    const path = ['actions', index]
    if ('joint' in action) {
      checkJointAction(checker, scene, action, path)
      continue
    }
    bodyAndCollider(action.body, 'collider' in action ? action.collider : undefined, path)
    if (action.do === 'layer') layerSet(action.layer, [...path, 'layer'])
    if (action.do === 'carve' || action.do === 'tile') {
      checkTileAction(checker, scene as Scene2, action, path)
      if (action.do === 'carve' && action.layer !== undefined) layerSet(action.layer, [...path, 'layer'])
    }
    if (action.do === 'type' && action.type === 'dynamic' && scene.dimension === '3d') {
      const owner = scene.bodies.find((body) => body.name === action.body)
      if (owner !== undefined && hasTriangles(owner)) checker.error('bad-shape', [...path, 'type'], TRIANGLES)
    }
    if (action.do === 'blast' && action.cover !== undefined) layerSet(action.cover, [...path, 'cover'])
  }
  for (const [index, joint] of (scene.joints ?? []).entries()) {
    checkJoint(checker, scene, joint, ['joints', index], bodies)
  }
  for (const [index, ray] of (scene.rays ?? []).entries()) {
    const path = ['rays', index]
    if (ray.body !== undefined) checker.known('body', ray.body, bodies, [...path, 'body'])
    if (ray.filter?.layers !== undefined) layerSet(ray.filter.layers, [...path, 'filter', 'layers'])
    for (const [at, name] of (ray.filter?.except ?? []).entries()) {
      checker.known('body', name, bodies, [...path, 'filter', 'except', at])
    }
  }
  const checkSide = (side: SceneSide, path: readonly PropertyKey[]): void => {
    if (side === '*') return
    if (typeof side === 'string' || Array.isArray(side)) layerSet(side, path)
    else if ('tag' in side) checker.known('tag', side.tag, tags, [...path, 'tag'])
    else bodyAndCollider(side.body, side.collider, path)
  }
  for (const [index, watch] of (scene.watches ?? []).entries()) {
    checkSide(watch.a, ['watches', index, 'a'])
    checkSide(watch.b, ['watches', index, 'b'])
    if (watch.kinds?.includes('impact') && watch.over === undefined) {
      checker.error('bad-value', ['watches', index], "tells of impacts, so it needs 'over': { impulse } or { speed }")
    }
    const impacts = watch.over !== undefined && (watch.kinds === undefined || watch.kinds.includes('impact'))
    if (impacts && watch.response === 'sense') {
      checker.error('bad-value', ['watches', index, 'response'], "is 'sense', but only solid pairs have impacts")
    }
  }
  return checker.problems
}

/** The limits of speeds grow with the unit: where a metre has less than one length, they are tighter than the form. */
function checkSpeeds(checker: Checker, scene: Scene): void {
  const unit = scene.unit ?? 1
  const bound = (value: number, most: number, path: readonly PropertyKey[]): void => {
    if (Math.abs(value) <= most * unit) return
    const expected = `a number from ${-most * unit} to ${most * unit}, for this 'unit'`
    checker.error('bad-value', path, `found ${value}, expected ${expected}`)
  }
  for (const [index, body] of scene.bodies.entries()) {
    for (const [axis, value] of (body.velocity ?? []).entries())
      bound(value, limits.SPEED, ['bodies', index, 'velocity', axis])
    for (const [at, collider] of (body.colliders ?? []).entries()) {
      const place = ['bodies', index, 'colliders', at]
      if ('surfaceSpeed' in collider && collider.surfaceSpeed !== undefined) {
        bound(collider.surfaceSpeed, limits.SPEED, [...place, 'surfaceSpeed'])
      }
      if (!('surfaceVelocity' in collider)) continue
      for (const [axis, value] of (collider.surfaceVelocity ?? []).entries()) {
        bound(value, limits.SPEED, [...place, 'surfaceVelocity', axis])
      }
    }
  }
  for (const [axis, value] of (scene.gravity ?? []).entries()) bound(value, limits.ACCELERATION, ['gravity', axis])
  if (scene.pushOut !== undefined) bound(scene.pushOut, limits.SPEED, ['pushOut'])
}

function checkBody(
  checker: Checker,
  scene: Scene,
  index: number,
  body: Scene['bodies'][number],
  layerSet: (set: string | readonly string[], path: readonly PropertyKey[]) => void,
): void {
  const path = ['bodies', index]
  for (const [at, collider] of (body.colliders ?? []).entries()) {
    layerSet(collider.layer, [...path, 'colliders', at, 'layer'])
    if (collider.solid !== undefined) layerSet(collider.solid, [...path, 'colliders', at, 'solid'])
    if (collider.sense !== undefined) layerSet(collider.sense, [...path, 'colliders', at, 'sense'])
    checkShape(checker, scene.dimension, collider, [...path, 'colliders', at, 'shape'])
    if (collider.shape.kind === 'tiles') {
      for (const [sign, { layer }] of Object.entries(collider.shape.kinds)) {
        if (layer !== undefined) layerSet(layer, [...path, 'colliders', at, 'shape', 'kinds', sign, 'layer'])
      }
    }
    if (collider.shape.kind === 'halfspace' && body.type !== 'static') {
      checker.error('bad-shape', [...path, 'colliders', at, 'shape'], 'a halfspace belongs on a static body')
    }
    for (const [tagAt, tag] of (collider.tags ?? []).entries()) {
      checker.known('tag', tag, scene.tags ?? [], [...path, 'colliders', at, 'tags', tagAt])
    }
  }
  if (body.type === 'static') {
    for (const field of ['velocity', 'spin', 'path', 'walk'] as const) {
      if (body[field] === undefined) continue
      checker.error(
        'static-moves',
        [...path, field],
        `a static body takes no ${field}; make it kinematic, or take it out`,
      )
    }
  }
  if (body.walk !== undefined || body.path?.onHit !== undefined) checkTravel(checker, index, body)
  if (body.path === undefined) return
  for (const field of ['velocity', 'spin'] as const) {
    if (body[field] === undefined) continue
    checker.error('two-motions', [...path, field], `a body with a path takes no ${field}; take one of the two out`)
  }
  const { points, loop } = body.path
  checkTimes(checker, points, [...path, 'path', 'points'])
  const first = points[0]
  const last = points[points.length - 1]
  if (loop === true && first.at.some((value, axis) => value !== last.at[axis])) {
    checker.error(
      'open-loop',
      [...path, 'path', 'points', points.length - 1, 'at'],
      `a loop must end where it begins, at [${first.at}]`,
    )
  }
}

/** Times must rise. */
function checkTimes(checker: Checker, all: readonly { readonly time: number }[], path: readonly PropertyKey[]): void {
  for (let at = 1; at < all.length; at++) {
    if (all[at].time > all[at - 1].time) continue
    const found = `found ${all[at].time}, expected more than ${all[at - 1].time}, the time before`
    checker.error('bad-value', [...path, at, 'time'], found)
  }
}

/** What a body needs that travels by itself. */
function checkTravel(checker: Checker, index: number, body: Scene['bodies'][number]): void {
  const path = ['bodies', index]
  for (const [at, { shape, sensor }] of (body.colliders ?? []).entries()) {
    if ((shape.kind !== 'mesh' && shape.kind !== 'heightfield') || sensor === true) continue
    const found = `a ${shape.kind} cannot be cast, so the body cannot travel: give it convex shapes, or lead it along its path without 'onHit'`
    checker.error('bad-shape', [...path, 'colliders', at, 'shape'], found)
  }
  if (body.walk === undefined) return
  for (const field of ['velocity', 'spin', 'path'] as const) {
    if (body[field] === undefined) continue
    checker.error('two-motions', [...path, field], `a body that walks takes no ${field}; take one of the two out`)
  }
  checkTimes(checker, body.walk.inputs, [...path, 'walk', 'inputs'])
}

/** What a joint holds, and whether that can be. */
function checkJoint(
  checker: Checker,
  scene: Scene,
  joint: SceneJoint,
  path: readonly PropertyKey[],
  bodies: readonly string[],
): void {
  const known = checker.known('body', joint.a, bodies, [...path, 'a'])
  const other = 'b' in joint ? joint.b : undefined
  if (other !== undefined && !checker.known('body', other, bodies, [...path, 'b'])) return
  if (!known) return
  if (other === joint.a) checker.error('bad-value', [...path, 'b'], `joins ${JSON.stringify(other)} with itself`)
  const type = (name: string | undefined): string => scene.bodies.find((body) => body.name === name)?.type ?? 'static'
  if (type(joint.a) === 'static' && type(other) === 'static') {
    const to = other === undefined ? 'the world' : JSON.stringify(other)
    const found = `joins ${JSON.stringify(joint.a)} and ${to}, which never move: make one of them dynamic, or take it out`
    checker.error('both-ends-static', path, found)
  }
  const limits =
    'limits' in joint
      ? joint.limits
      : joint.type === 'distance'
        ? joint
        : joint.type === 'ball'
          ? joint.twist
          : undefined
  if (limits?.min !== undefined && limits.max !== undefined && limits.min > limits.max) {
    checker.error(
      'bad-value',
      path,
      `'min' is ${limits.min}, which is more than 'max', ${limits.max}: the other way round`,
    )
  }
  if (joint.type === 'distance' && other === undefined && joint.atB === undefined) {
    checker.error('bad-value', path, "to the world it needs 'atB', a point of it")
  }
  if (joint.type === 'spring' && other === undefined && joint.atB === undefined) {
    checker.error('bad-value', path, "to the world it needs 'atB', a point of it")
  }
  for (const field of ['axis', 'turn'] as const) {
    const value = (joint as Record<string, unknown>)[field] as readonly number[] | undefined
    if (value?.every((each) => each === 0))
      checker.error('bad-value', [...path, field], 'is a direction, and must not be zero')
  }
  if (joint.type === 'spring' && joint.frequency === 0) {
    checker.error('bad-value', [...path, 'frequency'], 'must be more than 0: at 0 it pulls nobody')
  }
}

/** Whether what is to be done to a joint can be. */
function checkJointAction(
  checker: Checker,
  scene: Scene,
  action: Extract<SceneAction, { joint: string }>,
  path: readonly PropertyKey[],
): void {
  const joints = scene.joints ?? []
  const names = joints.map((joint) => joint.name)
  if (!checker.known('joint', action.joint, names, [...path, 'joint'])) return
  const { type } = joints[names.indexOf(action.joint)]
  const driven = type === 'hinge' || type === 'axle' || type === 'slide'
  if (action.do === 'aim' && type !== 'carry')
    checker.error('bad-value', path, `aims a '${type}', and only a 'carry' has a target`)
  if (action.do !== 'motor') return
  if (!driven) checker.error('bad-value', path, `drives a '${type}', which has no motor`)
  else if (action.motor !== null && 'force' in action.motor !== (type === 'slide')) {
    checker.error(
      'bad-value',
      [...path, 'motor'],
      `the motor of a '${type}' has a ${type === 'slide' ? 'force' : 'torque'}`,
    )
  }
}

const TRIANGLES =
  'triangles belong on static and kinematic bodies: a dynamic body takes the hull of their points, or a compound of hulls'

/** Whether a body of 3D has a mesh or a heightfield among its shapes. */
function hasTriangles({ colliders = [], model }: SceneBody3): boolean {
  const made = (kind: string): boolean => kind === 'mesh' || kind === 'heightfield'
  return (
    colliders.some(
      ({ shape }) =>
        made(shape.kind) || (shape.kind === 'compound' && shape.parts.some((part) => made(part.shape.kind))),
    ) ||
    (model?.nodes.some(({ shape }) => made(shape)) ?? false)
  )
}

/** What only dynamic bodies have, or do not have. */
function checkForces(checker: Checker, index: number, body: SceneBody2 | SceneBody3): void {
  const path = ['bodies', index]
  if (body.type !== 'dynamic') {
    for (const field of DYNAMIC_FIELDS) {
      if (body[field] === undefined) continue
      checker.error(
        'not-dynamic',
        [...path, field],
        `a ${body.type} body takes no ${field}: make it dynamic, or take it out`,
      )
    }
    return
  }
  for (const field of ['path', 'walk'] as const) {
    if (body[field] === undefined) continue
    checker.error('bad-value', [...path, field], `a dynamic body takes no ${field}: make it kinematic, or push it`)
  }
}

/** What only bodies of 3D have: rotations and models. */
function checkSpace(
  checker: Checker,
  index: number,
  body: SceneBody3,
  tags: readonly string[],
  layerSet: (set: string | readonly string[], path: readonly PropertyKey[]) => void,
  models: Models | null,
): void {
  const path = ['bodies', index]
  if (body.type === 'dynamic' && hasTriangles(body)) checker.error('bad-shape', [...path, 'type'], TRIANGLES)
  const turn = (rotation: SceneBody3['rotation'], more: readonly PropertyKey[]): void => {
    if (rotation === undefined) return
    const numbers = Array.isArray(rotation) ? rotation : rotation.axis
    if (numbers.some((value) => value !== 0)) rotation3(rotation)
    else checker.error('bad-value', [...path, ...more], 'a rotation needs an axis, or a quaternion, that is not zero')
  }
  turn(body.rotation, ['rotation'])
  for (const [at, collider] of (body.colliders ?? []).entries()) turn(collider.rotation, ['colliders', at, 'rotation'])
  for (const [at, point] of (body.path?.points ?? []).entries())
    turn(point.rotation, ['path', 'points', at, 'rotation'])
  if (body.model === undefined) return
  const place = [...path, 'model']
  for (const [at, rule] of body.model.nodes.entries()) {
    for (const field of ['layer', 'solid', 'sense'] as const) {
      const set = rule[field]
      if (set !== undefined) layerSet(set, [...place, 'nodes', at, field])
    }
    for (const [tagAt, tag] of (rule.tags ?? []).entries()) {
      checker.known('tag', tag, tags, [...place, 'nodes', at, 'tags', tagAt])
    }
  }
  if (models !== null) checkModel(checker, body.model, place, models)
}

function checkModel(checker: Checker, model: SceneModel, place: readonly PropertyKey[], models: Models): void {
  const file = models.get(model.file)
  if (file === undefined || file instanceof KeenError) {
    checker.error('bad-model', [...place, 'file'], file?.message ?? `${model.file} was not read`)
    return
  }
  for (const warning of file.warnings) checker.warn('model', [...place, 'file'], warning)
  const parts = modelParts(model, models)
  for (const [at, rule] of model.nodes.entries()) {
    if (parts.some((part) => part.index === at)) continue
    const names = [...new Set(file.nodes.map((node) => node.name))]
    const taken = parts.length > 0 ? ' and is not taken by a rule before' : ''
    checker.warn(
      'no-node',
      [...place, 'nodes', at, 'name'],
      `no node with triangles fits ${JSON.stringify(rule.name)}${taken}; ${hint(rule.name, names)}`,
    )
  }
  for (const part of parts) {
    try {
      modelShape(part)
    } catch (error) {
      if (!(error instanceof KeenError)) throw error
      const what = `${JSON.stringify(part.node.name)} makes no ${part.rule.shape}: ${error.message}`
      checker.error('bad-model', [...place, 'nodes', part.index], what)
    }
  }
}

/** The tiles of a shape, or null if it is none or makes none. */
function tilesOf(shape: SceneCollider['shape']): Tiles | null {
  if (shape.kind !== 'tiles') return null
  try {
    return sceneShape2(shape) as Tiles
  } catch (error) {
    if (error instanceof KeenError) return null
    throw error
  }
}

/** How many colliders a shape becomes. */
function countOf(shape: SceneCollider['shape']): number {
  const tiles = tilesOf(shape)
  return tiles === null ? 1 : tileBehaviours(tiles).length
}

/** Whether what is to be done to tiles can be. */
function checkTileAction(
  checker: Checker,
  scene: Scene2,
  action: Extract<SceneAction2, { do: 'carve' | 'tile' }>,
  path: readonly PropertyKey[],
): void {
  const owner = scene.bodies.find(({ name }) => name === action.body)
  if (owner === undefined) return
  const shape = (owner.colliders ?? []).map((each) => each.shape).find(({ kind }) => kind === 'tiles')
  if (shape?.kind !== 'tiles') {
    checker.error('no-tiles', [...path, 'body'], `${JSON.stringify(action.body)} has no tiles`)
    return
  }
  if (action.do === 'carve') {
    checkShape(checker, '2d', action, [...path, 'shape'])
    return
  }
  checker.known('kind', action.tile, ['.', ' ', ...Object.keys(shape.kinds)], [...path, 'tile'])
  const tiles = tilesOf(shape)
  if (tiles === null) return
  for (const [field, count] of [
    ['column', tiles.columns],
    ['row', tiles.rows],
  ] as const) {
    if (action[field] < count) continue
    checker.error('bad-index', [...path, field], `found ${action[field]}, but there are ${count} (counted from 0)`)
  }
}

/** What the numbers of a shape make, or why they make none. */
function checkShape(
  checker: Checker,
  dimension: Scene['dimension'],
  { shape }: Pick<SceneCollider, 'shape'>,
  path: readonly PropertyKey[],
): void {
  try {
    if (dimension === '2d') sceneShape2(shape as Parameters<typeof sceneShape2>[0])
    else sceneShape3(shape as Parameters<typeof sceneShape3>[0])
  } catch (error) {
    if (!(error instanceof KeenError)) throw error
    checker.error('bad-shape', path, error.message)
  }
}
