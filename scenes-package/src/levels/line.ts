/** What drawings and maps are read as: lines of points, open or closed. */
import type { Vec2 } from 'keen-sentry/2d'

/** A line of a drawing or a map. */
export interface Line {
  /** Its name in the file; null where it has none. */
  readonly name: string | null
  /** Its points, in metres. */
  readonly points: readonly Vec2[]
  /** Whether it leads back to where it begins; the first point is not repeated. */
  readonly closed: boolean
}

/** A line without points in a row at one place; null where less than a line is left. */
export function lineOf(name: string | null, given: readonly Vec2[], closed: boolean): Line | null {
  const points = given.filter((point, i) => i === 0 || point.x !== given[i - 1].x || point.y !== given[i - 1].y)
  const [first, last] = [points[0], points[points.length - 1]]
  const returns = points.length > 2 && first.x === last.x && first.y === last.y
  if (returns) points.pop()
  const loop = (closed || returns) && points.length > 2
  return points.length < 2 ? null : { name, points, closed: loop }
}
