/**
 * Bad values at every public function, method, property and option of both dimensions. Each is tried in every place of a call that
 * would be right: it is taken or refused with a KeenError, never with an error of the engine; what was refused leaves nothing behind, and
 * after either the world still runs, with finite poses and books that agree. The table must name all there is, so that what comes
 * new is attacked at once.
 */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import * as flat from '../../src/2d/index.ts'
import * as worlds2 from '../../src/2d/world.ts'
import * as solid from '../../src/3d/index.ts'
import * as worlds3 from '../../src/3d/world.ts'
import { checkBooks } from '../helpers/invariants.ts'

// biome-ignore lint/suspicious/noExplicitAny: the attack passes anything anywhere
type Any = any

const BAD: readonly unknown[] = [
  null,
  undefined,
  Number.NaN,
  Infinity,
  -Infinity,
  -1,
  0,
  1e-320,
  1e-170,
  1e160,
  1e308,
  1.5,
  '',
  'x',
  '__proto__',
  true,
  [],
  [null],
  [Number.NaN, 1],
  {},
  { x: Number.NaN, y: 0, z: 0 },
  { length: 1e15 },
  () => null,
  Symbol('s'),
  10n,
  new Date(0),
  new Float64Array(1),
  Object.create(null),
]

/** One attack of so many, others at each place; all of them in a long run. */
const EACH = process.env['KEEN_LONG'] === '1' ? 1 : 18

/** A place in the arguments of a call, and the call with something else there. */
function* variants(value: unknown, depth: number): Generator<unknown> {
  yield* BAD
  if (depth === 0 || typeof value !== 'object' || value === null || ArrayBuffer.isView(value)) return
  // Shapes, handles and worlds are attacked by their own functions.
  if ('pieces' in value || 'slot' in value || 'raycast' in value || value instanceof ArrayBuffer) return
  if (Array.isArray(value)) {
    for (const [index, each] of value.entries()) {
      for (const other of variants(each, depth - 1)) yield value.map((old, i) => (i === index ? other : old))
    }
    return
  }
  if (Object.getPrototypeOf(value) !== Object.prototype) return
  yield { ...value, unheardOf: 1 }
  for (const key of Object.keys(value)) {
    const { [key]: gone, ...rest } = value as Record<string, unknown>
    yield rest
    for (const other of variants(gone, depth - 1)) yield { ...value, [key]: other }
  }
}

interface Scene {
  world: Any
  /** Dynamic where there are such bodies; and its collider. */
  body: Any
  mover: Any
  still: Any
  collider: Any
  watch: Any
  hook: Any
}

type Calls = Record<string, (scene: Scene) => [call: (...args: Any[]) => unknown, ...args: unknown[]]>

const p2 = (x: number, y: number) => ({ x, y })
const p3 = (x: number, y: number, z: number) => ({ x, y, z })
const upright = { x: 0, y: 0, z: 0, w: 1 }
const LAYERS = flat.defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

function scene2(): Scene {
  const world: Any = flat.createWorld({ layers: LAYERS, tags: ['lamp'], advise: true, history: 4 })
  const put = (spec: Any) => world.add(spec)
  const still = put({ type: 'static', at: p2(0, -1), colliders: [{ shape: flat.box(20, 2), layer: 'rock' }] })
  const body = put({
    type: 'dynamic',
    name: 'crate',
    at: p2(0, 0.5),
    colliders: [{ shape: flat.box(1, 1), layer: 'craft' }],
  })
  const mover = put({ type: 'kinematic', at: p2(3, 2), colliders: [{ shape: flat.circle(1), layer: 'zone' }] })
  const watch = world.watch('craft', 'rock', { begin() {} })
  const hook = world.decide('craft', 'zone', () => 'sense')
  return { world, body, mover, still, collider: body.colliders[0], watch, hook }
}

function scene3(): Scene {
  const world: Any = solid.createWorld({ layers: LAYERS, tags: ['lamp'], advise: true, history: 4 })
  const put = (spec: Any) => world.add(spec)
  const still = put({ type: 'static', at: p3(0, -1, 0), colliders: [{ shape: solid.box(20, 2, 20), layer: 'rock' }] })
  const body = put({
    type: 'dynamic',
    name: 'crate',
    at: p3(0, 0.5, 0),
    colliders: [{ shape: solid.box(1, 1, 1), layer: 'craft' }],
  })
  const mover = put({ type: 'kinematic', at: p3(3, 2, 0), colliders: [{ shape: solid.sphere(1), layer: 'zone' }] })
  const watch = world.watch('craft', 'rock', { begin() {} })
  const hook = world.decide('craft', 'zone', () => 'sense')
  return { world, body, mover, still, collider: body.colliders[0], watch, hook }
}

const filter = (s: Scene) => ({
  layers: ['rock'],
  sensors: true,
  except: s.mover,
  where: () => true,
  inside: 'hit',
})
const as = () => ({ as: 'craft', response: 'any' })

