/** Shapes and rotations of a scene of 3D as values of the library. */
import {
  box,
  type CompoundPart,
  capsule,
  compound,
  cone,
  cylinder,
  halfspace,
  heightfield,
  hull,
  mesh,
  type Rotation,
  rotationAbout,
  type Shape3,
  sphere,
  type Vec3,
} from 'keen-sentry/3d'
import type { ScenePoint3, SceneRotation, SceneShape3 } from './schema3d.ts'

/** A point of a file as a vector. */
export function vector3(point: ScenePoint3): Vec3 {
  return { x: point[0], y: point[1], z: point[2] }
}

/** A rotation of a file as a quaternion. Throws `bad-argument` for an axis or a quaternion of length 0. */
export function rotation3(rotation: SceneRotation): Rotation {
  if (!Array.isArray(rotation)) return rotationAbout(vector3(rotation.axis), rotation.angle)
  const [x, y, z, w] = rotation
  return { x, y, z, w }
}

/** The shape of a scene file as a value of the library. Throws `bad-shape` where the numbers make none. */
export function sceneShape3(shape: SceneShape3): Shape3 {
  switch (shape.kind) {
    case 'sphere':
      return sphere(shape.radius)
    case 'box':
      return box(shape.x, shape.y, shape.z, { radius: shape.radius ?? 0 })
    case 'capsule':
      return capsule(vector3(shape.a), vector3(shape.b), shape.radius)
    case 'cylinder':
      return cylinder(shape.height, shape.radius)
    case 'cone':
      return cone(shape.height, shape.radius)
    case 'hull':
      return hull(shape.points.map(vector3))
    case 'mesh':
      return mesh({ positions: shape.points.flat(), indices: shape.triangles.flat(), sides: shape.sides })
    case 'heightfield':
      return heightfield({
        columns: shape.columns,
        rows: shape.rows,
        heights: shape.heights.map((height) => height ?? Number.NaN),
        cell: typeof shape.cell === 'number' ? shape.cell : { x: shape.cell[0], z: shape.cell[1] },
        sides: shape.sides,
      })
    case 'halfspace':
      return halfspace(vector3(shape.normal), shape.offset)
    case 'compound':
      return compound(
        shape.parts.map((part) => ({
          // The form lets no compound and no halfspace be a part.
          shape: sceneShape3(part.shape) as CompoundPart['shape'],
          at: part.at && vector3(part.at),
          rotation: part.rotation && rotation3(part.rotation),
        })),
      )
  }
}
