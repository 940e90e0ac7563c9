/**
 * The scene file, version 1: one zod definition from which come the types, the checks of the form, and the published
 * JSON Schema. What the form cannot say (names that must exist, indexes in range) is in `check.ts`.
 */
import { z } from 'zod'
import { BODY_TYPES, EVENT_KINDS } from '../core/index.ts'

export const SCENE_FORMAT = 'keen-sentry-scene'
export const SCENE_VERSION = 1

const name = z.string().min(1).max(100)
/** Metres (and radians) beyond which nothing can be told apart that matters. */
const FAR = 1e9
const finite = z.number().min(-FAR).max(FAR)
const size = z.number().positive().max(FAR)
const rounding = z.number().min(0).max(FAR)
const point = z.tuple([finite, finite]).describe('x, y in metres')
const angle = finite.describe('radians, counter-clockwise')
const seconds = z.number().min(0).max(1e6)
const layerSet = z.union([name, z.array(name).min(1)]).describe('a layer, or a list of layers')

const circle = z.strictObject({ kind: z.literal('circle'), radius: size })
const box = z.strictObject({
  kind: z.literal('box'),
  width: size.describe('full size along x'),
  height: size.describe('full size along y'),
  radius: rounding.optional().describe('rounds the corners, within the full size'),
})
const capsule = z.strictObject({ kind: z.literal('capsule'), a: point, b: point, radius: size })
const polygon = z.strictObject({
  kind: z.literal('polygon'),
  points: z.array(point).min(3).describe('the outline, either way round; concave ones are cut into convex pieces'),
  radius: rounding.optional().describe('grows it outward and rounds its corners'),
})
const segment = z.strictObject({ kind: z.literal('segment'), a: point, b: point })
const polyline = z.strictObject({
  kind: z.literal('polyline'),
  points: z.array(point).min(2),
  loop: z.boolean().optional().describe('joins the last point with the first'),
})
const halfspace = z.strictObject({
  kind: z.literal('halfspace'),
  normal: point.describe('out of the solid side'),
  offset: finite.describe('from the origin to the surface along the normal'),
})
const simple = [circle, box, capsule, polygon, segment, polyline] as const
const compound = z.strictObject({
  kind: z.literal('compound'),
  parts: z
    .array(
      z.strictObject({ shape: z.discriminatedUnion('kind', simple), at: point.optional(), angle: angle.optional() }),
    )
    .min(1),
})
export const shapeSchema = z.discriminatedUnion('kind', [...simple, halfspace, compound])

const collider = z.strictObject({
  shape: shapeSchema,
  layer: layerSet,
  at: point.optional().describe('place within the body; default its origin'),
  angle: angle.optional(),
  tags: z.array(name).optional(),
  solid: z.array(name).optional().describe('layers that it is solid to, by hand instead of by the pair table'),
  sense: z.array(name).optional().describe('layers that it senses, by hand instead of by the pair table'),
  sensor: z.boolean().optional().describe('never presses, only senses'),
  enabled: z.boolean().optional(),
  density: rounding.optional().describe('kilograms a square metre, for the mass of a dynamic body; default 1'),
  friction: rounding.optional().describe('of a pair, the root of the product; default 0.6'),
  restitution: rounding.optional().describe('0 does not bounce, 1 without loss; of a pair, the greater; default 0'),
  surfaceSpeed: finite
    .optional()
    .describe('metres a second at which it carries what lies on it, to the right; default 0'),
  oneWay: point.optional().describe('lets through what comes along this direction, and holds what comes against it'),
})

const path = z.strictObject({
  points: z
    .array(
      z.strictObject({ time: seconds, at: point, angle: angle.optional().describe('default: as the point before') }),
    )
    .min(2)
    .describe('way points in the order of their times; straight between them'),
  loop: z.boolean().optional().describe('begin again after the last point, which must lie where the first does'),
})

const body = z.strictObject({
  name,
  type: z.enum(BODY_TYPES),
  at: point.optional().describe('default: the first point of the path, else the origin'),
  angle: angle.optional(),
  enabled: z.boolean().optional(),
  colliders: z.array(collider).optional(),
  velocity: point.optional().describe('metres a second; not for static bodies'),
  spin: finite.optional().describe('radians a second; not for static bodies'),
  mass: size.optional().describe('kilograms, instead of what the densities give; dynamic only, as all that follow'),
  inertia: size.optional(),
  gravityScale: finite.optional().describe('default 1'),
  damping: rounding.optional().describe('by how much its motion slows, as a part a second; default 0'),
  spinDamping: rounding.optional(),
  locks: z
    .strictObject({ x: z.boolean().optional(), y: z.boolean().optional(), turn: z.boolean().optional() })
    .optional(),
  sweep: z.enum(['off', 'statics', 'all']).optional().describe("against what its way is swept; default 'statics'"),
  sleeps: z.boolean().optional().describe('whether it may fall asleep; default true'),
  path: path.optional().describe('kinematic only; instead of a velocity'),
})