const colliderSpec2 = {
  shape: flat.circle(1),
  layer: ['craft'],
  at: p2(0, 0),
  angle: 0.1,
  tags: ['lamp'],
  sensor: false,
  enabled: true,
  solidBits: ['rock'],
  senseBits: 2,
  density: 1,
  friction: 0.5,
  restitution: 0.1,
  surfaceSpeed: 0,
  oneWay: p2(0, 1),
}
const bodySpec2 = {
  type: 'dynamic',
  at: p2(5, 5),
  angle: 0.3,
  name: 'new',
  colliders: [colliderSpec2],
  enabled: true,
  velocity: p2(1, 0),
  spin: 0.1,
  mass: 2,
  inertia: 1,
  gravityScale: 1,
  damping: 0,
  spinDamping: 0.1,
  locks: { x: false, y: false, turn: true },
  sweep: 'all',
  sleeps: true,
  data: 1,
}
const colliderSpec3 = {
  shape: solid.sphere(1),
  layer: ['craft'],
  at: p3(0, 0, 0),
  rotation: upright,
  tags: ['lamp'],
  sensor: false,
  enabled: true,
  solidBits: ['rock'],
  senseBits: 2,
  density: 1,
  friction: 0.5,
  restitution: 0.1,
  surfaceVelocity: p3(0, 0, 1),
  oneWay: p3(0, 1, 0),
}
const bodySpec3 = {
  type: 'dynamic',
  at: p3(5, 5, 0),
  rotation: upright,
  name: 'new',
  colliders: [colliderSpec3],
  enabled: true,
  velocity: p3(1, 0, 0),
  spin: p3(0, 0.1, 0),
  mass: 2,
  inertia: { xx: 1, yy: 1, zz: 1, xy: 0.1, xz: 0, yz: 0 },
  gravityScale: 1,
  damping: 0,
  spinDamping: 0.1,
  locks: { x: false, y: false, z: true, turn: { x: false, y: true, z: false } },
  sweep: 'all',
  sleeps: true,
  data: 1,
}

