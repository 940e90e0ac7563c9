/** Alternating runs of several ways of doing the same, in one process: medians, and their ratios. */

export interface Way {
  readonly name: string
  /** One round of work; returns something that depends on all of it, so that nothing is left out. */
  run(): number
}

/** Median seconds of each way over `rounds` rounds, taken in turn after a warm-up. */
export function medians(ways: readonly Way[], rounds = 15): number[] {
  const times: number[][] = ways.map(() => [])
  for (let round = -3; round < rounds; round++) {
    for (const [index, way] of ways.entries()) {
      const start = performance.now()
      const result = way.run()
      const seconds = (performance.now() - start) / 1000
      if (!Number.isFinite(result)) throw new Error(`${way.name} gave ${result}`)
      if (round >= 0) times[index].push(seconds)
    }
  }
  return times.map((all) => all.sort((a, b) => a - b)[all.length >> 1])
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