const colliderIndex = z.int().min(0).optional().describe('index among the colliders of the body; default all of them')
const action = z.discriminatedUnion('do', [
  z.strictObject({
    time: seconds,
    do: z.literal('teleport'),
    body: name,
    at: point,
    angle: angle.optional(),
  }),
  z.strictObject({ time: seconds, do: z.literal('remove'), body: name, collider: colliderIndex }),
  z.strictObject({ time: seconds, do: z.literal('enable'), body: name, collider: colliderIndex }),
  z.strictObject({ time: seconds, do: z.literal('disable'), body: name, collider: colliderIndex }),
  z.strictObject({ time: seconds, do: z.literal('layer'), body: name, collider: colliderIndex, layer: layerSet }),
  z.strictObject({
    time: seconds,
    do: z.literal('push'),
    body: name,
    impulse: point.describe('newton seconds; on a dynamic body'),
    at: point.optional().describe('where it acts, about the body; default its centre of mass'),
  }),
  z.strictObject({ time: seconds, do: z.literal('type'), body: name, type: z.enum(BODY_TYPES) }),
  z.strictObject({
    time: seconds,
    do: z.literal('blast'),
    body: name.describe('what blows up: the blast goes off at its origin'),
    reach: size,
    strength: size.describe('newton seconds next to it'),
    cover: z.array(name).optional().describe('layers that give cover'),
  }),
])

const ray = z.strictObject({
  name,
  from: point,
  to: point,
  body: name.optional().describe('the ray is carried by this body: from and to are about it, and it passes over it'),
  filter: z
    .strictObject({
      layers: z.array(name).optional(),
      sensors: z.union([z.boolean(), z.literal('only')]).optional(),
      except: z.array(name).optional().describe('names of bodies'),
    })
    .optional(),
})

const side = z
  .union([
    name,
    z.array(name).min(1),
    z.strictObject({ body: name, collider: z.int().min(0).optional() }),
    z.strictObject({ tag: name }),
  ])
  .describe("a layer, a list of layers, '*', { body }, { body, collider } or { tag }")

const watch = z.strictObject({
  name: name.optional(),
  a: side,
  b: side,
  per: z.enum(['body', 'collider']).optional(),
  response: z.enum(['solid', 'sense']).optional(),
  once: z.boolean().optional(),
  kinds: z
    .array(z.enum(EVENT_KINDS))
    .optional()
    .describe('what is told; default begin and end, with `over` impacts too'),
  over: z
    .union([z.strictObject({ impulse: size }), z.strictObject({ speed: size })])
    .optional()
    .describe('tells of impacts as strong as this: newton seconds, or metres a second of closing; solid pairs only'),
  say: z
    .strictObject({ begin: z.string().optional(), end: z.string().optional(), impact: z.string().optional() })
    .optional()
    .describe('how the story tells it; {a}, {b}, {cause}, {dwell}, {impulse} and {speed} are filled in'),
})

export const sceneSchema = z
  .strictObject({
    $schema: z.string().optional(),
    format: z.literal(SCENE_FORMAT),
    version: z.literal(SCENE_VERSION),
    name: z.string().min(1).max(200),
    about: z.string().optional(),
    dimension: z.literal('2d'),
    rate: z.number().positive().max(1000).optional().describe('ticks a second; default 60'),
    gravity: point.optional().describe('metres a second squared; default [0, -9.8]; it pulls dynamic bodies only'),
    pushOut: size.optional().describe('metres a second at which overlapping bodies are parted at most; default 3'),
    burst: z.boolean().optional().describe('whether what was parted keeps that speed'),
    unit: size.optional().describe('lengths of this file to a metre; default 1'),
    ticks: z.int().min(1).max(10_000_000).optional().describe('how long it runs unless told otherwise; default 600'),
    view: z.strictObject({ min: point, max: point }).optional().describe('what a picture shows; default all there is'),
    layers: z.strictObject({
      names: z.array(name).min(1).max(32),
      otherwise: z.enum(['solid', 'sense', 'pass']).optional(),
      pairs: z
        .array(z.tuple([name, name, z.enum(['solid', 'sense', 'pass'])]))
        .optional()
        .describe("rows of the pair table; later rows win, '*' is every layer"),
    }),
    tags: z.array(name).optional(),
    bodies: z.array(body),
    actions: z.array(action).optional(),
    rays: z.array(ray).optional(),
    watches: z.array(watch).optional().describe('what is told; default everything that meets anything'),
  })
  .describe(
    'A scene of Keen Sentry: layers, bodies, what they do, and what is watched. Metres, seconds, radians, y up.',
  )

export type Scene = z.infer<typeof sceneSchema>
export type SceneBody = Scene['bodies'][number]
export type SceneCollider = NonNullable<SceneBody['colliders']>[number]
export type SceneShape = z.infer<typeof shapeSchema>
export type SceneAction = NonNullable<Scene['actions']>[number]
export type SceneRay = NonNullable<Scene['rays']>[number]
export type SceneWatch = NonNullable<Scene['watches']>[number]
export type SceneSide = SceneWatch['a']

/** The published JSON Schema of the scene file. */
export function sceneJsonSchema(): Record<string, unknown> {
  const schema = z.toJSONSchema(sceneSchema) as Record<string, unknown>
  return { ...schema, title: 'Keen Sentry scene, version 1' }
}