/** What both dimensions have, with points and poses of the dimension. */
function shared(
  v: (x: number, y: number) => Any,
  pose: Any,
  lib: Any,
  ray: Any,
  ball: Any,
  spec: Any,
  piece: Any,
): Calls {
  const motion = { shape: ball, from: v(-5, 1), to: v(5, 1) }
  const place = { shape: ball, at: v(0, 0.5), depth: true }
  const near = { point: v(0, 3), reach: 4 }
  const nearShape = { shape: ball, at: v(0, 3), reach: 4 }
  const rays = new Float64Array(lib === flat ? 4 : 6)
  const boxes = new Float64Array(lib === flat ? 4 : 6)
  const points = new Float64Array(lib === flat ? 3 : 4)
  const about = lib === flat ? {} : { axis: v(0, 1) }
  const wheel = lib === flat ? {} : { turn: { x: 0, y: 0, z: 1 } }
  const limits = { min: -1, max: 2 }
  const motor = { speed: 1, torque: 5 }
  const soft = { frequency: 3, damping: 0.5 }
  const held = { name: 'j', enabled: true, touching: true, breaks: { force: 1e6, torque: 1e6 }, end() {} }
  /** A joint of a type between the two movers, attacked in all its fields; and one whose setters are. */
  const join =
    (spec: object): ((s: Scene) => [call: (x: Any) => unknown, spec: unknown]) =>
    (s) => [(x) => s.world.join(x), { a: s.body, ...held, ...spec }]
  const setting =
    (spec: object, name: string, value: unknown): ((s: Scene) => [call: (x: Any) => unknown, value: unknown]) =>
    (s) => {
      const joint = s.world.join({ a: s.body, ...spec })
      return [(x) => (joint[name] = x), value]
    }
  const ofHinge = { type: 'hinge', at: v(0, 1), ...about, motor }
  const ofSpring = { type: 'spring', atB: v(0, 3) }
  const ofHand = { type: 'carry', target: pose }
  return {
    'world.add': (s) => [(x) => s.world.add(x), spec],
    'world.addAll': (s) => [(x) => s.world.addAll(x), [spec]],
    'world.watch': (s) => [
      (a, b, c, d) => s.world.watch(a, b, c, d),
      'craft',
      { tag: 'lamp' },
      { begin() {}, during() {}, end() {}, impact() {} },
      {
        per: 'body',
        response: 'solid',
        once: false,
        kinds: ['begin', 'impact'],
        over: { impulse: 4 },
        key: 'k',
        observer: false,
      },
    ],
    'world.watch of handles': (s) => [(a, b) => s.world.watch(a, b), s.body, s.collider],
    'world.decide': (s) => [
      (a, b, c, d) => s.world.decide(a, b, c, d),
      ['craft'],
      '*',
      () => 'solid',
      { ask: 'tick', key: 'k' },
    ],
    'world.decide answers': (s) => [(answer) => s.world.decide('craft', 'rock', () => answer, { ask: 'tick' }), 'pass'],
    'world.advice': (s) => [() => s.world.advice()],
    'world.explain': (s) => [(a, b) => String(s.world.explain(a, b)), s.body, s.still],
    'world.find': (s) => [(x) => s.world.find(x), 'crate'],
    'world.tagged': (s) => [(x) => s.world.tagged(x), 'lamp'],
    'world.setPair': (s) => [(a, b, c) => s.world.setPair(a, b, c), 'craft', '*', 'sense'],
    'world.events': (s) => [(x) => s.world.events(x), { per: 'collider' }],
    'world.step': (s) => [(x) => s.world.step(x), { quiet: true }],
    'world.snapshot': (s) => [(x) => s.world.snapshot(x), s.world.snapshot()],
    'world.restore': (s) => [(x, y) => s.world.restore(x, y), s.world.snapshot(), { tell: true }],
    'world.restore, of bytes': (s) => [(x, y) => s.world.restore(x, y), s.world.save(), { tell: true, data: () => 1 }],
    'world.save': (s) => [(x) => s.world.save(x), { data: () => 1 }],
    'world.past': (s) => [(x) => s.world.past(x), 0],
    'world.hash': (s) => [() => s.world.hash()],
    'world.bodies': (s) => [(x) => s.world.bodies(x), undefined],
    'world.join': join({ ...ofHinge, limits }),
    'world.join distance': join({ type: 'distance', atA: v(0, 1), atB: v(0, 3), min: 0, max: 2 }),
    'world.join spring': join({ ...ofSpring, length: 1, ...soft }),
    'world.join slide': join({ type: 'slide', at: v(0, 1), axis: v(1, 1), limits, motor: { speed: 1, force: 4 } }),
    'world.join axle': join({ type: 'axle', at: v(0, 1), axis: v(0, 1), limits, motor, ...soft, ...wheel }),
    'world.join fixed': join({ type: 'fixed', at: v(0, 1), ...soft }),
    'world.join carry': join({ ...ofHand, at: v(0, 1), force: 40, torque: 4, ...soft }),
    'world.join two': (s) => [(x) => s.world.join(x), { type: 'fixed', a: s.body, b: s.mover }],
    'world.joints': (s) => [() => s.world.joints()],
    'world.watchJoints': (s) => [(x) => s.world.watchJoints(x), { end() {} }],
    'body.joints': (s) => [() => s.body.joints()],
    'joint.limits =': setting(ofHinge, 'limits', limits),
    'joint.motor =': setting(ofHinge, 'motor', motor),
    'joint.enabled =': setting(ofHinge, 'enabled', false),
    'joint.touching =': setting(ofHinge, 'touching', true),
    'joint.breaks =': setting(ofHinge, 'breaks', { force: 3, torque: 4 }),
    'joint.frequency =': setting(ofSpring, 'frequency', 3),
    'joint.damping =': setting(ofSpring, 'damping', 1),
    'joint.length =': setting(ofSpring, 'length', 1),
    'joint.hold =': setting(ofHand, 'hold', { force: 3, torque: 4 }),
    'joint.target =': setting(ofHand, 'target', pose),
    'joint.remove': (s) => {
      const joint = s.world.join({ a: s.body, ...ofHinge })
      return [() => joint.remove()]
    },
    'joint.explain': (s) => {
      const joint = s.world.join({ a: s.body, ...ofHinge })
      return [() => joint.explain()]
    },
    'world.clear': (s) => [() => s.world.clear()],
    'world.colliderAt': (s) => [(x) => s.world.colliderAt(x), 0],
    'body.attach': (s) => [(x) => s.body.attach(x), piece],
    'body.teleport': (s) => [(x) => s.body.teleport(x), pose],
    'body.arriveAt': (s) => [(x) => s.mover.arriveAt(x), pose],
    'body.travel': (s) => [
      (a, b) => s.mover.travel(a, b),
      v(1, -3),
      {
        onHit: 'slide',
        maxHits: 4,
        up: v(0, 1),
        steepest: 0.7,
        stepHeight: 0.2,
        snap: 0.1,
        ride: true,
        push: 5,
        filter: filter(s),
        out: lib.travelResult(),
      },
    ],
    'body.travel, by its layers': (s) => [(a, b) => s.mover.travel(a, b), v(-1, -3), { onHit: 'bounce', filter: as() }],
    boom: (s) => [
      (a, b) => lib.boom(a, b),
      s.world,
      { radius: 0.3, margin: 0.1, least: 0.2, halfLife: 0.1, filter: filter(s) },
    ],
    'boom.aim': (s) => {
      const arm = lib.boom(s.world, { radius: 0.3 })
      return [(a, b, c) => arm.aim(a, b, c), v(0, 5), v(0, -5), 0.1]
    },
    'body.read': (s) => [(x) => s.body.read(x), structuredClone(pose)],
    'body.poseAt': (s) => [(a, x) => s.body.poseAt(a, x), 0.5, structuredClone(pose)],
    'body.overlapping': (s) => [() => s.body.overlapping()],
    'body.touching': (s) => [() => s.body.touching()],
    'body.remove': (s) => [() => s.body.remove()],
    'body.ignore': (s) => [(x) => s.body.ignore(x), s.mover],
    'body.unignore': (s) => [(x) => s.body.unignore(x), s.mover],
    'body.ignores': (s) => [(x) => s.body.ignores(x), s.mover],
    'body.toString': (s) => [() => s.body.toString()],
    'collider.remove': (s) => [() => s.collider.remove()],
    'collider.ignore': (s) => [(x) => s.collider.ignore(x), s.mover.colliders[0]],
    'collider.unignore': (s) => [(x) => s.collider.unignore(x), s.mover.colliders[0]],
    'collider.ignores': (s) => [(x) => s.collider.ignores(x), s.mover.colliders[0]],
    'collider.toString': (s) => [() => s.collider.toString()],
    'watch.pairs': (s) => [() => s.watch.pairs()],
    'watch.stop': (s) => [() => s.watch.stop()],
    'hook.stop': (s) => [() => s.hook.stop()],
    'raycast.first': (s) => [(a, b, c) => s.world.raycast.first(a, b, c), ray, filter(s), lib.rayHit()],
    'raycast.all': (s) => [(a, b) => s.world.raycast.all(a, b), { from: v(0, 5), to: v(0, -5) }, as()],
    'raycast.any': (s) => [(a, b) => s.world.raycast.any(a, b), { from: v(0, 5), by: v(0, -9) }, filter(s)],
    'raycast.each': (s) => [(a, b, c) => s.world.raycast.each(a, b, c), ray, () => true, filter(s)],
    'raycast.batch': (s) => [(a, b, c) => s.world.raycast.batch(a, b, c), rays, { ...lib.rayResults(1) }, filter(s)],
    'shapecast.first': (s) => [(a, b, c) => s.world.shapecast.first(a, b, c), motion, filter(s), lib.castHit()],
    'shapecast.all': (s) => [(a, b) => s.world.shapecast.all(a, b), motion, as()],
    'shapecast.any': (s) => [(a, b) => s.world.shapecast.any(a, b), motion, filter(s)],
    'shapecast.each': (s) => [(a, b, c) => s.world.shapecast.each(a, b, c), motion, () => true, filter(s)],
    'overlap.first': (s) => [(a, b, c) => s.world.overlap.first(a, b, c), place, filter(s), lib.overlapHit()],
    'overlap.all': (s) => [(a, b) => s.world.overlap.all(a, b), place, as()],
    'overlap.any': (s) => [(a, b) => s.world.overlap.any(a, b), place, filter(s)],
    'overlap.batch': (s) => [
      (a, b, c) => s.world.overlap.batch(a, b, c),
      boxes,
      { ...lib.overlapResults(1, 9) },
      filter(s),
    ],
    'nearest.batch': (s) => [
      (a, b, c) => s.world.nearest.batch(a, b, c),
      points,
      { ...lib.nearestResults(1) },
      filter(s),
    ],
    'overlap.each': (s) => [(a, b, c) => s.world.overlap.each(a, b, c), place, () => true, filter(s)],
    'nearest.first': (s) => [(a, b, c) => s.world.nearest.first(a, b, c), near, filter(s), lib.nearestHit()],
    'nearest.all': (s) => [(a, b) => s.world.nearest.all(a, b), nearShape, as()],
    'body.applyForce': (s) => [(a, b) => s.body.applyForce(a, b), v(1, 2), v(0, 0)],
    'body.applyImpulse': (s) => [(a, b) => s.body.applyImpulse(a, b), v(1, 2), v(0, 0)],
    'body.velocityAt': (s) => [(x) => s.body.velocityAt(x), v(1, 1)],
    'body.wake': (s) => [() => s.body.wake()],
    blast: (s) => [
      (a, b) => lib.blast(a, b),
      s.world,
      { at: v(0, 2), reach: 5, strength: 3, falloff: () => 1, cover: 'rock', layers: ['craft'], except: s.mover },
    ],
    'world.toJSON': (s) => [() => s.world.toJSON()],
    'body.toJSON': (s) => [() => s.body.toJSON()],
    'collider.toJSON': (s) => [() => s.collider.toJSON()],
    createWorld: () => [
      (x) => lib.createWorld(x).step(),
      {
        layers: LAYERS,
        tags: ['t'],
        rate: 60,
        unit: 64,
        data: lib.ofType(),
        gravity: v(0, -9),
        pushOut: 3,
        burst: false,
      },
    ],
    defineLayers: () => [
      (a, b) => lib.defineLayers(a, b),
      ['a', 'b'],
      { otherwise: 'solid', pairs: [['a', '*', 'sense']] },
    ],
    'layers.bit': () => [(x) => (LAYERS as Any).bit(x), 'rock'],
    'layers.mask': () => [(...x) => (LAYERS as Any).mask(...x), 'rock', 'zone'],
    'layers.names': () => [(x) => (LAYERS as Any).names(x), 3],
    'layers.solidBits': () => [(a) => (LAYERS as Any).solidBits(a), ['rock', 'zone']],
    'layers.senseBits': () => [(a) => (LAYERS as Any).senseBits(a), 'rock'],
    'layers.pair': () => [(a, b) => (LAYERS as Any).pair(a, b), 'rock', 'zone'],
    'layers.withPair': () => [(a, b, c) => (LAYERS as Any).withPair(a, b, c), 'rock', 'zone', 'pass'],
    'layers.index': () => [(x) => (LAYERS as Any).index(x), 'rock'],
    'layers.has': () => [(x) => (LAYERS as Any).has(x), 'rock'],
    fixedClock: () => [(a, b) => lib.fixedClock(a, b), 60, { maxTicks: 4 }],
    'clock.advance': () => [(a, b) => lib.fixedClock(60).advance(a, b), 0.1, () => {}],
    rayResults: () => [(x) => lib.rayResults(x), 3],
    nearestResults: () => [(x) => lib.nearestResults(x), 3],
    overlapResults: () => [(x, y) => lib.overlapResults(x, y), 3, 9],
    distance: () => [(a, b, c, d, e) => lib.distance(a, b, c, d, e), ball, pose, ball, pose, lib.distanceResult()],
    overlaps: () => [(a, b, c, d) => lib.overlaps(a, b, c, d), ball, pose, ball, pose],
    raycast: () => [(a, b, c) => lib.raycast(a, b, c), ball, pose, ray],
    shapecast: () => [(a, b, c) => lib.shapecast(a, b, c), motion, ball, pose],
    closestPoint: () => [(a, b, c) => lib.closestPoint(a, b, c), ball, pose, v(1, 2)],
    nearestName: () => [(a, b) => lib.nearestName(a, b), 'rok', ['rock']],
  }
}

