/** Finds the name that was probably meant. Cold: used only when an error is being written. */

import { KeenError, show } from './errors.ts'

/** Edits (insert, delete, replace, swap of neighbours) that turn `a` into `b`: optimal string alignment. */
export function editDistance(a: string, b: string): number {
  const width = b.length + 1
  const rows = new Int32Array((a.length + 1) * width)
  for (let i = 0; i <= a.length; i++) rows[i * width] = i
  for (let j = 0; j <= b.length; j++) rows[j] = j
  for (let i = 1; i <= a.length; i++) {
    for (let j = 1; j <= b.length; j++) {
      const at = i * width + j
      const change = a[i - 1] === b[j - 1] ? 0 : 1
      let best = Math.min(rows[at - width] + 1, rows[at - 1] + 1, rows[at - width - 1] + change)
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) {
        best = Math.min(best, rows[at - 2 * width - 2] + 1)
      }
      rows[at] = best
    }
  }
  return rows[rows.length - 1]
}

/** Checks what {@link nearestName} is given: it is public, and so may be given anything. */
function checkNames(name: unknown, known: unknown): void {
  if (typeof name === 'string' && Array.isArray(known) && known.every((each) => typeof each === 'string')) return
  throw new KeenError(
    'bad-argument',
    `nearestName takes a name and a list of names, got ${show(name)} and ${show(known)}`,
  )
}

/** The known name nearest to `name`, or null when none is near enough to be what was meant. */
export function nearestName(name: string, known: readonly string[]): string | null {
  checkNames(name, known)
  const wanted = name.toLowerCase().slice(0, 64)
  let best: string | null = null
  let bestCost = Math.max(2, Math.ceil(wanted.length / 3)) + 1
  for (const candidate of known) {
    const cost = editDistance(wanted, candidate.toLowerCase().slice(0, 64))
    if (cost < bestCost && cost < Math.max(wanted.length, candidate.length)) {
      bestCost = cost
      best = candidate
    }
  }
  return best
}

/** "did you mean …?" when a near name exists, otherwise the list of what there is. */
export function hint(name: string, known: readonly string[]): string {
  const near = nearestName(name, known)
  if (near !== null) return `did you mean ${JSON.stringify(near)}?`
  if (known.length === 0) return 'none is defined'
  const listed = known.slice(0, 12).map((each) => JSON.stringify(each))
  return `there are ${listed.join(', ')}${known.length > 12 ? `, and ${known.length - 12} more` : ''}`
}
