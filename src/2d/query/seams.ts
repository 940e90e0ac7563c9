/**
 * Where a ray, or a segment that goes along itself, is closed in between solids that it only grazes one by one: along the common
 * face of two boxes, or through a corner that they share. See `core/seams.ts`.
 */
import type { Kinds } from '../../core/handle.ts'
import { ENTER, GRAZE_SIZE } from '../../core/seams.ts'
import { grazeOf, ROUNDING } from '../narrow/graze.ts'
import { FRACTION, RAY_NORMAL } from '../narrow/words.ts'
import type { Space2 } from '../space.ts'
import { HIT_DEPTH, HIT_NORMAL, HIT_POINT, KEY, type Scratch } from './scratch.ts'

const graze = new Float64Array(GRAZE_SIZE)
const whole = Float64Array.of(1)

/**
 * Looks for all grazes of a ray; `scratch.seams.advance` then goes from place to place.
 * @param line the ray
 * @param ahead as a part of the motion, how far what goes along it reaches ahead of the ray's start
 */
export function findSeams<K extends Kinds>(
  space: Space2,
  scratch: Scratch<K>,
  line: Float64Array,
  ahead: number,
): void {
  const { geometry } = space
  const { along, asking, seams, back, seamWay: way } = scratch
  const length = Math.sqrt(line[2] * line[2] + line[3] * line[3])
  back[0] = -line[2] / length
  back[1] = -line[3] / length
  seams.clear((8 * ROUNDING * (Math.abs(line[0]) + Math.abs(line[1]))) / length)
  for (let k = 0; k < 2; k++) {
    way[k] = line[k]
    way[2 + k] = line[2 + k] * (1 + ahead)
  }
  along.walk.begin(way, scratch.seamHalf, whole)
  along.begin(space, asking.mask, asking.sensors)
  for (let piece = along.next(); piece >= 0; piece = along.next()) {
    if (!asking.accepts(geometry.ownerOf(piece))) continue
    const offset = geometry.offsetOf(piece)
    if (!grazeOf(geometry.world, offset, geometry.countOf(piece), geometry.kindOf(piece), line, graze)) continue
    graze[ENTER] -= ahead
    seams.add(piece, graze)
  }
  seams.sort()
}

/** The nearest place where the ray in `scratch.line` is closed in, kept in `best` where it comes before what stands there. */
export function nearestSeam<K extends Kinds>(space: Space2, scratch: Scratch<K>): void {
  const { seams, best, asking, serial, back } = scratch
  const { geometry } = space
  findSeams(space, scratch, scratch.line, 0)
  while (seams.advance(best)) {
    if (seams.inside && asking.skipInside) {
      passOver(space, scratch)
      continue
    }
    let chosen = -1
    for (let i = 0; i < seams.active.length; i++) {
      const each = seams.active.data[i]
      const age = serial.data[geometry.ownerOf(seams.pieceOf(each))]
      if (chosen < 0 || age < serial.data[geometry.ownerOf(seams.pieceOf(chosen))]) chosen = each
    }
    const piece = seams.pieceOf(chosen)
    const tied = seams.fraction === best[FRACTION] && scratch.bestPiece >= 0
    if (tied && serial.data[geometry.ownerOf(scratch.bestPiece)] < serial.data[geometry.ownerOf(piece)]) return
    best[FRACTION] = seams.fraction
    seams.readNormal(chosen, 2, back, best, RAY_NORMAL)
    scratch.bestPiece = piece
    scratch.bestInside = seams.inside
    return
  }
}

/**
 * Every collider that closes in what {@link findSeams} was asked about, from the first such place on.
 * @param ahead as there
 * @param limit what lies beyond it does not count
 * @param once content with the first place
 */
export function putSeams<K extends Kinds>(
  space: Space2,
  scratch: Scratch<K>,
  line: Float64Array,
  ahead: number,
  limit: Float64Array,
  once: boolean,
): void {
  const { seams, record, asking, found, back } = scratch
  const { geometry } = space
  while (seams.advance(limit)) {
    if (seams.inside && asking.skipInside) {
      passOver(space, scratch)
      continue
    }
    record[HIT_DEPTH] = 0
    for (let i = 0; i < seams.active.length; i++) {
      const each = seams.active.data[i]
      const piece = seams.pieceOf(each)
      record[KEY] = seams.fraction
      seams.readNormal(each, 2, back, record, HIT_NORMAL)
      const at = seams.inside ? Math.max(0, seams.enterOf(each) + ahead) : seams.fraction + ahead
      for (let k = 0; k < 2; k++) record[HIT_POINT + k] = line[k] + at * line[2 + k]
      found.put(geometry.ownerOf(piece), piece, seams.inside, record)
    }
    if (once) return
  }
}

/**
 * Of a segment that is cast along itself: where it is closed in. Any other shape has a width, and a gap of just that width lets it
 * through.
 * @param p, a, n the asking piece where it starts
 */
export function castSeams<K extends Kinds>(
  space: Space2,
  scratch: Scratch<K>,
  p: Float64Array,
  a: number,
  n: number,
  once: boolean,
): void {
  const { line, best, ray } = scratch
  if (n !== 2 || p[a] !== 0) return
  const [, , dx, dy] = line
  const square = dx * dx + dy * dy
  if (square === 0) return
  const ex = p[a + 3] - p[a + 1]
  const ey = p[a + 4] - p[a + 2]
  const far = Math.abs(p[a + 1]) + Math.abs(p[a + 2]) + Math.abs(ex) + Math.abs(ey)
  if (Math.abs(dx * ey - dy * ex) > 4 * ROUNDING * far * Math.sqrt(square)) return
  const along = (dx * ex + dy * ey) / square
  const rear = a + (along < 0 ? 3 : 1)
  ray[0] = p[rear]
  ray[1] = p[rear + 1]
  ray[2] = dx
  ray[3] = dy
  ray[5] = ROUNDING * far
  const ahead = Math.abs(along)
  findSeams(space, scratch, ray, ahead)
  putSeams(space, scratch, ray, ahead, best, once)
}

/** The question passes over every collider in which it starts: with it go all of its grazes. */
function passOver<K extends Kinds>(space: Space2, { seams }: Scratch<K>): void {
  const { geometry } = space
  while (seams.active.length > 0) {
    const owner = geometry.ownerOf(seams.pieceOf(seams.active.data[0]))
    seams.forget((piece) => geometry.ownerOf(piece) === owner)
  }
}