const calls2: Calls = {
  ...shared(
    p2,
    { at: p2(1, 2), angle: 0.5 },
    flat,
    { from: p2(0, 5), direction: p2(0, -1), reach: 9 },
    flat.circle(0.5),
    bodySpec2,
    colliderSpec2,
  ),
  'shapecast.first turning': (s) => [
    (x) => s.world.shapecast.first(x),
    { shape: flat.box(1, 2), from: p2(-5, 1), to: p2(5, 1), angle: 0.2, turn: 3 },
  ],
  'overlap.all turned': (s) => [(x) => s.world.overlap.all(x), { shape: flat.box(1, 2), at: p2(0, 1), angle: 0.4 }],
  'body.applyTorque': (s) => [(x) => s.body.applyTorque(x), 1],
  'body.applySpinImpulse': (s) => [(x) => s.body.applySpinImpulse(x), 1],
  manifold: () => [
    (a, b, c, d, e) => (flat as Any).manifold(a, b, c, d, e),
    flat.box(1, 1),
    { at: p2(0, 0), angle: 0 },
    flat.box(1, 1),
    { at: p2(0, 1), angle: 0 },
    0.1,
  ],
  circle: () => [(x) => flat.circle(x), 1],
  box: () => [(a, b, c) => flat.box(a, b, c), 1, 2, { radius: 0.1 }],
  capsule: () => [(a, b, c) => flat.capsule(a, b, c), p2(0, 0), p2(1, 0), 0.5],
  polygon: () => [(a, b) => flat.polygon(a, b), [p2(0, 0), p2(1, 0), p2(0, 1)], { radius: 0.1 }],
  segment: () => [(a, b) => flat.segment(a, b), p2(0, 0), p2(1, 0)],
  polyline: () => [(a, b) => flat.polyline(a, b), [p2(0, 0), p2(1, 0), p2(0, 1)], { loop: true }],
  halfspace: () => [(a, b) => flat.halfspace(a, b), p2(0, 1), 0],
  compound: () => [(x) => flat.compound(x), [{ shape: flat.circle(1), at: p2(0, 0), angle: 1 }]],
  tiles: () => [
    (x) => flat.tiles(x),
    {
      cell: 0.5,
      rows: ['#/', '~='],
      kinds: {
        '#': { shape: 'full', firm: true, density: 2, friction: 0.1, restitution: 0.2, surfaceSpeed: 1 },
        '/': { shape: [p2(0, 0), p2(1, 0), p2(1, 1)] },
        '~': { layer: ['zone'], response: 'sense' },
        '=': { oneWay: p2(0, 1) },
      },
    },
  ],
  'tiles of numbers': () => [(x) => flat.tiles(x), { data: [1, 0, 0, 1], columns: 2, kinds: { 1: {} } }],
  'collider.tileAt': (s) => {
    const ground = tiled(s)
    return [(a, b) => ground.tileAt(a, b), 1, 1]
  },
  'collider.setTile': (s) => {
    const ground = tiled(s)
    return [(a, b, c) => ground.setTile(a, b, c), 1, 1, '.']
  },
  'collider.carve': (s) => {
    const ground = tiled(s)
    return [(x) => ground.carve(x), { shape: flat.circle(1), at: p2(9, 9), angle: 0.1, tiles: 'touched', cutOff: 4 }]
  },
}

