/** Tables of whole numbers as grids of tiles, and back. */
import { KeenError } from 'keen-sentry'

/** Numbers row by row, as `tiles({ data, columns })` takes them. */
export interface NumberGrid {
  /** The numbers, row by row from the top. */
  readonly data: readonly number[]
  /** How many there are in a row. */
  readonly columns: number
}

/**
 * A table of whole numbers, a line a row from the top; commas, semicolons or tabs between them. What is below 0, empty or missing is 0.
 * @throws KeenError `bad-level`, naming the line
 */
export function numbersFromCsv(csv: string): NumberGrid {
  const lines = csv
    .replace(/^\uFEFF/, '')
    .replace(/\r/g, '')
    .replace(/\n+$/, '')
    .split('\n')
    .map((line) => line.replace(/[,;\t]\s*$/, '').split(/[,;\t]/))
  const columns = Math.max(...lines.map((line) => line.length))
  const data = lines.flatMap((line, row) =>
    Array.from({ length: columns }, (_, column) => {
      const field = (line[column] ?? '').trim()
      if (/^-?\d*$/.test(field)) return Math.max(0, Number(field) || 0)
      const found = `line ${row + 1}, field ${column + 1} of the csv is ${JSON.stringify(field)}`
      throw new KeenError('bad-level', `${found}, expected a whole number`)
    }),
  )
  return { data, columns }
}

/**
 * Rows of signs as a table of numbers: each sign by its place in `signs`, from 1; 0 is empty.
 * @param rows texts of a character a tile, or lists of signs
 */
export function csvFromRows(rows: readonly Iterable<string>[], signs: readonly string[]): string {
  const lines = rows.map((row) => [...row].map((sign) => signs.indexOf(sign) + 1).join(','))
  return `${lines.join('\n')}\n`
}
