/** The scene of 3D: the form of its shapes, models, bodies, actions and rays. */
import { BODY_TYPES } from 'keen-sentry'
import { limits } from 'keen-sentry/internal'
import { z } from 'zod'
import { BELOW } from '../gltf/place.ts'
import {
  ballSchema,
  CARRIED,
  filtering,
  finite,
  forceActions,
  forced,
  GRAVITY,
  head,
  jointActions,
  jointSchema,
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

const MOST_POINTS = 1_000_000

const point = z.tuple([finite, finite, finite]).describe('x, y, z in metres')
const rotation = z
  .union([
    z.tuple([finite, finite, finite, finite]),
    z.strictObject({ axis: point, angle: finite.describe('radians about it, right-handed') }),
  ])
  .describe('a quaternion as x, y, z, w, or an axis and an angle')
const sides = z.enum(['both', 'front']).optional().describe("whether both sides are hit; default 'both'")

const sphere = z.strictObject({ kind: z.literal('sphere'), radius: size })
const box = z.strictObject({
  kind: z.literal('box'),
  x: size.describe('full size along x'),
  y: size,
  z: size,
  radius: rounding.optional().describe('rounds the edges, within the full size'),
})
const capsule = z.strictObject({ kind: z.literal('capsule'), a: point, b: point, radius: size })
const cylinder = z.strictObject({
  kind: z.literal('cylinder'),
  height: size.describe('along y, the origin in the middle'),
  radius: size,
})
const cone = z.strictObject({
  kind: z.literal('cone'),
  height: size.describe('along y from the base to the tip, the origin half way'),
  radius: size.describe('of its base'),
})
const hull = z.strictObject({
  kind: z.literal('hull'),
  points: z.array(point).min(4).max(MOST_POINTS).describe('the least convex solid that holds them'),
})
const mesh = z.strictObject({
  kind: z.literal('mesh'),
  points: z.array(point).min(3).max(MOST_POINTS),
  triangles: z
    .array(z.tuple([z.int().min(0), z.int().min(0), z.int().min(0)]))
    .min(1)
    .max(MOST_POINTS)
    .describe('three points each by their index, counter-clockwise seen from the front'),
  sides,
})
const heightfield = z.strictObject({
  kind: z.literal('heightfield'),
  columns: z.int().min(2).max(10_000).describe('heights along x'),
  rows: z.int().min(2).max(10_000).describe('heights along z'),
  heights: z.array(finite.nullable()).max(MOST_POINTS).describe('y at each place, row by row; null is a hole'),
  cell: z.union([size, z.tuple([size, size])]).describe('metres from one height to the next, along x and along z'),
  sides,
})
const halfspace = z.strictObject({
  kind: z.literal('halfspace'),
  normal: point.describe('out of the solid side'),
  offset: finite.describe('from the origin to the surface along the normal'),
})
const simple = [sphere, box, capsule, cylinder, cone, hull, mesh, heightfield] as const
const compound = z.strictObject({
  kind: z.literal('compound'),
  parts: z
    .array(
      z.strictObject({
        shape: z.discriminatedUnion('kind', simple),
        at: point.optional(),
        rotation: rotation.optional(),
      }),
    )
    .min(1),
})
export const shapeSchema3 = z.discriminatedUnion('kind', [...simple, halfspace, compound])

const velocity = z.tuple([within(limits.SPEED), within(limits.SPEED), within(limits.SPEED)])

/** What the surface of a collider is like in 3D. */
const surface3 = {
  ...surface,
  surfaceVelocity: velocity
    .optional()
    .describe('metres a second, about the body, at which it carries what lies on it; default none'),
  oneWay: point.optional().describe(ONE_WAY),
}

const collider = z.strictObject({
  shape: shapeSchema3,
  ...filtering,
  at: point.optional().describe('place within the body; default its origin'),
  rotation: rotation.optional(),
  ...surface3,
})

/** Which nodes of a glTF file become colliders, and how these are filtered. */
const nodeRule = z.strictObject({
  name: name.describe("name of a node; '*' stands for any part of it, '?' for one character"),
  shape: z.enum(['mesh', 'hull']).describe('the triangles themselves, or the least convex solid that holds them'),
  sides,
  ...filtering,
  ...surface3,
})

const model = z
  .strictObject({
    file: z
      .string()
      .min(1)
      .max(1000)
      .regex(BELOW, "must lie in the scene's own folder or in one within it: no '..', no root, no drive, no scheme")
      .describe("a .glb or .gltf file in the scene's own folder or in one within it, its place told from there"),
    nodes: z.array(nodeRule).min(1).describe('each node becomes what the first rule that fits its name says'),
  })
  .describe('colliders from a glTF 2.0 file, after those of `colliders`; scale and mirroring are baked in')

const path = z.strictObject({
  points: z
    .array(
      z.strictObject({
        time: seconds,
        at: point,
        rotation: rotation.optional().describe('default: as the point before'),
      }),
    )
    .min(2)
    .describe('way points in the order of their times; straight between them, turned the short way'),
  loop: z.boolean().optional().describe('begin again after the last point, which must lie where the first does'),
  onHit,
})

const type = z.enum(BODY_TYPES)
const turns = z.strictObject({ x: z.boolean().optional(), y: z.boolean().optional(), z: z.boolean().optional() })
const body = z.strictObject({
  name,
  type,
  at: point.optional().describe('default: the first point of the path, else the origin'),
  rotation: rotation.optional(),
  enabled: z.boolean().optional(),
  colliders: z.array(collider).optional(),
  model: model.optional(),
  velocity: velocity.optional().describe('metres a second; not for static bodies'),
  spin: z
    .tuple([within(limits.SPIN), within(limits.SPIN), within(limits.SPIN)])
    .optional()
    .describe('the axis, as long as the radians a second; not for static bodies'),
  ...forced,
  inertia: z
    .tuple([moment, moment, moment])
    .optional()
    .describe("about the body's axes of x, y, z through its centre of mass, instead of what the shapes give"),
  locks: z
    .strictObject({ ...turns.shape, turn: z.union([z.boolean(), turns]).optional() })
    .optional()
    .describe("what it cannot do: move along the world's axes, turn about them"),
  path: path.optional().describe('kinematic only; instead of a velocity'),
  walk: walkSchema(z.tuple([z.number().min(-1).max(1), z.number().min(-1).max(1)]))
    .optional()
    .describe('kinematic only: walks by what it is told, -1 to 1 along x and along z'),
})

const target = z.union([point, z.strictObject({ at: point, rotation })])
const joints = jointSchema(point, target, {
  hinge: { axis: point.describe('about which the two turn') },
  axle: { turn: point.describe('about which the wheel turns') },
})
const joint = z.discriminatedUnion('type', [...joints, ballSchema(point)])

const action = z.discriminatedUnion('do', [
  ...plainActions,
  z.strictObject({ time: seconds, do: z.literal('type'), body: name, type }),
  z.strictObject({ time: seconds, do: z.literal('teleport'), body: name, at: point, rotation: rotation.optional() }),
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

const view = z.strictObject({
  eye: point.describe('where it is seen from'),
  target: point.describe('what is in the middle'),
  angle: z.number().min(0.01).max(3).optional().describe('radians from the lower edge to the upper; default 0.8'),
})

export const sceneSchema3 = z.strictObject({
  ...head,
  dimension: z.literal('3d'),
  gravity: point.optional().describe(GRAVITY),
  ...parting,
  view: view.optional().describe('from where a picture is taken; default from a corner, so that all is in it'),
  bodies: z.array(body),
  joints: z.array(joint).optional().describe('what holds bodies together, or to the world'),
  actions: z.array(action).optional(),
  rays: z.array(ray).optional(),
})

/** A scene of 3D. */
export type Scene3 = z.infer<typeof sceneSchema3>
/** A body, as a scene file of 3D has it. */
export type SceneBody3 = Scene3['bodies'][number]
/** A collider, as a scene file of 3D has it. */
export type SceneCollider3 = NonNullable<SceneBody3['colliders']>[number]
/** A shape, as a scene file of 3D has it. */
export type SceneShape3 = z.infer<typeof shapeSchema3>
/** Something that is done in a scene of 3D at a time. */
export type SceneAction3 = NonNullable<Scene3['actions']>[number]
/** A joint, as a scene file of 3D has it. */
export type SceneJoint3 = NonNullable<Scene3['joints']>[number]
/** A ray, as a scene file of 3D has it. */
export type SceneRay3 = NonNullable<Scene3['rays']>[number]
/** A model of a body, as a scene file has it. */
export type SceneModel = NonNullable<SceneBody3['model']>
/** What the nodes of a model with certain names become. */
export type NodeRule = SceneModel['nodes'][number]
export type ScenePoint3 = readonly [number, number, number]
export type SceneRotation = z.infer<typeof rotation>
