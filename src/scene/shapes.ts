/** Shapes of a scene file as values of the library. */
import { box, capsule, circle, compound, halfspace, polygon, polyline, type Shape2, segment } from '../2d/index.ts'
import { formProblems, refuse } from './problems.ts'
import { type SceneShape, shapeSchema } from './schema.ts'

/** A point of a file as a vector. */
export function vector(point: readonly [number, number]): { x: number; y: number } {
  return { x: point[0], y: point[1] }
}

/** The shape of a scene file as a value of the library. Throws `bad-shape` where the numbers make none. */
export function sceneShape(shape: SceneShape): Shape2 {
  switch (shape.kind) {
    case 'circle':
      return circle(shape.radius)
    case 'box':
      return box(shape.width, shape.height, { radius: shape.radius ?? 0 })
    case 'capsule':
      return capsule(vector(shape.a), vector(shape.b), shape.radius)
    case 'polygon':
      return polygon(shape.points.map(vector), { radius: shape.radius ?? 0 })
    case 'segment':
      return segment(vector(shape.a), vector(shape.b))
    case 'polyline':
      return polyline(shape.points.map(vector), { loop: shape.loop })
    case 'halfspace':
      return halfspace(vector(shape.normal), shape.offset)
    case 'compound':
      return compound(
        shape.parts.map((part) => ({
          shape: sceneShape(part.shape),
          at: part.at && vector(part.at),
          angle: part.angle,
        })),
      )
  }
}

/** A shape of the scene format, checked. Throws `bad-scene` with the place and the reason. */
export function shapeOf(json: unknown): SceneShape {
  const parsed = shapeSchema.safeParse(json)
  if (!parsed.success) refuse(formProblems(json, parsed.error.issues))
  return parsed.data as SceneShape
}