function tiled(s: Scene): Any {
  const shape = flat.tiles({ rows: ['#.#', '###'], kinds: { '#': {} } })
  return s.world.add({ type: 'static', at: p2(8, 8), colliders: [{ shape, layer: 'rock' }] }).colliders[0]
}

const calls3: Calls = {
  ...shared(
    (x, y) => p3(x, y, 0),
    { at: p3(1, 2, 0), rotation: upright },
    solid,
    { from: p3(0, 5, 0), direction: p3(0, -1, 0), reach: 9 },
    solid.sphere(0.5),
    bodySpec3,
    colliderSpec3,
  ),
  'world.join ball': (s) => [
    (x) => s.world.join(x),
    { type: 'ball', a: s.body, at: p3(0, 1, 0), axis: p3(0, 1, 0), swing: 0.5, twist: { min: -1, max: 1 } },
  ],
  'shapecast.first turning': (s) => [
    (x) => s.world.shapecast.first(x),
    { shape: solid.box(1, 2, 1), from: p3(-5, 1, 0), to: p3(5, 1, 0), rotation: upright, turn: p3(0, 0, 2) },
  ],
  'overlap.all turned': (s) => [
    (x) => s.world.overlap.all(x),
    { shape: solid.box(1, 2, 1), at: p3(0, 1, 0), rotation: upright },
  ],
  'body.applyTorque': (s) => [(x) => s.body.applyTorque(x), p3(0, 1, 0)],
  'body.applySpinImpulse': (s) => [(x) => s.body.applySpinImpulse(x), p3(0, 1, 0)],
  'body.inertia': (s) => [
    (x) => {
      s.body.inertia = x
    },
    p3(1, 2, 3),
  ],
  rotationAbout: () => [(a, b) => solid.rotationAbout(a, b), p3(0, 1, 0), 1],
  rotationTowards: () => [(a, b) => solid.rotationTowards(a, b), p3(0, 0, 1), p3(0, 1, 0)],
  rotated: () => [(a, b) => solid.rotated(a, b), upright, p3(0, 1, 0)],
  sphere: () => [(x) => solid.sphere(x), 1],
  box: () => [(a, b, c, d) => solid.box(a, b, c, d), 1, 2, 3, { radius: 0.1 }],
  capsule: () => [(a, b, c) => solid.capsule(a, b, c), p3(0, 0, 0), p3(1, 0, 0), 0.5],
  cylinder: () => [(a, b) => solid.cylinder(a, b), 1, 1],
  cone: () => [(a, b) => solid.cone(a, b), 1, 1],
  hull: () => [(x) => solid.hull(x), [p3(0, 0, 0), p3(1, 0, 0), p3(0, 1, 0), p3(0, 0, 1)]],
  mesh: () => [
    (x) => solid.mesh(x),
    {
      positions: [0, 0, 0, 1, 0, 0, 0, 1, 0],
      indices: [0, 1, 2],
      sides: 'front',
      weld: 0.001,
      build: 'fast',
      shared: true,
    },
  ],
  heightfield: () => [
    (x) => solid.heightfield(x),
    { columns: 2, rows: 2, heights: [0, 1, 0, 1], cell: { x: 1, z: 1 }, sides: 'both', build: 'fast', shared: false },
  ],
  manifold: () => [
    (a, b, c, d, e) => (solid as Any).manifold(a, b, c, d, e),
    solid.box(1, 1, 1),
    { at: p3(0, 0, 0), rotation: upright },
    solid.cylinder(1, 0.5),
    { at: p3(0, 1, 0), rotation: upright },
    0.1,
  ],
  halfspace: () => [(a, b) => solid.halfspace(a, b), p3(0, 1, 0), 0],
  compound: () => [(x) => solid.compound(x), [{ shape: solid.sphere(1), at: p3(0, 0, 0), rotation: upright }]],
  shareMesh: () => [(x) => (solid as Any).shareMesh(x), solid.sphere(1)],
  sharedMesh: () => [(x) => solid.sharedMesh(x), new SharedArrayBuffer(64)],
}

