/** A question to a world of 3D and its answer, as items of a draw list. */
import type { Rotation, Shape3, Vec3 } from '../3d/index.ts'
import { multiply, writeTurn } from '../3d/vector.ts'
import { frameOf } from './frame.ts'
import type { DrawItem3 } from './list3d.ts'
import { HIT, RAY } from './palette.ts'
import { solidsOf } from './solids.ts'

/** What every hit has that is drawn. */
export interface ShownHit3 {
  /** Where it was met. */
  readonly point: Vec3 | null
  /** Unit, towards the asker. */
  readonly normal: Vec3 | null
  /** 0..1 of the whole length. */
  readonly fraction?: number | undefined
}

/** A question of 3D with its answer, to be drawn. */
export type Question3 =
  | { readonly kind: 'ray'; readonly from: Vec3; readonly to: Vec3 }
  | {
      readonly kind: 'shape'
      readonly shape: Shape3
      readonly from: Vec3
      readonly to: Vec3
      readonly rotation: Rotation
      /** The axis, as long as the radians. */
      readonly turn: Vec3
    }
  | { readonly kind: 'overlap'; readonly shape: Shape3; readonly at: Vec3; readonly rotation: Rotation }
  | { readonly kind: 'nearest'; readonly shape: Shape3 | null; readonly at: Vec3; readonly rotation: Rotation }

/** The question in its own colour; each hit with its point and normal; a moving shape where it hits first. */
export function questionItems3(question: Question3, hits: readonly ShownHit3[]): DrawItem3[] {
  const items: DrawItem3[] = []
  const first = hits.find((hit) => hit.fraction !== undefined)?.fraction
  if (question.kind === 'ray' || question.kind === 'shape') {
    const { from, to } = question
    const at = (t: number): Vec3 => ({
      x: from.x + (to.x - from.x) * t,
      y: from.y + (to.y - from.y) * t,
      z: from.z + (to.z - from.z) * t,
    })
    const end = at(first ?? 1)
    items.push({ kind: 'line', from, to: end, colour: RAY, width: 2, dashed: false })
    items.push({ kind: 'line', from: end, to, colour: RAY, width: 1.5, dashed: true })
    items.push({ kind: 'mark', at: from, sign: 'dot', colour: RAY, size: 8 })
    items.push({ kind: 'mark', at: to, sign: 'ring', colour: RAY, size: 8 })
    if (question.kind === 'shape') {
      const { shape, rotation, turn } = question
      items.push(...outlineItems(shape, from, rotation, false))
      items.push(...outlineItems(shape, end, turnedBy(rotation, turn, first ?? 1), first !== undefined))
    }
  } else {
    if (question.shape !== null) items.push(...outlineItems(question.shape, question.at, question.rotation, true))
    items.push({ kind: 'mark', at: question.at, sign: 'cross', colour: RAY, size: 10 })
  }
  for (const { point, normal } of hits) {
    if (point === null) continue
    if (question.kind === 'nearest') {
      items.push({ kind: 'line', from: question.at, to: point, colour: RAY, width: 1.5, dashed: true })
    }
    if (normal !== null) items.push({ kind: 'arrow', at: point, direction: normal, colour: HIT, length: 26 })
    items.push({ kind: 'mark', at: point, sign: 'ring', colour: HIT, size: 9 })
  }
  return items
}

function outlineItems(shape: Shape3, at: Vec3, rotation: Rotation, lit: boolean): DrawItem3[] {
  const frame = frameOf(at, rotation)
  return solidsOf(shape).map((solid) => ({ kind: 'solid', solid, frame, colour: RAY, fill: 'ghost', lit }))
}

/** A rotation turned further by a part of a turn. */
function turnedBy(rotation: Rotation, turn: Vec3, part: number): Rotation {
  const q = Float64Array.of(turn.x * part, turn.y * part, turn.z * part, 0, 0, 0, 0, 0, 0, 0, 0)
  writeTurn(q, 0, q, 3)
  q.set([rotation.x, rotation.y, rotation.z, rotation.w], 7)
  multiply(q, 3, q, 7, q, 3)
  const [x, y, z, w] = q.subarray(3, 7)
  return { x, y, z, w }
}
