/** The reference for shapes of several pieces: every piece against every piece, planes by their height. */
import type { Shape2 } from '../../src/2d/index.ts'
import { gapOf, moved, placedBlock, type Round } from './round.ts'

type P = { readonly x: number; readonly y: number }

interface Plane {
  readonly normal: P
  readonly offset: number
}

export interface Pieces {
  readonly rounds: readonly Round[]
  readonly planes: readonly Plane[]
}

const PLANE = 2

/** A shape at a pose. */
export function piecesOf(shape: Shape2, at: P, angle: number): Pieces {
  const rounds: Round[] = []
  const planes: Plane[] = []
  for (const piece of shape.pieces) {
    // A head of two numbers, then what the kind says.
    const [kind, , ...block] = piece.block
    if (kind !== PLANE) rounds.push(placedBlock(piece.block, at, angle))
    else {
      const normal = {
        x: Math.cos(angle) * block[1] - Math.sin(angle) * block[2],
        y: Math.sin(angle) * block[1] + Math.cos(angle) * block[2],
      }
      planes.push({ normal, offset: block[0] + normal.x * at.x + normal.y * at.y })
    }
  }
  return { rounds, planes }
}

/** The least signed gap of all pieces. */
export function gapOfShapes(a: Pieces, b: Pieces): number {
  let least = Infinity
  for (const one of a.rounds) {
    for (const other of b.rounds) least = Math.min(least, gapOf(one, other))
    for (const plane of b.planes) least = Math.min(least, height(one, plane))
  }
  for (const plane of a.planes) for (const other of b.rounds) least = Math.min(least, height(other, plane))
  return least
}

function height(round: Round, { normal, offset }: Plane): number {
  return Math.min(...round.points.map((p) => p.x * normal.x + p.y * normal.y)) - offset - round.radius
}

export function movedPieces(pieces: Pieces, by: P): Pieces {
  return {
    rounds: pieces.rounds.map((round) => moved(round, by)),
    planes: pieces.planes.map(({ normal, offset }) => ({ normal, offset: offset + normal.x * by.x + normal.y * by.y })),
  }
}