/** Makers of empty results, which take nothing; and the class behind `layers`, which is attacked by its methods. */
const NOTHING_TO_ATTACK = ['rayHit', 'castHit', 'overlapHit', 'nearestHit', 'travelResult', 'distanceResult', 'ofType']

/** Names of methods and settable properties of an object, its own and those of its classes. */
function membersOf(thing: object): { methods: string[]; setters: string[] } {
  const methods: string[] = []
  const setters: string[] = []
  for (let at = Object.getPrototypeOf(thing); at !== Object.prototype; at = Object.getPrototypeOf(at)) {
    for (const [name, { value, set }] of Object.entries(Object.getOwnPropertyDescriptors(at))) {
      if (name === 'constructor') continue
      if (typeof value === 'function') methods.push(name)
      else if (set !== undefined) setters.push(name)
    }
  }
  return { methods: [...new Set(methods)], setters: [...new Set(setters)] }
}

/** What is public of a handle or a world: the sources mark the rest as internal or private. */
const INTERNAL: Readonly<Record<string, readonly string[]>> = {
  world: [
    ...[
      'attach',
      'explainWith',
      'remember',
      'pastOf',
      'asHost',
      'newBeside',
      'showLayers',
      'visitState',
      'wakeHandles',
      'visitWatches',
      'betweenSteps',
      'checkSnapshot',
      'saveWith',
      'restoreWith',
      'restoreSnapshot',
      'checkRestore',
      'hearAgain',
      'needSaver',
      'likeness',
      'layersNow',
      'arrived',
      'overAgain',
      'finish',
      'needTraveller',
      'showThen',
      'noteMask',
      'forces',
      'reshape',
      'teleport',
      'overlapsOf',
      'touchesOf',
      'partsOf',
      'canWait',
      'checkPart',
      'checkReshape',
      'bringIn',
      'retype',
      'weigh',
      'buried',
      'checkIsShape',
      'refiltered',
      'takenOut',
    ],
    ...[
      'lastTests',
      'lastHeld',
      'checkBody',
      'putBody',
      'checkCollider',
      'put',
      'setUp',
      'register',
      'checkName',
      'takeOut',
      'side',
      'layerSide',
    ],
    ...['owned', 'pairsOf', 'stop', 'wordsChanged', 'ignoreBodies', 'ignoreColliders', 'ignorable', 'removeBody'],
    ...['removeCollider', 'aim', 'checkType', 'checkPose', 'checkMotion', 'checkShape', 'checkPlace', 'checkSurface'],
    ...['checkGravity', 'readGravity', 'writeGravity', 'setOptions', 'checkForcedFields', 'writeNumbers', 'forces'],
    ...['makeTraveller', 'makePusher', 'travelParts', 'lastWord', 'consult'],
    ...['makeBody', 'makeCollider', 'poseOf', 'begin', 'setSurface', 'changeType', 'typeChanged', 'stopMotion'],
  ],
  body: [
    ...['gain', 'push', 'give', 'tuning', 'tune', 'holdLocks', 'wakeUp', 'useDynamic', 'markDead', 'useMover'],
    ...[
      'change',
      'use',
      'setAlive',
      'reborn',
      'livesIn',
      'changeColliders',
      'readMotion',
      'setMotion',
      'readTarget',
      'forces',
    ],
  ],
  collider: [
    ...['surface', 'setSurface', 'change', 'use', 'markDead', 'mark', 'words'],
    ...[
      'setAlive',
      'reborn',
      'madeOf',
      'shownIn',
      'livesIn',
      'visit',
      'settle',
      'tiles',
      'describeHit',
      'tileOnRay',
      'edgeNormals',
    ],
  ],
}

