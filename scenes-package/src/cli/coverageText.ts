/** Coverage of the rules of a scene as tables of text. */
import type { Coverage } from '../scene/index.ts'
import { RowPrinter } from './table.ts'

/** What was covered, as text. */
export function coverageText(coverage: Coverage, print: (text: string) => void): void {
  const { watches, pairs, rows } = coverage
  const widest = (words: readonly string[], least: number): number =>
    Math.min(30, Math.max(least, ...words.map(({ length }) => length)))
  const count = (told: number): string => (told === 0 ? 'never' : String(told))
  print('\n')
  const watchRows = new RowPrinter(
    [
      {
        head: 'watch',
        width: widest(
          watches.map(({ key }) => key),
          5,
        ),
        spare: 0,
        isName: true,
      },
      { head: 'events', width: 6, spare: 0 },
    ],
    print,
  )
  for (const { key, told } of watches) watchRows.row({ watch: key, events: count(told) })
  print('\n')
  const layers = widest(
    pairs.map(({ a }) => a),
    5,
  )
  const pairRows = new RowPrinter(
    [
      { head: 'layer', width: layers, spare: 0, isName: true },
      { head: 'and', width: layers, spare: 0, isName: true },
      { head: 'response', width: 8, spare: 0 },
      { head: 'near', width: 6, spare: 0 },
      { head: 'met', width: 6, spare: 0 },
    ],
    print,
  )
  for (const { a, b, response, near, met } of pairs) {
    pairRows.row({ layer: a, and: b, response, near: count(near), met: response === 'pass' ? '' : count(met) })
  }
  if (rows.length === 0) return
  print('\n')
  const texts = rows.map(({ row }) => row.join(', '))
  const tableRows = new RowPrinter(
    [
      { head: 'row of the pair table', width: widest(texts, 21), spare: 0, isName: true },
      { head: 'decided', width: 34, spare: 0 },
    ],
    print,
  )
  for (const [i, { decided, overridden }] of rows.entries()) {
    const text = overridden ? 'never: later rows say otherwise' : count(decided)
    tableRows.row({ 'row of the pair table': texts[i], decided: text })
  }
}
