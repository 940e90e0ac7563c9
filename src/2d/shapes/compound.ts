import { finite, onlyFields } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { ANGLE } from '../../core/util/limits.ts'
import { checkVec } from '../vector.ts'
import { factsOf } from './facts.ts'
import { placed, writePose } from './place.ts'
import { type Compound, type CompoundPart, type Piece, refuseNoShape } from './shape.ts'

/**
 * Several shapes as one; `child` of a hit is the index in the list. No halfspace and no compound within it.
 * @throws KeenError `bad-shape`, `bad-argument`, `bad-number`
 * @example compound([{ shape: circle(1) }, { shape: box(2, 1), at: { x: 1, y: 0 }, angle: 0.3 }])
 */
export function compound(parts: readonly CompoundPart[]): Compound {
  if (!Array.isArray(parts) || parts.length === 0) {
    throw new KeenError('bad-shape', `a compound takes a list of at least one part, got ${show(parts)}`)
  }
  const pieces: Piece[] = []
  const pose = new Float64Array(5)
  const kept = (parts as readonly CompoundPart[]).map((part, child) => {
    const what = `parts[${child}] of a compound`
    onlyFields(part, ['shape', 'at', 'angle'], what)
    const { shape, angle = 0 } = part
    const at = part.at === undefined ? { x: 0, y: 0 } : checkVec(part.at, `'at' of ${what}`)
    refuseNoShape(shape, `'shape' of ${what}`)
    if (shape.kind === 'compound' || shape.kind === 'halfspace') {
      throw new KeenError(
        'bad-shape',
        `${what} must not be a ${shape.kind}; list its parts, or give it a collider of its own`,
      )
    }
    finite(angle, `'angle' of ${what}`, ANGLE)
    writePose(at, angle, pose)
    for (const piece of shape.pieces) pieces.push({ ...piece, block: placed(piece.block, pose), child })
    return Object.freeze({ shape, at: Object.freeze({ x: at.x, y: at.y }), angle })
  })
  return Object.freeze({ kind: 'compound', parts: Object.freeze(kept), ...factsOf(pieces) })
}
