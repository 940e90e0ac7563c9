/** What scenes of 2D and of 3D have in common: names, sizes, layers, sides, watches. */

import { EVENT_KINDS } from 'keen-sentry'
import { limits } from 'keen-sentry/internal'
import { z } from 'zod'

const SCENE_FORMAT = 'keen-sentry-scene'
const SCENE_VERSION = 1

export const name = z.string().min(1).max(100)
/** Metres (and radians) beyond which nothing can be told apart that matters. */
const FAR = 1e9
export const finite = z.number().min(-FAR).max(FAR)
export const size = z.number().positive().max(FAR)
/** A number of either sign, as far as a world takes it. */
export function within(most: number) {
  return z.number().min(-most).max(most)
}
/** A number from 0, as far as a world takes it. */
function upTo(most: number) {
  return z.number().min(0).max(most)
}
export const rounding = z.number().min(0).max(FAR)
export const seconds = z.number().min(0).max(1e6)
export const layerSet = z.union([name, z.array(name).min(1)]).describe('a layer, or a list of layers')

/** How a collider is filtered, whatever its shape. */
export const filtering = {
  layer: layerSet,
  tags: z.array(name).optional(),
  solid: z.array(name).optional().describe('layers that it is solid to, by hand instead of by the pair table'),
  sense: z.array(name).optional().describe('layers that it senses, by hand instead of by the pair table'),
  sensor: z.boolean().optional().describe('never presses, only senses'),
  enabled: z.boolean().optional(),
}

const colliderIndex = z.int().min(0).optional().describe('index among the colliders of the body; default all of them')

/** Actions that place nothing. */
export const plainActions = [
  z.strictObject({ time: seconds, do: z.literal('remove'), body: name, collider: colliderIndex }),
  z.strictObject({ time: seconds, do: z.literal('enable'), body: name, collider: colliderIndex }),
  z.strictObject({ time: seconds, do: z.literal('disable'), body: name, collider: colliderIndex }),
  z.strictObject({ time: seconds, do: z.literal('layer'), body: name, collider: colliderIndex, layer: layerSet }),
] as const

/** What passes through a ray. */
export const rayFilter = z
  .strictObject({
    layers: z.array(name).optional(),
    sensors: z.union([z.boolean(), z.literal('only')]).optional(),
    except: z.array(name).optional().describe('names of bodies'),
  })
  .optional()

export const CARRIED = 'the ray is carried by this body: from and to are about it, and it passes over it'

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
    .describe('what is reported; default begin and end, with `over` impacts too'),
  over: z
    .union([z.strictObject({ impulse: size }), z.strictObject({ speed: size })])
    .optional()
    .describe('reports impacts as strong as this: newton seconds, or metres a second of closing; solid pairs only'),
  say: z
    .strictObject({ begin: z.string().optional(), end: z.string().optional(), impact: z.string().optional() })
    .optional()
    .describe('how the story puts it; {a}, {b}, {cause}, {dwell}, {impulse} and {speed} are filled in'),
})

/** A watch, as a scene file has it. */
export type SceneWatch = z.infer<typeof watch>
/** A side of a watch, as a scene file has it. */
export type SceneSide = SceneWatch['a']

/** The head of a scene: everything but what lies in it. */
export const head = {
  $schema: z.string().optional(),
  format: z.literal(SCENE_FORMAT),
  version: z.literal(SCENE_VERSION),
  name: z.string().min(1).max(200),
  about: z.string().optional(),
  rate: z.number().min(limits.LEAST_RATE).max(1000).optional().describe('ticks a second; default 60'),
  unit: z.number().min(limits.LEAST_UNIT).max(FAR).optional().describe('lengths of this file to a metre; default 1'),
  ticks: z.int().min(1).max(10_000_000).optional().describe('how long it runs unless told otherwise; default 600'),
  layers: z.strictObject({
    names: z.array(name).min(1).max(32),
    otherwise: z.enum(['solid', 'sense', 'pass']).optional(),
    pairs: z
      .array(z.tuple([name, name, z.enum(['solid', 'sense', 'pass'])]))
      .optional()
      .describe("rows of the pair table; later rows win, '*' is every layer"),
  }),
  tags: z.array(name).optional(),
  silence: z
    .array(z.strictObject({ code: name, place: z.string() }))
    .optional()
    .describe('warnings and hints of `check` that are meant so: their code and their place, as it gives them'),
  watches: z.array(watch).optional().describe('what is told; default everything that meets anything'),
}

