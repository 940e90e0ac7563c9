/**
 * The hits of a ray where it is closed in between solids that it only grazes one by one: along the common face of two boxes, or
 * through a corner that they share. Written once for both dimensions, for it is rare.
 */

import type { PieceWalk, TreeWalk } from '../tree/walk.ts'
import type { HitList } from './hitList.ts'
import type { QueryKernel } from './hits.ts'
import { ENTER, type Seams } from './seams.ts'

/** A hit begins with its fraction and the unit normal. */
const FRACTION = 0
const NORMAL = 1
/** Part of a coordinate by which a place on a ray is rounded. */
const ROUNDING = 4e-15

const whole = Float64Array.of(1)

interface Moves extends TreeWalk {
  begin(line: Float64Array, half: Float64Array, limit: Float64Array): void
}

/** What a query writes to. */
export interface SeamScratch {
  readonly compiled: {
    readonly mask: number
    readonly sensors: boolean
    readonly skipInside: boolean
    accepts(c: number): boolean
  }
  readonly along: PieceWalk<Moves>
  readonly seams: Seams
  readonly found: HitList
  readonly serial: { readonly data: Int32Array }
  readonly best: Float64Array
  bestPiece: number
  bestInside: boolean
  /** A hit's numbers, and those of one without depth and triangle. */
  readonly record: Float64Array
  readonly blank: Float64Array
  /** Start and motion of the walk, its half size (zero), and the unit direction against the ray. */
  readonly seamWay: Float64Array
  readonly seamHalf: Float64Array
  readonly back: Float64Array
  readonly graze: Float64Array
  readonly layout: { readonly point: number }
}

/**
 * Looks for all grazes of a ray; `scratch.seams.advance` then goes from place to place.
 * @param line the ray: start, then motion
 * @param ahead as a part of the motion, how far what goes along the ray reaches ahead of its start
 */
export function findSeams(kernel: QueryKernel, scratch: SeamScratch, line: Float64Array, ahead: number): void {
  const { geometry } = kernel
  const { along, compiled, seams, back, seamWay, graze } = scratch
  const size = back.length
  let square = 0
  let far = 0
  for (let k = 0; k < size; k++) {
    square += line[size + k] * line[size + k]
    far += Math.abs(line[k])
    seamWay[k] = line[k]
    seamWay[size + k] = line[size + k] * (1 + ahead)
  }
  const length = Math.sqrt(square)
  seams.clear((ROUNDING * far) / length)
  if (!(length > 0)) return
  for (let k = 0; k < size; k++) back[k] = -line[size + k] / length
  along.walk.begin(seamWay, scratch.seamHalf, whole)
  along.begin(kernel, compiled.mask, compiled.sensors)
  for (let piece = along.next(); piece >= 0; piece = along.next()) {
    if (!compiled.accepts(geometry.ownerOf(piece)) || !kernel.graze(piece, line, graze)) continue
    graze[ENTER] -= ahead
    seams.add(piece, graze)
  }
  seams.sort()
}

/** The nearest place where a ray is closed in, kept in `best` where it comes before what stands there. */
export function nearestSeam(kernel: QueryKernel, scratch: SeamScratch, line: Float64Array): void {
  const { seams, best, compiled, serial, back, blank } = scratch
  const { geometry } = kernel
  findSeams(kernel, scratch, line, 0)
  while (seams.advance(best)) {
    if (seams.inside && compiled.skipInside) {
      passOver(kernel, seams)
      continue
    }
    const age = (piece: number): number => serial.data[geometry.ownerOf(piece)]
    let chosen = seams.active.data[0]
    for (let i = 1; i < seams.active.length; i++) {
      const each = seams.active.data[i]
      if (age(seams.pieceOf(each)) < age(seams.pieceOf(chosen))) chosen = each
    }
    const piece = seams.pieceOf(chosen)
    const tied = seams.fraction === best[FRACTION] && scratch.bestPiece >= 0
    if (tied && age(scratch.bestPiece) < age(piece)) return
    for (let k = 0; k < best.length; k++) best[k] = blank[k]
    best[FRACTION] = seams.fraction
    seams.readNormal(chosen, back, best, NORMAL)
    scratch.bestPiece = piece
    scratch.bestInside = seams.inside
    return
  }
}

/**
 * Puts every collider that closes in what {@link findSeams} was asked about among the hits, from the first such place on.
 * @param line, ahead as there
 * @param limit what lies beyond it does not count
 * @param once content with the first place
 */
export function putSeams(
  kernel: QueryKernel,
  scratch: SeamScratch,
  line: Float64Array,
  ahead: number,
  limit: Float64Array,
  once: boolean,
): void {
  const { seams, record, compiled, found, back, blank, layout } = scratch
  const { geometry } = kernel
  const size = back.length
  while (seams.advance(limit)) {
    if (seams.inside && compiled.skipInside) {
      passOver(kernel, seams)
      continue
    }
    for (let i = 0; i < seams.active.length; i++) {
      const each = seams.active.data[i]
      const piece = seams.pieceOf(each)
      for (let k = 0; k < record.length; k++) record[k] = blank[k]
      record[FRACTION] = seams.fraction
      seams.readNormal(each, back, record, NORMAL)
      const at = seams.inside ? Math.max(0, seams.enterOf(each) + ahead) : seams.fraction + ahead
      for (let k = 0; k < size; k++) record[layout.point + k] = line[k] + at * line[size + k]
      found.put(geometry.ownerOf(piece), piece, seams.inside, record)
    }
    if (once) return
  }
}

/** The question passes over every collider in which it starts: with it go all of its grazes. */
function passOver({ geometry }: QueryKernel, seams: Seams): void {
  while (seams.active.length > 0) {
    const owner = geometry.ownerOf(seams.pieceOf(seams.active.data[0]))
    seams.forget((piece) => geometry.ownerOf(piece) === owner)
  }
}
