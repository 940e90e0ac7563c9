/**
 * A ray that runs along a solid without going into it, to rounding: between which fractions it does, and in which directions across
 * the ray the solid lies. Rare: only asked where a ray has passed very near.
 */
import { ENTER, EXIT, FRONT, quarterTurns, SECTOR_FROM, SECTOR_TO } from '../../core/query/seams.ts'
import { BODY, BOX, FACE_COUNT, PLANE, POINT_COUNT, POINTS, RADIUS, SURFACE, TRIANGLE } from '../shapes/layout.ts'
import { boundsOf } from '../shapes/place.ts'
import { gap, HERE } from './gap.ts'
import { DISTANCE, GAP_SIZE, NORMAL } from './records.ts'

/** A few units in the last place of a coordinate, as a part of it. */
export const ROUNDING = 4.5e-16
/** Halvings in which an end of a graze along something round is found. */
const HALVINGS = 60

/** Corners of a box, and its six faces: normal, offset. */
const corners = new Float64Array(24)
const faces = new Float64Array(24)
const seen = new Float64Array(6)
const point = new Float64Array(7)
point[POINT_COUNT] = 1
const record = new Float64Array(GAP_SIZE)
const bounds = new Float64Array(6)

/**
 * Whether a ray runs along a piece, to the rounding of the coordinates of both.
 * @param line start and motion, which is not zero
 * @param out a graze record of `core/seams.ts`
 */
export function grazeOf(p: Float64Array, a: number, line: Float64Array, out: Float64Array): boolean {
  const kind = p[a]
  if (kind === SURFACE || kind === TRIANGLE) return false
  if (kind === PLANE) return grazePlane(p, a, line, out)
  if (kind === BOX && p[a + RADIUS] === 0) {
    spreadBox(p, a)
    return grazeFaces(corners, 0, 8, faces, 0, 6, line, out)
  }
  if (kind === POINTS && p[a + FACE_COUNT] > 0 && p[a + RADIUS] === 0) {
    const n = p[a + POINT_COUNT]
    return grazeFaces(p, a + BODY, n, p, a + BODY + 3 * n, p[a + FACE_COUNT], line, out)
  }
  return grazeRound(p, a, line, out)
}

function grazePlane(p: Float64Array, a: number, line: Float64Array, out: Float64Array): boolean {
  const at = a + BODY
  let away = -p[at]
  let speed = 0
  let far = Math.abs(p[at])
  let fast = 0
  for (let i = 0; i < 3; i++) {
    const n = p[at + 1 + i]
    away += n * line[i]
    far += Math.abs(n * line[i])
    speed += n * line[3 + i]
    fast += Math.abs(n * line[3 + i])
  }
  if (Math.abs(away) > 2 * ROUNDING * far || Math.abs(speed) > ROUNDING * fast) return false
  out[ENTER] = -Infinity
  out[EXIT] = Infinity
  writeAcross(line, seen)
  writeHalf(-p[at + 1], -p[at + 2], -p[at + 3], out)
  writeBack(line, out)
  return true
}

/** Writes the sector of what lies in a direction, all of the half. */
function writeHalf(x: number, y: number, z: number, out: Float64Array): void {
  const u = x * seen[0] + y * seen[1] + z * seen[2]
  const v = x * seen[3] + y * seen[4] + z * seen[5]
  out[SECTOR_FROM] = quarterTurns(v, -u)
  out[SECTOR_TO] = quarterTurns(-v, u)
}

function writeBack(line: Float64Array, out: Float64Array): void {
  const length = Math.sqrt(line[3] * line[3] + line[4] * line[4] + line[5] * line[5])
  for (let i = 0; i < 3; i++) out[FRONT + i] = -line[3 + i] / length
}