/** What the surface of a collider is like, in either dimension. */
export const surface = {
  density: rounding
    .optional()
    .describe('kilograms a square metre (2D) or a cubic one (3D), for the mass of a dynamic body; default 1'),
  friction: upTo(limits.FRICTION).optional().describe('of a pair, the root of the product; default 0.6'),
  restitution: upTo(limits.RESTITUTION)
    .optional()
    .describe('0 does not bounce, 1 without loss; of a pair, the greater; default 0'),
}

/** What only dynamic bodies have, in either dimension. */
export const forced = {
  mass: z
    .number()
    .min(limits.LEAST_MASS)
    .max(FAR)
    .optional()
    .describe('kilograms, instead of what the densities give; dynamic only, as all that follow'),
  gravityScale: within(limits.SCALE).optional().describe('default 1'),
  damping: upTo(limits.DAMPING).optional().describe('by how much its motion slows, as a part a second; default 0'),
  spinDamping: upTo(limits.DAMPING).optional(),
  sweep: z.enum(['off', 'statics', 'all']).optional().describe("against what its way is swept; default 'statics'"),
  sleeps: z.boolean().optional().describe('whether it may fall asleep; default true'),
}

/** A moment of inertia. */
export const moment = z.number().min(limits.LEAST_INERTIA).max(FAR)

/** How a path is travelled instead of led. */
export const onHit = z
  .enum(['stop', 'slide', 'bounce'])
  .optional()
  .describe('travels the path instead of being led along it: what to do where something solid is in the way')

/** A body that walks by a script, with the directions of a dimension. */
export function walkSchema<D extends z.ZodType>(direction: D) {
  return z.strictObject({
    speed: upTo(limits.SPEED).describe('metres a second along level ground'),
    jump: upTo(limits.SPEED).optional().describe('metres a second upwards with which it leaves the ground; default 0'),
    steepest: upTo(1.57).optional().describe('radians from level that it can stand on; default 0.8'),
    stepHeight: rounding.optional().describe('metres: a ledge no higher is stepped onto; default 0.3'),
    snap: rounding.optional().describe('metres by which it follows ground that falls away; default 0.2'),
    ride: z.boolean().optional().describe('what it stands on carries it along; default true'),
    push: rounding.optional().describe('newton seconds a tick that it may give to what is in its way; default 0'),
    inputs: z
      .array(
        z.strictObject({
          time: seconds,
          move: direction.optional().describe('where it goes from then on; default as before'),
          jump: z.boolean().optional().describe('jumps then, if it stands'),
        }),
      )
      .describe('what it is told, in the order of the times'),
  })
}

/** How overlaps are parted, for the whole scene. */
export const parting = {
  pushOut: z
    .number()
    .positive()
    .max(limits.SPEED)
    .optional()
    .describe('metres a second at which overlapping bodies are parted at most; default 3'),
  burst: z.boolean().optional().describe('whether what was parted keeps that speed'),
}

/** Actions on and by forces, with the points of a dimension. */
export function forceActions<P extends z.ZodType>(point: P) {
  return [
    z.strictObject({
      time: seconds,
      do: z.literal('push'),
      body: name,
      impulse: point.describe('newton seconds; on a dynamic body'),
      at: point.optional().describe('where it acts, about the body; default its centre of mass'),
    }),
    z.strictObject({
      time: seconds,
      do: z.literal('blast'),
      body: name.describe('what blows up: the blast goes off at its origin'),
      reach: size,
      strength: size.describe('newton seconds next to it'),
      cover: z.array(name).optional().describe('layers that give cover'),
    }),
  ] as const
}

