/** Scenes of 2D lifted into 3D: the same things to happen at z = 0, with shapes that are tall along z. */
import { type SceneShape2, sceneShape2 } from '../../scenes-package/src/scene/index.ts'

type Json = Record<string, unknown>
type Point = readonly [number, number]

const HALF = 4
const flat = ([x, y]: Point): number[] => [x, y, 0]
const about = (angle: number): object => ({ axis: [0, 0, 1], angle })

/** The same scene in 3D; null where it has what only 2D has: forces, rounded polygons. */
export function lifted(scene: Json): Json | null {
  const text = JSON.stringify(scene)
  if (/"dynamic"|"push"|"blast"|"joints"/.test(text)) return null
  const { view: _view, gravity: _gravity, pushOut: _push, burst: _burst, ...rest } = scene
  const bodies = (scene['bodies'] as Json[]).map(liftedBody)
  const rays = (scene['rays'] as Json[] | undefined)?.map(({ from, to, ...ray }) => ({
    ...ray,
    from: flat(from as Point),
    to: flat(to as Point),
  }))
  const actions = (scene['actions'] as Json[] | undefined)?.map((action) =>
    action['do'] === 'teleport' ? clean({ ...action, ...placed(action) }) : action,
  )
  return { ...rest, dimension: '3d', bodies, ...(rays && { rays }), ...(actions && { actions }) }
}

/** What says where: its point and angle as those of 3D, the angle itself taken out. */
function placed({ at, angle }: Json): Json {
  return {
    ...(at !== undefined && { at: flat(at as Point) }),
    ...(angle !== undefined && { rotation: about(angle as number) }),
    angle: undefined,
  }
}

function liftedBody(body: Json): Json {
  const path = body['path'] as { points: Json[] } | undefined
  return clean({
    ...body,
    ...placed(body),
    ...(body['velocity'] !== undefined && { velocity: flat(body['velocity'] as Point) }),
    ...(body['spin'] !== undefined && { spin: [0, 0, body['spin']] }),
    ...(path && { path: { ...path, points: path.points.map((point) => clean({ ...point, ...placed(point) })) } }),
    ...(body['colliders'] !== undefined && {
      colliders: (body['colliders'] as Json[]).map((each) =>
        clean({ ...each, ...placed(each), shape: liftedShape(each['shape'] as SceneShape2) }),
      ),
    }),
  })
}

const clean = (value: Json): Json => JSON.parse(JSON.stringify(value))

function liftedShape(shape: SceneShape2): Json {
  switch (shape.kind) {
    case 'circle':
      return { kind: 'sphere', radius: shape.radius }
    case 'box':
      return clean({ kind: 'box', x: shape.width, y: shape.height, z: 2 * HALF, radius: shape.radius })
    case 'capsule':
      return { kind: 'capsule', a: flat(shape.a), b: flat(shape.b), radius: shape.radius }
    case 'halfspace':
      return { kind: 'halfspace', normal: flat(shape.normal), offset: shape.offset }
    case 'segment':
      return wall([shape.a, shape.b], false)
    case 'polyline':
      return wall(shape.points, shape.loop === true)
    case 'polygon':
      return prism(shape)
    case 'tiles':
      throw new Error('tiles are of 2D alone')
    case 'compound': {
      const parts = shape.parts.map((part) => clean({ ...part, ...placed(part), shape: liftedShape(part.shape) }))
      return { kind: 'compound', parts }
    }
  }
}

/** Each convex piece as a prism; what makes no shape of 2D makes none of 3D. */
function prism(shape: Extract<SceneShape2, { kind: 'polygon' }>): Json {
  const outlines = piecesOf(shape)
  const parts = outlines.map((points) => ({
    shape: { kind: 'hull', points: points.flatMap(([x, y]) => [-HALF, HALF].map((z) => [x, y, z])) },
  }))
  return parts.length === 1 ? parts[0].shape : { kind: 'compound', parts }
}

function piecesOf(shape: Extract<SceneShape2, { kind: 'polygon' }>): Point[][] {
  try {
    return sceneShape2(shape).pieces.map(({ block: [, count, , ...points] }) =>
      Array.from({ length: count }, (_, i): Point => [points[2 * i], points[2 * i + 1]]),
    )
  } catch {
    return [[...shape.points]]
  }
}

function wall(points: readonly Point[], loop: boolean): Json {
  const corners = points.flatMap(([x, y]) => [-HALF, HALF].map((z) => [x, y, z]))
  const edges = loop ? points.length : points.length - 1
  const triangles = Array.from({ length: edges }, (_, i) => {
    const a = 2 * i
    const b = 2 * ((i + 1) % points.length)
    return [
      [a, b, b + 1],
      [a, b + 1, a + 1],
    ]
  }).flat()
  return { kind: 'mesh', points: corners, triangles }
}