function attack(calls: Calls, scene: () => Scene, add: unknown): void {
  let tried = 0
  let taken = 0
  let turn = 0
  const failures = new Map<string, string>()
  const run = (name: string, s: Scene, act: () => unknown): void => {
    try {
      attackOnce(name, s, act)
    } catch (error) {
      const said = String((error as Error).message)
        .split('\n')
        .slice(0, 4)
        .join('\n')
      failures.set(`${name}: ${said.split('\n')[1] ?? ''}`, said)
    }
  }
  const attackOnce = (name: string, s: Scene, act: () => unknown): void => {
    tried++
    const before = s.world.stats
    const ages = Math.max(0, ...s.world.bodies().map((body: Any) => body.serial))
    let refused = false
    try {
      act()
      taken++
    } catch (error) {
      refused = true
      assert.equal((error as Error).name, 'KeenError', `${name}: ${(error as Error).stack}`)
    }
    const during = s.world.stats
    if (refused) {
      for (const key of ['bodies', 'colliders', 'watches'] as const) {
        assert.equal(during[key], before[key], `${name}: a refused call changed stats.${key}`)
      }
      const { alive } = s.body
      if (alive) {
        const next = s.world.add({ ...(add as object), name: 'next' })
        assert.equal(next.serial, ages + 1, `${name}: a refused call used up a serial`)
      }
    }
    for (let i = 0; i < 2; i++) {
      try {
        s.world.step()
      } catch (error) {
        assert.equal((error as { code?: string }).code, 'callback-failed', `${name}: ${(error as Error).stack}`)
      }
    }
    checkBooks(s.world)
    for (const body of s.world.bodies()) {
      for (const part of [body.at, body.angle ?? body.rotation, body.velocity, body.spin].flatMap((each: Any) =>
        typeof each === 'object' ? Object.values(each) : [each],
      )) {
        assert.ok(Number.isFinite(part), `${name}: a number of ${body} went wild: ${String(part)}`)
      }
    }
    const down = s.world.raycast.first({ from: { x: 9, y: 5, z: 0 }, by: { x: 0, y: -20, z: 0 } })
    assert.ok(down === null || Number.isFinite(down.distance), `${name}: a ray went wild`)
  }
  for (const [name, make] of Object.entries(calls)) {
    const [call, ...args] = make(scene())
    // As it stands it is right: no call of the table is refused for another reason.
    if (name !== 'shareMesh' && name !== 'sharedMesh') assert.doesNotThrow(() => call(...args), name)
    for (let index = 0; index < args.length; index++) {
      for (const bad of variants(args[index], 3)) {
        if (turn++ % EACH !== 0) continue
        const s = scene()
        const [callAnew, ...fresh] = make(s)
        fresh[index] = bad
        run(`${name}, argument ${index}`, s, () => callAnew(...fresh))
      }
    }
  }
  // Properties.
  const probe = scene()
  for (const [what, of] of [
    ['world', 'world'],
    ['body', 'body'],
    ['collider', 'collider'],
  ] as const) {
    const { methods, setters } = membersOf(probe[of])
    for (const name of methods) {
      if (INTERNAL[what].includes(name)) continue
      assert.ok(Object.hasOwn(calls, `${what}.${name}`), `${what}.${name} is not in the table of attacks`)
    }
    for (const name of [...setters, 'unheardOf']) {
      for (const bad of [...BAD, { x: 1, y: 2, z: 3 }, 'craft', ['rock', 'nobody'], flat.circle(1), solid.sphere(1)]) {
        if (turn++ % EACH !== 0) continue
        const s = scene()
        run(`${what}.${name} =`, s, () => {
          if (name !== 'unheardOf') {
            s[of][name] = bad
            return
          }
          assert.throws(() => (s[of][name] = bad), TypeError)
        })
      }
    }
  }
  assert.equal(failures.size, 0, [...failures.values()].join('\n'))
  assert.ok(tried > 3000 / EACH, `only ${tried} attacks`)
  assert.ok(taken < tried / 2, `${taken} of ${tried} attacks were taken`)
}

test('2d: bad values everywhere are taken or refused, and leave nothing behind', () => {
  attack(calls2, scene2, bodySpec2)
})

test('3d: bad values everywhere are taken or refused, and leave nothing behind', () => {
  attack(calls3, scene3, bodySpec3)
})

test('the table of attacks names every public function and every field of a body, a collider and a world', () => {
  for (const [lib, calls] of [
    [flat, calls2],
    [solid, calls3],
  ] as const) {
    for (const [name, value] of Object.entries(lib)) {
      if (typeof value !== 'function' || /^[A-Z]/.test(name) || NOTHING_TO_ATTACK.includes(name)) continue
      assert.ok(Object.hasOwn(calls, name), `${name} is not in the table of attacks`)
    }
  }
  for (const [fields, spec] of [
    [worlds2.BODY_FIELDS, bodySpec2],
    [worlds2.COLLIDER_FIELDS, colliderSpec2],
    [worlds3.BODY_FIELDS, bodySpec3],
    [worlds3.COLLIDER_FIELDS, colliderSpec3],
  ] as const) {
    for (const field of fields) assert.ok(Object.hasOwn(spec, field), `'${field}' is not in the table of attacks`)
  }
})