/** Writes the corners and faces of a box. */
function spreadBox(p: Float64Array, a: number): void {
  const b = a + BODY
  for (let corner = 0; corner < 8; corner++) {
    for (let i = 0; i < 3; i++) {
      let at = p[b + i]
      for (let axis = 0; axis < 3; axis++) {
        const side = (corner & (1 << axis)) !== 0 ? 1 : -1
        at += side * p[b + 12 + axis] * p[b + 3 + 3 * axis + i]
      }
      corners[3 * corner + i] = at
    }
  }
  for (let face = 0; face < 6; face++) {
    const axis = face >> 1
    const side = (face & 1) === 0 ? 1 : -1
    let offset = p[b + 12 + axis]
    for (let i = 0; i < 3; i++) {
      const n = side * p[b + 3 + 3 * axis + i]
      faces[4 * face + i] = n
      offset += n * p[b + i]
    }
    faces[4 * face + 3] = offset
  }
}

/** What has flat faces: the stretch lies on the inner side of all of them; the sector is that of the corners, seen along the ray. */
function grazeFaces(
  p: Float64Array,
  first: number,
  n: number,
  q: Float64Array,
  firstFace: number,
  faceCount: number,
  line: Float64Array,
  out: Float64Array,
): boolean {
  let far = 0
  for (let i = first; i < first + 3 * n; i++) far = Math.max(far, Math.abs(p[i]))
  // Between which fractions it lies beside the ray.
  let from = Infinity
  let to = -Infinity
  const square = line[3] * line[3] + line[4] * line[4] + line[5] * line[5]
  for (let at = first; at < first + 3 * n; at += 3) {
    let t = 0
    for (let i = 0; i < 3; i++) t += ((p[at + i] - line[i]) * line[3 + i]) / square
    from = Math.min(from, t)
    to = Math.max(to, t)
  }
  let enter = from
  let exit = to
  let earliest = from
  let latest = to
  writeBack(line, out)
  for (let at = firstFace; at < firstFace + 4 * faceCount; at += 4) {
    let away = -q[at + 3]
    let speed = 0
    let slack = Math.abs(q[at + 3])
    for (let i = 0; i < 3; i++) {
      away += q[at + i] * line[i]
      speed += q[at + i] * line[3 + i]
      slack += Math.abs(q[at + i]) * (Math.abs(line[i]) + far)
    }
    slack *= 2 * ROUNDING
    // Along the face, to rounding, beside the whole piece.
    if (Math.abs(speed) * (to - from) <= 2 * slack) {
      if (away + (speed * (from + to)) / 2 > 2 * slack) return false
      continue
    }
    const t = -away / speed
    const spare = slack / Math.abs(speed)
    if (speed < 0) {
      if (t > enter) {
        enter = t
        for (let i = 0; i < 3; i++) out[FRONT + i] = q[at + i]
      }
      earliest = Math.max(earliest, t - spare)
    } else {
      exit = Math.min(exit, t)
      latest = Math.min(latest, t + spare)
    }
  }
  // The last entry may come after the first exit by no more than rounding.
  if (earliest > latest) return false
  out[ENTER] = enter
  out[EXIT] = Math.max(enter, exit)
  return writeSector(p, first, n, line, far, out)
}

/**
 * Writes the sector that corners take up, seen along a ray; false where it is more than half a turn, for then the ray goes through.
 */
function writeSector(
  p: Float64Array,
  first: number,
  n: number,
  line: Float64Array,
  far: number,
  out: Float64Array,
): boolean {
  writeAcross(line, seen)
  const near = 32 * ROUNDING * (far + Math.max(Math.abs(line[0]), Math.abs(line[1]), Math.abs(line[2])))
  let middleU = 0
  let middleV = 0
  for (let k = 0; k < n; k++) {
    readSeen(p, first + 3 * k, line)
    middleU += spot[0]
    middleV += spot[1]
  }
  // The corners that lie farthest to the left and to the right of the middle.
  let leftU = middleU
  let leftV = middleV
  let rightU = middleU
  let rightV = middleV
  for (let k = 0; k < n; k++) {
    readSeen(p, first + 3 * k, line)
    const [u, v] = spot
    if (Math.abs(u) + Math.abs(v) <= near) continue
    if (middleU * v - middleV * u >= 0) {
      if (leftU * v - leftV * u > 0) {
        leftU = u
        leftV = v
      }
    } else if (rightU * v - rightV * u < 0) {
      rightU = u
      rightV = v
    }
  }
  const turn = rightU * leftV - rightV * leftU
  const sizes = Math.abs(rightU) + Math.abs(rightV) + Math.abs(leftU) + Math.abs(leftV)
  if (!(turn >= -near * sizes)) return false
  out[SECTOR_FROM] = quarterTurns(rightU, rightV)
  out[SECTOR_TO] = quarterTurns(leftU, leftV)
  return true
}

