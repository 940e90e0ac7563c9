/** Alternating runs of several ways of doing the same, in one process: median times, and medians of their ratios. */

export interface Way {
  readonly name: string
  /** One round of work; returns something that depends on all of it, so that nothing is left out. */
  run(): number
}

export interface Measured {
  /** Median seconds of a round, by the place of the way. */
  readonly seconds: readonly number[]
  /** Median over all rounds of how often the time of `fast` goes into that of `slow`: drifts of the machine cancel out. */
  ratio(slow: number, fast: number): number
}

const median = (all: readonly number[]): number => all.toSorted((a, b) => a - b)[all.length >> 1]

/**
 * Times each way over `rounds` rounds, taken in turn after a warm-up. A round should take milliseconds: short enough that
 * the machine is the same for all ways of it.
 */
export function measure(ways: readonly Way[], rounds = 200): Measured {
  const times: number[][] = ways.map(() => [])
  for (let round = -Math.ceil(rounds / 8); round < rounds; round++) {
    for (const [index, way] of ways.entries()) {
      const start = performance.now()
      const result = way.run()
      const seconds = (performance.now() - start) / 1000
      if (!Number.isFinite(result)) throw new Error(`${way.name} gave ${result}`)
      if (round >= 0) times[index].push(seconds)
    }
  }
  return {
    seconds: times.map(median),
    ratio: (slow, fast) => median(times[slow].map((time, round) => time / times[fast][round])),
  }
}

/** One row of a table in Markdown. */
export function row(...cells: (string | number)[]): void {
  process.stdout.write(`| ${cells.join(' | ')} |\n`)
}

export function head(...cells: string[]): void {
  process.stdout.write('\n')
  row(...cells)
  row(...cells.map(() => '---'))
}

export const times = (ratio: number): string => (ratio >= 20 ? ratio.toFixed(0) : ratio.toFixed(2))

/** Seconds as micro- or nanoseconds. */
export const each = (seconds: number): string =>
  seconds < 1e-6 ? `${(seconds * 1e9).toFixed(0)} ns` : `${(seconds * 1e6).toFixed(2)} µs`
