/** A shape by itself, as a command line or a tool gives it. */

import type { Shape2 } from 'keen-sentry/2d'
import type { Shape3 } from 'keen-sentry/3d'
import type { z } from 'zod'
import { formProblems, refuse } from './problems.ts'
import { shapeSchema2 } from './schema2d.ts'
import { shapeSchema3 } from './schema3d.ts'
import { sceneShape2 } from './shapes2d.ts'
import { sceneShape3 } from './shapes3d.ts'

/**
 * The shape that the JSON of the scene format describes.
 * @throws KeenError `bad-scene` with the place and the reason, `bad-shape`
 */
export function readShape(json: unknown, dimension: '2d'): Shape2
export function readShape(json: unknown, dimension: '3d'): Shape3
export function readShape(json: unknown, dimension: '2d' | '3d'): Shape2 | Shape3 {
  return dimension === '2d'
    ? sceneShape2(parse(shapeSchema2, json, '2d'))
    : sceneShape3(parse(shapeSchema3, json, '3d'))
}

function parse<T>(schema: z.ZodType<T>, json: unknown, dimension: '2d' | '3d'): T {
  const parsed = schema.safeParse(json)
  if (!parsed.success) refuse(formProblems(json, parsed.error.issues, dimension))
  return parsed.data as T
}
