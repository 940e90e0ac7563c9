/** Maps: the lines of GeoJSON (RFC 7946), and outlines as polygons of it. */
import { KeenError } from 'keen-sentry'
import type { Vec2 } from 'keen-sentry/2d'
import { cosSin } from 'keen-sentry/internal'
import { z } from 'zod'
import { type Line, lineOf } from './line.ts'

/** How a map is read. */
export interface ReadGeoJsonOptions {
  /**
   * For positions in degrees of longitude and latitude: the place that becomes the origin. Metres east and north of it are given, true to scale
   * near it (the plate carrée about that place; 0.1% off some 200 km north or south of it at 50 degrees). Without it the numbers are taken as
   * metres.
   */
  readonly about?: readonly [longitude: number, latitude: number] | undefined
}

const position = z.array(z.number()).min(2)
const ring = z.array(position)
const geometry = z.discriminatedUnion('type', [
  z.looseObject({ type: z.literal('Point'), coordinates: position }),
  z.looseObject({ type: z.literal('MultiPoint'), coordinates: z.array(position) }),
  z.looseObject({ type: z.literal('LineString'), coordinates: ring }),
  z.looseObject({ type: z.literal('MultiLineString'), coordinates: z.array(ring) }),
  z.looseObject({ type: z.literal('Polygon'), coordinates: z.array(ring) }),
  z.looseObject({ type: z.literal('MultiPolygon'), coordinates: z.array(z.array(ring)) }),
  z.looseObject({
    type: z.literal('GeometryCollection'),
    get geometries() {
      return z.array(geometry)
    },
  }),
])
type Geometry = z.infer<typeof geometry>
const feature = z.looseObject({
  type: z.literal('Feature'),
  geometry: geometry.nullable(),
  properties: z.record(z.string(), z.unknown()).nullish(),
  id: z.union([z.string(), z.number()]).optional(),
})
const document = z.union([
  feature,
  z.looseObject({ type: z.literal('FeatureCollection'), features: z.array(feature) }),
  geometry,
])

/** Metres of a degree of latitude: of a sphere of the Earth's mean radius. */
const DEGREE = (6_371_008.8 * Math.PI) / 180

/**
 * The lines of a map: line strings, and the rings of polygons, holes as rings of their own. Points are left out. The name of a line is the
 * property `name` of its feature, or its `id`.
 * @param json the parsed file
 * @throws KeenError `bad-level` for what is no GeoJSON, naming the place
 */
export function linesFromGeoJson(json: unknown, options: ReadGeoJsonOptions = {}): Line[] {
  const parsed = document.safeParse(json)
  if (!parsed.success) {
    const [issue] = deepest(parsed.error.issues)
    const place = issue.path.length === 0 ? '' : `, at ${issue.path.join('.')}`
    throw new KeenError('bad-level', `that is no GeoJSON${place}: ${issue.message}`)
  }
  const place = placing(options.about)
  const lines: Line[] = []
  const add = (name: string | null, coordinates: readonly (readonly number[])[], closed: boolean): void => {
    const line = lineOf(name, coordinates.map(place), closed)
    if (line !== null) lines.push(line)
  }
  const visit = (name: string | null, { type, ...rest }: Geometry): void => {
    const { coordinates, geometries } = rest as { coordinates: unknown; geometries: Geometry[] }
    if (type === 'LineString') add(name, coordinates as number[][], false)
    else if (type === 'MultiLineString') for (const each of coordinates as number[][][]) add(name, each, false)
    else if (type === 'Polygon') for (const each of coordinates as number[][][]) add(name, each, true)
    else if (type === 'MultiPolygon') for (const each of (coordinates as number[][][][]).flat()) add(name, each, true)
    else if (type === 'GeometryCollection') for (const each of geometries) visit(name, each)
  }
  const { data } = parsed
  if (data.type !== 'Feature' && data.type !== 'FeatureCollection') visit(null, data as Geometry)
  else {
    for (const each of data.type === 'Feature' ? [data] : (data.features as z.infer<typeof feature>[])) {
      const name = (each as z.infer<typeof feature>).properties?.['name'] ?? (each as z.infer<typeof feature>).id
      const shape = (each as z.infer<typeof feature>).geometry
      if (shape !== null) visit(name === undefined ? null : String(name), shape)
    }
  }
  return lines
}

