import { onlyFields } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { checkVec, ORIGIN, POSE_SIZE, UPRIGHT, writePose } from '../vector.ts'
import { factsOf, Moments } from './facts.ts'
import { placed } from './place.ts'
import { type Compound, type CompoundPart, type Piece, refuseNoShape } from './shape.ts'

/**
 * Several shapes as one; `child` of a hit is the index in the list. No halfspace and no compound within it.
 * @throws KeenError `bad-shape`, `bad-argument`, `bad-number`
 * @example compound([{ shape: sphere(1) }, { shape: box(2, 1, 1), at: { x: 1, y: 0, z: 0 } }])
 */
export function compound(parts: readonly CompoundPart[]): Compound {
  if (!Array.isArray(parts) || parts.length === 0) {
    throw new KeenError('bad-shape', `a compound takes a list of at least one part, got ${show(parts)}`)
  }
  const pieces: Piece[] = []
  const pose = new Float64Array(POSE_SIZE)
  const moments = new Moments()
  const list = parts as readonly CompoundPart[]
  const kept = list.map((part, child) => {
    const what = `parts[${child}] of a compound`
    onlyFields(part, ['shape', 'at', 'rotation'], what)
    const { shape } = part
    const at = part.at === undefined ? ORIGIN : checkVec(part.at, `'at' of ${what}`)
    refuseNoShape(shape, `'shape' of ${what}`)
    const { kind } = shape as { kind: string }
    if (kind === 'compound' || kind === 'halfspace') {
      throw new KeenError(
        'bad-shape',
        `${what} must not be a ${kind}; list its parts, or give it a collider of its own`,
      )
    }
    writePose(at, part.rotation, `'rotation' of ${what}`, pose)
    for (const { block, surface } of shape.pieces) pieces.push({ block: placed(block, pose), surface, child })
    moments.addPlaced(shape, shape.volume, pose)
    const { x, y, z, w } = part.rotation ?? UPRIGHT
    return Object.freeze({ shape, at: Object.freeze({ ...at }), rotation: Object.freeze({ x, y, z, w }) })
  })
  const solid = moments.amount > 0
  // Of nothing but surfaces the centroid is the middle of their centroids.
  if (!solid) {
    for (const part of kept) {
      writePose(part.at, part.rotation, 'a part', pose)
      moments.addPlaced(part.shape, 1, pose)
    }
  }
  return Object.freeze({ kind: 'compound', parts: Object.freeze(kept), ...factsOf(pieces, moments, solid) })
}