test('values at the edge of what is allowed keep every number finite', () => {
  const layers = flat.defineLayers(['rock', 'craft'])
  for (const [gravity, force, impulse, mass, restitution] of [
    [1e9, 1e21, 1e21, 1e-9, 1e3],
    [3e4, 1e5, 1e3, 1, 1.5],
    [1e9, 0, 0, 1e15, 1e3],
  ]) {
    const world = flat.createWorld({ layers, gravity: { x: 0, y: -gravity } })
    for (const x of [-3, 3]) {
      world.add({
        type: 'static',
        at: { x, y: 0 },
        colliders: [{ shape: flat.box(1, 40), layer: 'rock', restitution }],
      })
    }
    world.add({ type: 'static', at: { x: 0, y: -20 }, colliders: [{ shape: flat.box(9, 1), layer: 'rock' }] })
    const ball = world.add({
      type: 'dynamic',
      mass,
      velocity: { x: 50, y: 0 },
      colliders: [{ shape: flat.circle(0.5), layer: 'craft', restitution }],
    })
    const wall = flat.box(1, 1)
    const far = world.add({
      type: 'dynamic',
      at: { x: 1e12, y: 5 },
      gravityScale: 1e6,
      colliders: [{ shape: wall, layer: 'craft' }],
    })
    for (let i = 0; i < 120; i++) {
      if (force > 0) ball.applyForce({ x: force, y: -force }, { x: 1, y: 1 })
      if (impulse > 0) ball.applyImpulse({ x: -impulse, y: impulse })
      world.step()
      for (const body of [ball, far]) {
        const { at, angle, velocity, spin } = body
        for (const part of [at.x, at.y, angle, velocity.x, velocity.y, spin])
          assert.ok(Number.isFinite(part), `a number went wild: ${part}`)
        assert.ok(Math.abs(at.x) <= 1e12 && Math.abs(at.y) <= 1e12, `a place went wild: ${at.x}, ${at.y}`)
        const fastest = Math.max(Math.abs(velocity.x), Math.abs(velocity.y))
        assert.ok(fastest <= 1e8, `a speed went wild: ${fastest}`)
      }
    }
  }
})

test('shapes of the other dimension are refused, and say so', () => {
  const world: Any = flat.createWorld({ layers: LAYERS })
  const space: Any = solid.createWorld({ layers: LAYERS })
  const at = (lib: Any, shape: Any, vector: Any) => [
    () => lib.add({ type: 'static', colliders: [{ shape, layer: 'rock' }] }),
    () => lib.overlap.any({ shape, at: vector }),
    () => lib.shapecast.any({ shape, from: vector, to: vector }),
    () => lib.nearest.first({ shape, at: vector }),
  ]
  for (const act of [
    ...at(world, solid.box(1, 1, 1), p2(0, 0)),
    ...at(space, flat.box(1, 1), p3(0, 0, 0)),
    () =>
      (flat as Any).distance(solid.sphere(1), { at: p2(0, 0), angle: 0 }, flat.circle(1), { at: p2(0, 0), angle: 0 }),
    () => (solid as Any).compound([{ shape: flat.circle(1) }]),
  ]) {
    assert.throws(act, {
      name: 'KeenError',
      code: 'bad-shape',
      message: /is a shape of [23]D, from keen-sentry\/[23]d/,
    })
  }
})

test('messages name the field that was meant, and say what to do', () => {
  const s = scene2()
  const { world, body } = s
  const says = (message: RegExp, act: () => unknown) => assert.throws(act, { name: 'KeenError', message })
  says(/no field "position"; did you mean "at"\?/, () => world.add({ type: 'static', position: p2(0, 0) }))
  says(/no field "velocty"; did you mean "velocity"\?/, () => world.add({ type: 'kinematic', velocty: p2(0, 0) }))
  says(/no field "collider"; did you mean "colliders"\?/, () => world.add({ type: 'static', collider: [] }))
  says(/no field "mask"; did you mean "solidBits"\?/, () =>
    body.attach({ shape: flat.circle(1), layer: 'rock', mask: 1 }),
  )
  says(/no field "layer"; did you mean "layers"\?/, () =>
    world.raycast.any({ from: p2(0, 0), to: p2(1, 1) }, { layer: 'rock' }),
  )
  says(/'y' of 'velocity' of a body must be a finite number, got NaN/, () => (body.velocity = p2(0, Number.NaN)))
  says(/a vector \{ x, y, z \}, got an object with x, y$/, () => scene3().body.teleport(p2(0, 0)))
  says(/'at' of crate cannot be assigned: teleport\(\) it/, () => (body.at = p2(0, 0)))
  says(/'rate' of .* cannot be assigned/, () => (world.rate = 30))
  says(/'tags' of colliders\[0\] must be a list, got "lamp"/, () =>
    world.add({ type: 'static', colliders: [{ shape: flat.circle(1), layer: 'rock', tags: 'lamp' }] }),
  )
  says(/step\(\) takes no time, got 0.0166.*fixedClock/, () => world.step(1 / 60))
  says(/'over' of a watch has no effect/, () =>
    world.watch('craft', 'rock', {}, { kinds: ['begin'], over: { speed: 1 } }),
  )
  assert.throws(() => (body.at.x = 5), TypeError)
  assert.throws(() => (body.velocity.x = 5), TypeError)
})
