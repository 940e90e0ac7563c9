import { finite, onlyFields, record } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { ANGLE } from '../../core/util/limits.ts'
import { cosSin } from '../../core/util/maths.ts'
import { checkVec } from '../vector.ts'
import { factsOf } from './facts.ts'
import { type Compound, type CompoundPart, type Piece, PLANE, refuseNoShape } from './shape.ts'

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
  const turn = new Float64Array(3)
  const kept = (parts as readonly CompoundPart[]).map((part, child) => {
    const what = `parts[${child}] of a compound`
    record(part, what)
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
    turn[0] = finite(angle, `'angle' of ${what}`, ANGLE)
    cosSin(turn, 0)
    for (const piece of shape.pieces)
      pieces.push({ ...piece, block: placeBlock(piece, at.x, at.y, turn[1], turn[2]), child })
    return Object.freeze({ shape, at: Object.freeze({ x: at.x, y: at.y }), angle })
  })
  return Object.freeze({ kind: 'compound', parts: Object.freeze(kept), ...factsOf(pieces) })
}

/** A piece's block moved and turned. */
export function placeBlock(piece: Piece, x: number, y: number, cos: number, sin: number): Float64Array {
  const { block } = piece
  const out = new Float64Array(block.length)
  placeInto(piece.kind, block, 0, (block.length - 1) / 2, x, y, cos, sin, out, 0)
  return out
}

/** Writes a block of `n` points, moved and turned, to another place. For a plane: its offset and normal. */
export function placeInto(
  kind: number,
  block: Float64Array,
  from: number,
  n: number,
  x: number,
  y: number,
  cos: number,
  sin: number,
  out: Float64Array,
  to: number,
): void {
  if (kind === PLANE) {
    const nx = cos * block[from + 1] - sin * block[from + 2]
    const ny = sin * block[from + 1] + cos * block[from + 2]
    out[to] = block[from] + nx * x + ny * y
    out[to + 1] = nx
    out[to + 2] = ny
    return
  }
  out[to] = block[from]
  for (let i = 1; i <= 2 * n; i += 2) {
    const px = block[from + i]
    const py = block[from + i + 1]
    out[to + i] = x + (cos * px - sin * py)
    out[to + i + 1] = y + (sin * px + cos * py)
  }
}