const reach = z
  .strictObject({ min: within(FAR).optional(), max: within(FAR).optional() })
  .describe('from how the two stand at joining: radians, or metres for a slide and an axle')
const most = z.strictObject({ force: size.optional(), torque: size.optional() })
const torqueMotor = z.strictObject({ speed: within(limits.SPEED), torque: rounding })
const forceMotor = z.strictObject({ speed: within(limits.SPEED), force: rounding })
const motors = { hinge: torqueMotor, axle: torqueMotor, slide: forceMotor }

const base = {
  name,
  a: name.describe('a body'),
  enabled: z.boolean().optional(),
  touching: z.boolean().optional().describe('the two may touch; default false'),
  breaks: most.optional().describe('what it bears: newtons, and newtons times a metre'),
  say: z
    .string()
    .optional()
    .describe('how the story puts its end; {joint}, {a}, {b}, {cause}, {force} and {torque} are filled in'),
}
const between = { ...base, b: name.optional().describe('a body; default the world') }

/** The joints of a dimension: with its points, and what the types have besides. */
export function jointSchema<P extends z.ZodType, T extends z.ZodType, H extends z.ZodRawShape, A extends z.ZodRawShape>(
  point: P,
  target: T,
  own: { readonly hinge: H; readonly axle: A },
) {
  const points = { ...between, atA: point.optional(), atB: point.optional() }
  const soft = {
    frequency: rounding.optional().describe('cycles a second at which the two would swing'),
    damping: rounding.optional().describe('0 swings for ever, 1 just does not swing'),
  }
  const at = point.describe('a point of the world, where it is as the scene begins')
  return [
    z.strictObject({
      type: z.literal('hinge'),
      ...between,
      at,
      limits: reach.optional(),
      motor: motors.hinge.optional(),
      ...own.hinge,
    }),
    z.strictObject({
      type: z.literal('distance'),
      ...points,
      min: rounding.optional().describe('metres; as much as max: a rod; both left out: as far as they are'),
      max: rounding.optional(),
    }),
    z.strictObject({ type: z.literal('spring'), ...points, length: rounding.optional(), ...soft }),
    z.strictObject({
      type: z.literal('slide'),
      ...between,
      at,
      axis: point,
      limits: reach.optional(),
      motor: motors.slide.optional(),
    }),
    z.strictObject({
      type: z.literal('axle'),
      ...between,
      at,
      axis: point.describe('along which the wheel, b, springs'),
      limits: reach.optional(),
      motor: motors.axle.optional(),
      ...soft,
      ...own.axle,
    }),
    z.strictObject({ type: z.literal('fixed'), ...between, at: at.optional(), ...soft }),
    z.strictObject({
      type: z.literal('carry'),
      ...base,
      at: at.optional(),
      target: target.describe('where that point is to be'),
      force: size.optional(),
      torque: size.optional(),
      ...soft,
    }),
  ] as const
}

/** What only 3D has: a joint about a point. */
export function ballSchema<P extends z.ZodType>(point: P) {
  return z.strictObject({
    type: z.literal('ball'),
    ...between,
    at: point,
    axis: point.optional().describe('of the cone and of the twist; default y'),
    swing: rounding.optional().describe('radians by which the axes of the two may lean from each other'),
    twist: reach.optional(),
  })
}

/** Actions on joints. */
export function jointActions<T extends z.ZodType>(target: T) {
  return [
    z.strictObject({ time: seconds, do: z.literal('release'), joint: name.describe('ends it') }),
    z.strictObject({
      time: seconds,
      do: z.literal('motor'),
      joint: name,
      motor: z.union([torqueMotor, forceMotor, z.null()]).describe('null for none'),
    }),
    z.strictObject({ time: seconds, do: z.literal('aim'), joint: name.describe("a 'carry'"), target }),
  ] as const
}

export const GRAVITY = 'metres a second squared; default 9.8 downwards; it pulls dynamic bodies only'
export const ONE_WAY = 'lets through what comes along this direction, and holds what comes against it'
