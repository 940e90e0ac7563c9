/** The scene of 2D: the form of its shapes, bodies, actions and rays. */

import { BODY_TYPES } from 'keen-sentry'
import { limits } from 'keen-sentry/internal'
import { z } from 'zod'
import {
  CARRIED,
  filtering,
  finite,
  forceActions,
  forced,
  GRAVITY,
  head,
  jointActions,
  jointSchema,
  layerSet,
  moment,
  name,
  ONE_WAY,
  onHit,
  parting,
  plainActions,
  rayFilter,
  rounding,
  seconds,
  size,
  surface,
  walkSchema,
  within,
} from './parts.ts'

const point = z.tuple([finite, finite]).describe('x, y in metres')
const angle = finite.describe('radians, counter-clockwise')

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
const sign = z.string().min(1).max(8)
const tileKind = z.strictObject({
  shape: z
    .union([z.literal('full'), z.array(point).min(3).max(16)])
    .optional()
    .describe('corners of a convex polygon in the unit cell, 0 to 1; default full'),
  layer: layerSet.optional().describe('if it is elsewhere than the collider'),
  response: z.enum(['solid', 'sense']).optional().describe("'sense': it never presses"),
  ...surface,
  surfaceSpeed: within(limits.SPEED).optional(),
  oneWay: point.optional().describe(ONE_WAY),
  firm: z.boolean().optional().describe('cannot be carved'),
})
const tiles = z.strictObject({
  kind: z.literal('tiles'),
  cell: size.optional().describe('full size of a cell; default 1'),
  rows: z
    .array(z.string().min(1))
    .min(1)
    .optional()
    .describe('one text a row, the first on top, a sign a tile; . is empty'),
  csv: z
    .string()
    .min(1)
    .optional()
    .describe(
      'instead of rows: whole numbers, a line a row; 0, -1 and an empty field are empty, others are the signs of kinds',
    ),
  kinds: z.record(sign, tileKind).describe('what the signs stand for: characters of the rows, or numbers of the csv'),
})
export const shapeSchema2 = z.discriminatedUnion('kind', [...simple, halfspace, compound, tiles])

const collider = z.strictObject({
  shape: shapeSchema2,
  ...filtering,
  at: point.optional().describe('place within the body; default its origin'),
  angle: angle.optional(),
  ...surface,
  surfaceSpeed: within(limits.SPEED)
    .optional()
    .describe('metres a second at which it carries what lies on it, to the right; default 0'),
  oneWay: point.optional().describe(ONE_WAY),
})

const path = z.strictObject({
  points: z
    .array(
      z.strictObject({ time: seconds, at: point, angle: angle.optional().describe('default: as the point before') }),
    )
    .min(2)
    .describe('way points in the order of their times; straight between them'),
  loop: z.boolean().optional().describe('begin again after the last point, which must lie where the first does'),
  onHit,
})

const body = z.strictObject({
  name,
  type: z.enum(BODY_TYPES),
  at: point.optional().describe('default: the first point of the path, else the origin'),
  angle: angle.optional(),
  enabled: z.boolean().optional(),
  colliders: z.array(collider).optional(),
  velocity: z
    .tuple([within(limits.SPEED), within(limits.SPEED)])
    .optional()
    .describe('metres a second; not for static bodies'),
  spin: within(limits.SPIN).optional().describe('radians a second; not for static bodies'),
  ...forced,
  inertia: moment.optional(),
  locks: z
    .strictObject({ x: z.boolean().optional(), y: z.boolean().optional(), turn: z.boolean().optional() })
    .optional(),
  path: path.optional().describe('kinematic only; instead of a velocity'),
  walk: walkSchema(z.number().min(-1).max(1))
    .optional()
    .describe('kinematic only: walks by what it is told, -1 to 1 along x'),
})

const target = z.union([point, z.strictObject({ at: point, angle })])
const joint = z.discriminatedUnion('type', jointSchema(point, target, { hinge: {}, axle: {} }))

const action = z.discriminatedUnion('do', [
  ...plainActions,
  z.strictObject({ time: seconds, do: z.literal('teleport'), body: name, at: point, angle: angle.optional() }),
  z.strictObject({ time: seconds, do: z.literal('type'), body: name, type: z.enum(BODY_TYPES) }),
  z.strictObject({
    time: seconds,
    do: z.literal('carve'),
    body: name.describe('whose tiles'),
    shape: z.discriminatedUnion('kind', [circle, box, capsule, polygon]),
    at: point.describe('in the world'),
    angle: angle.optional(),
    tiles: z
      .enum(['middle', 'touched', 'covered'])
      .optional()
      .describe('which tiles go; default those whose middle it covers'),
    cutOff: z
      .int()
      .min(0)
      .max(100_000)
      .optional()
      .describe('what is cut off and has so many tiles at most becomes a dynamic body; default 0'),
    layer: layerSet.optional().describe('the layer of such bodies; default that of the tiles'),
  }),
  z.strictObject({
    time: seconds,
    do: z.literal('tile'),
    body: name,
    column: z.int().min(0),
    row: z.int().min(0).describe('the first is on top'),
    tile: sign.describe('. for none'),
  }),
  ...forceActions(point),
  ...jointActions(target),
])

const ray = z.strictObject({
  name,
  from: point,
  to: point,
  body: name.optional().describe(CARRIED),
  filter: rayFilter,
})

export const sceneSchema2 = z.strictObject({
  ...head,
  dimension: z.literal('2d'),
  gravity: point.optional().describe(GRAVITY),
  ...parting,
  view: z.strictObject({ min: point, max: point }).optional().describe('what a picture shows; default all there is'),
  bodies: z.array(body),
  joints: z.array(joint).optional().describe('what holds bodies together, or to the world'),
  actions: z.array(action).optional(),
  rays: z.array(ray).optional(),
})

/** A scene of 2D. */
export type Scene2 = z.infer<typeof sceneSchema2>
/** A body, as a scene file of 2D has it. */
export type SceneBody2 = Scene2['bodies'][number]
/** A collider, as a scene file of 2D has it. */
export type SceneCollider2 = NonNullable<SceneBody2['colliders']>[number]
/** A shape, as a scene file of 2D has it. */
export type SceneShape2 = z.infer<typeof shapeSchema2>
/** Something that is done in a scene of 2D at a time. */
export type SceneAction2 = NonNullable<Scene2['actions']>[number]
/** A joint, as a scene file of 2D has it. */
export type SceneJoint2 = NonNullable<Scene2['joints']>[number]
/** A ray, as a scene file of 2D has it. */
export type SceneRay2 = NonNullable<Scene2['rays']>[number]
