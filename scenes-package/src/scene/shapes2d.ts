/** Shapes of a scene of 2D as values of the library. */
import { KeenError } from 'keen-sentry'
import {
  box,
  capsule,
  circle,
  compound,
  halfspace,
  polygon,
  polyline,
  type Shape2,
  segment,
  type TileKind,
  tiles,
} from 'keen-sentry/2d'
import { numbersFromCsv } from '../levels/csv.ts'
import type { SceneShape2 } from './schema2d.ts'

/** A point of a file as a vector. */
export function vector2(point: readonly [number, number]): { x: number; y: number } {
  return { x: point[0], y: point[1] }
}

/** The shape of a scene file as a value of the library. Throws `bad-shape` where the numbers make none. */
export function sceneShape2(shape: SceneShape2): Shape2 {
  switch (shape.kind) {
    case 'circle':
      return circle(shape.radius)
    case 'box':
      return box(shape.width, shape.height, { radius: shape.radius ?? 0 })
    case 'capsule':
      return capsule(vector2(shape.a), vector2(shape.b), shape.radius)
    case 'polygon':
      return polygon(shape.points.map(vector2), { radius: shape.radius ?? 0 })
    case 'segment':
      return segment(vector2(shape.a), vector2(shape.b))
    case 'polyline':
      return polyline(shape.points.map(vector2), { loop: shape.loop })
    case 'halfspace':
      return halfspace(vector2(shape.normal), shape.offset)
    case 'compound':
      return compound(
        shape.parts.map((part) => ({
          shape: sceneShape2(part.shape),
          at: part.at && vector2(part.at),
          angle: part.angle,
        })),
      )
    case 'tiles':
      return sceneTiles(shape)
  }
}

type SceneTiles2 = Extract<SceneShape2, { kind: 'tiles' }>

function sceneTiles({ cell, rows, csv, kinds }: SceneTiles2): Shape2 {
  const made = Object.fromEntries(
    Object.entries(kinds).map(([sign, kind]): [string, TileKind] => [
      sign,
      {
        ...kind,
        shape: typeof kind.shape === 'object' ? kind.shape.map(vector2) : kind.shape,
        oneWay: kind.oneWay && vector2(kind.oneWay),
      },
    ]),
  )
  if (csv === undefined) return tiles({ cell, rows, kinds: made })
  if (rows !== undefined) throw new KeenError('bad-shape', "tiles take either 'rows' or 'csv'")
  return tiles({ cell, ...numbersFromCsv(csv), kinds: made })
}
