/** A question to a world and its answer, as items of a draw list. */
import type { Shape2 } from '../2d/index.ts'
import { HEAD } from '../2d/shapes/layout.ts'
import type { DrawItem, Point } from './list.ts'
import { HIT, RAY } from './palette.ts'
import { corePoints, shownPieces } from './pieces2d.ts'

/** What every hit has that is drawn. */
export interface ShownHit2 {
  /** Where it was met. */
  readonly point: Point | null
  /** Unit, towards the asker. */
  readonly normal: Point | null
  /** 0..1 of the whole length. */
  readonly fraction?: number | undefined
}

/** A question of 2D with its answer, to be drawn. */
export type Question2 =
  | { readonly kind: 'ray'; readonly from: Point; readonly to: Point }
  | {
      readonly kind: 'shape'
      readonly shape: Shape2
      readonly from: Point
      readonly to: Point
      readonly angle: number
      readonly turn: number
    }
  | { readonly kind: 'overlap'; readonly shape: Shape2; readonly at: Point; readonly angle: number }
  | { readonly kind: 'nearest'; readonly shape: Shape2 | null; readonly at: Point; readonly angle: number }

/** The question in its own colour; each hit with its point and normal; a moving shape where it hits first. */
export function questionItems2(question: Question2, hits: readonly ShownHit2[]): DrawItem[] {
  const items: DrawItem[] = []
  const first = hits.find((hit) => hit.fraction !== undefined)?.fraction
  if (question.kind === 'ray' || question.kind === 'shape') {
    const { from, to } = question
    const at = (t: number): Point => ({ x: from.x + (to.x - from.x) * t, y: from.y + (to.y - from.y) * t })
    const end = at(first ?? 1)
    items.push({ kind: 'line', from, to: end, colour: RAY, width: 2, dashed: false })
    items.push({ kind: 'line', from: end, to, colour: RAY, width: 1.5, dashed: true })
    items.push({ kind: 'mark', at: from, sign: 'dot', colour: RAY, size: 8 })
    items.push({ kind: 'mark', at: to, sign: 'ring', colour: RAY, size: 8 })
    if (question.kind === 'shape') {
      const { shape, angle, turn } = question
      items.push(...outlineItems(shape, from, angle, false))
      if (first !== undefined) items.push(...outlineItems(shape, end, angle + turn * first, true))
      else items.push(...outlineItems(shape, to, angle + turn, false))
    }
  } else {
    if (question.shape !== null) items.push(...outlineItems(question.shape, question.at, question.angle, true))
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

function outlineItems(shape: Shape2, at: Point, angle: number, lit: boolean): DrawItem[] {
  const cos = Math.cos(angle)
  const sin = Math.sin(angle)
  return shownPieces(shape).map(({ block }): DrawItem => {
    const points = corePoints(block).map(({ x, y }) => ({ x: at.x + cos * x - sin * y, y: at.y + sin * x + cos * y }))
    return { kind: 'round', points, radius: block[HEAD], colour: RAY, fill: 'ghost', lit }
  })
}