const spot = new Float64Array(2)

/** Writes where a corner is seen from a ray, along it. */
function readSeen(p: Float64Array, at: number, line: Float64Array): void {
  spot[0] = 0
  spot[1] = 0
  for (let i = 0; i < 3; i++) {
    const off = p[at + i] - line[i]
    spot[0] += off * seen[i]
    spot[1] += off * seen[3 + i]
  }
}

/** What is round: where the distance along the ray, which is a convex function, is least, and how long it is that. */
function grazeRound(p: Float64Array, a: number, line: Float64Array, out: Float64Array): boolean {
  boundsOf(p, a, bounds, 0, bounds, 0)
  let square = 0
  let along = 0
  let size = 0
  let far = 0
  for (let i = 0; i < 3; i++) {
    square += line[3 + i] * line[3 + i]
    along += line[3 + i] * ((bounds[i] + bounds[3 + i]) / 2 - line[i])
    size += bounds[3 + i] - bounds[i]
    far = Math.max(far, Math.abs(bounds[i]), Math.abs(bounds[3 + i]), Math.abs(line[i]))
  }
  const slack = 8 * ROUNDING * far
  const reach = size / Math.sqrt(square)
  let low = along / square - reach
  let high = along / square + reach
  const outerLow = low
  const outerHigh = high
  for (let k = 0; k < 2 * HALVINGS; k++) {
    const one = low + (high - low) / 3
    const other = high - (high - low) / 3
    if (distanceAt(p, a, line, one) <= distanceAt(p, a, line, other)) high = other
    else low = one
  }
  const middle = (low + high) / 2
  if (Math.abs(distanceAt(p, a, line, middle)) > slack) return false
  out[ENTER] = endOf(p, a, line, outerLow, middle, slack)
  out[EXIT] = endOf(p, a, line, outerHigh, middle, slack)
  // In the middle of the stretch the way out is that of the face; at a rim it may be along the ray.
  distanceAt(p, a, line, (out[ENTER] + out[EXIT]) / 2)
  writeAcross(line, seen)
  writeHalf(record[NORMAL], record[NORMAL + 1], record[NORMAL + 2], out)
  writeBack(line, out)
  return true
}

/** The last place from the middle outwards at which a ray is that near. */
function endOf(p: Float64Array, a: number, line: Float64Array, outer: number, middle: number, slack: number): number {
  let out = outer
  let on = middle
  for (let k = 0; k < HALVINGS; k++) {
    const half = (out + on) / 2
    if (distanceAt(p, a, line, half) <= slack) on = half
    else out = half
  }
  return on
}

function distanceAt(p: Float64Array, a: number, line: Float64Array, t: number): number {
  for (let i = 0; i < 3; i++) point[BODY + i] = line[i] + t * line[3 + i]
  gap(point, 0, p, a, HERE, record)
  return record[DISTANCE]
}

/** Writes two unit directions across the motion of a line. */
export function writeAcross(line: Float64Array, seen: Float64Array): void {
  const x = line[3]
  const y = line[4]
  const z = line[5]
  const whole = Math.sqrt(x * x + y * y + z * z)
  // Across it and the axis that it leads least along, of two.
  const flat = Math.abs(x) < Math.abs(y) ? Math.sqrt(y * y + z * z) : Math.sqrt(x * x + z * z)
  seen[0] = Math.abs(x) < Math.abs(y) ? 0 : -z / flat
  seen[1] = Math.abs(x) < Math.abs(y) ? z / flat : 0
  seen[2] = Math.abs(x) < Math.abs(y) ? -y / flat : x / flat
  seen[3] = (y * seen[2] - z * seen[1]) / whole
  seen[4] = (z * seen[0] - x * seen[2]) / whole
  seen[5] = (x * seen[1] - y * seen[0]) / whole
}