type Issue = z.core.$ZodIssue

/** Of a union the reasons of the member that came farthest. */
function deepest(issues: readonly Issue[]): readonly Issue[] {
  const depth = (all: readonly Issue[]): number => Math.max(0, ...all.map(({ path }) => path.length))
  return issues.flatMap((issue) => {
    if (issue.code !== 'invalid_union' || issue.errors.length === 0) return [issue]
    const [best] = issue.errors.map(deepest).sort((a, b) => depth(b) - depth(a))
    return best.map((each) => ({ ...each, path: [...issue.path, ...each.path] }))
  })
}

function placing(about: readonly [number, number] | undefined): (position: readonly number[]) => Vec2 {
  if (about === undefined) return ([x, y]) => ({ x, y })
  const [longitude, latitude] = about
  if (!(Math.abs(longitude) <= 180 && Math.abs(latitude) < 90)) {
    throw new KeenError('bad-number', `'about' is a longitude and a latitude in degrees, got ${longitude}, ${latitude}`)
  }
  const turn = Float64Array.of((latitude * Math.PI) / 180, 0, 0)
  cosSin(turn, 0)
  return ([x, y]) => ({ x: (x - longitude) * DEGREE * turn[1], y: (y - latitude) * DEGREE })
}

/** Polygons of GeoJSON with their names, in metres. */
export interface OutlineMap {
  /** What GeoJSON calls it. */
  readonly type: 'FeatureCollection'
  /** One a group. */
  readonly features: readonly {
    readonly type: 'Feature'
    readonly properties: { readonly name: string }
    readonly geometry: { readonly type: 'MultiPolygon'; readonly coordinates: number[][][][] }
  }[]
}

/** Outlines as GeoJSON: a feature a group, holes with the loop around them. Solids are on the left of their loops, as RFC 7946 has it. */
export function geoJsonFromOutlines(
  groups: readonly { name: string; loops: readonly (readonly Vec2[])[] }[],
): OutlineMap {
  return {
    type: 'FeatureCollection',
    features: groups.map(({ name, loops }) => ({
      type: 'Feature',
      properties: { name },
      geometry: { type: 'MultiPolygon', coordinates: polygonsOf(loops) },
    })),
  }
}

/** Loops put together: each that runs counter-clockwise with the holes in it. */
function polygonsOf(loops: readonly (readonly Vec2[])[]): number[][][][] {
  const measured = loops.map((loop) => ({ loop, area: areaOf(loop) }))
  const outer = measured.filter(({ area }) => area > 0).sort((a, b) => a.area - b.area)
  const polygons = outer.map(({ loop }) => ({ loop, rings: [ringOf(loop)] }))
  for (const { loop, area } of measured) {
    if (area >= 0) continue
    const inside = besideOf(loop)
    const owner = polygons.find((each) => isInside(each.loop, inside))
    owner?.rings.push(ringOf(loop))
  }
  return polygons.map(({ rings }) => rings)
}

const ringOf = (loop: readonly Vec2[]): number[][] => [...loop, loop[0]].map(({ x, y }) => [x, y])

function areaOf(loop: readonly Vec2[]): number {
  return loop.reduce((sum, a, i) => {
    const b = loop[(i + 1) % loop.length]
    return sum + (a.x * b.y - a.y * b.x) / 2
  }, 0)
}

/** Part of an edge by which a point beside it is off. */
const BESIDE = 1e-3

/** A point of the solid next to the first edge of a loop. */
function besideOf([a, b]: readonly Vec2[]): Vec2 {
  return {
    x: (a.x + b.x) / 2 - BESIDE * (b.y - a.y),
    y: (a.y + b.y) / 2 + BESIDE * (b.x - a.x),
  }
}

function isInside(loop: readonly Vec2[], { x, y }: Vec2): boolean {
  let inside = false
  loop.forEach((a, i) => {
    const b = loop[(i + 1) % loop.length]
    if (a.y > y === b.y > y) return
    if (x < a.x + ((b.x - a.x) * (y - a.y)) / (b.y - a.y)) inside = !inside
  })
  return inside
}
