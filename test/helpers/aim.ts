/** Motions that are aimed at what they are to meet, and a count of how often a property said something. */
import assert from 'node:assert/strict'
import fc from 'fast-check'
import { coordinate } from './arbitrary.ts'

/** How a motion is aimed: from where, how far beside the middle of its target, and how far beyond it; one in five goes anywhere. */
export interface Aim {
  readonly from: readonly number[]
  readonly beside: readonly number[]
  readonly anywhere: readonly number[]
  readonly over: number
  readonly free: number
}

const point = (axes: number, reach: number): fc.Arbitrary<number[]> =>
  fc.array(coordinate(reach), { minLength: axes, maxLength: axes })

export const aim = (axes: number, reach: number): fc.Arbitrary<Aim> =>
  fc.record({
    from: point(axes, reach),
    beside: point(axes, 0.5),
    anywhere: point(axes, reach),
    over: fc.double({ min: 1, max: 2, noNaN: true }),
    free: fc.integer({ min: 0, max: 4 }),
  })

interface Point {
  readonly x: number
  readonly y: number
  readonly z?: number
}

/** Start and end of a motion that is aimed at a place of either dimension. */
export function aimedAt<P extends Point>(at: P, { from, beside, anywhere, over, free }: Aim): { from: P; to: P } {
  const place = 'z' in at ? [at.x, at.y, at.z as number] : [at.x, at.y]
  const to = free === 0 ? anywhere : from.map((start, k) => start + (place[k] + beside[k] - start) * over)
  const vector = ([x, y, z]: readonly number[]): P => (z === undefined ? { x, y } : { x, y, z }) as unknown as P
  return { from: vector(from), to: vector(to) }
}

/** Counts the runs of a property, and those in which it spoke of its subject. */
export class Tally {
  private runs = 0
  private readonly spoken = new Map<string, number>()

  run(): void {
    this.runs++
  }

  say(subject: string): void {
    this.spoken.set(subject, (this.spoken.get(subject) ?? 0) + 1)
  }

  /** Asks that a part of all runs, at least, spoke of each subject. */
  expect(subjects: Readonly<Record<string, number>>): void {
    for (const [subject, part] of Object.entries(subjects)) {
      const share = (this.spoken.get(subject) ?? 0) / this.runs
      assert.ok(share >= part, `only ${(100 * share).toFixed(0)} % of ${this.runs} runs spoke of "${subject}"`)
    }
  }
}
