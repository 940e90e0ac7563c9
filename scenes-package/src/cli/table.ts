/** Tables for the terminal: columns of known widths, printed row by row, and fewer of them where a terminal is narrow. */
import Table from 'cli-table3'
import pc from 'picocolors'

const PLAIN = {
  top: '',
  'top-mid': '',
  'top-left': '',
  'top-right': '',
  bottom: '',
  'bottom-mid': '',
  'bottom-left': '',
  'bottom-right': '',
  left: '',
  'left-mid': '',
  mid: '',
  'mid-mid': '',
  right: '',
  'right-mid': '',
  middle: '  ',
}
const GAP = 2
/** To how little a column of names is cut, before columns are left out and after. */
const SHORT_NAME = 12
const SHORTEST_NAME = 4

export interface Column {
  readonly head: string
  /** As wide as its widest cell. */
  readonly width: number
  /** Where room is short, those with the greatest number are left out first; 0 never is. */
  readonly spare: number
  /** Names can be cut. */
  readonly isName?: boolean
}

/** How many characters a line of the terminal holds; Infinity where the output goes elsewhere. */
function terminalWidth(): number {
  const width = process.stdout.columns ?? Number(process.env['COLUMNS'])
  return width > 0 ? width : Infinity
}

/** The columns that fit into a line: names are cut first, then columns left out, then names cut shorter. */
function fitted<C extends Column>(columns: readonly C[], room: number): C[] {
  const total = (list: readonly C[]): number => list.reduce((sum, { width }) => sum + width + GAP, -GAP)
  let kept = [...columns]
  const cut = (shortest: number): void => {
    const names = kept.filter((column) => column.isName === true && column.width > shortest)
    const over = Math.ceil((total(kept) - room) / Math.max(names.length, 1))
    if (over <= 0) return
    kept = kept.map((column) =>
      names.includes(column) ? { ...column, width: Math.max(column.width - over, shortest) } : column,
    )
  }
  cut(SHORT_NAME)
  while (total(kept) > room) {
    const most = Math.max(...kept.map(({ spare }) => spare))
    if (most === 0) break
    kept = kept.filter(({ spare }) => spare !== most)
  }
  cut(SHORTEST_NAME)
  return kept
}

/** Prints rows under a head. Cells are given by the heads of their columns; what has no column is left out. */
export class RowPrinter {
  private readonly columns: readonly Column[]
  private readonly print: (text: string) => void

  constructor(columns: readonly Column[], print: (text: string) => void) {
    this.columns = fitted(columns, terminalWidth())
    this.print = print
    this.row(Object.fromEntries(this.columns.map(({ head }) => [head, pc.dim(head)])))
  }

  row(cells: Readonly<Record<string, string>>): void {
    const table = new Table({
      chars: PLAIN,
      style: { 'padding-left': 0, 'padding-right': 0, head: [], border: [] },
      colWidths: this.columns.map(({ width }) => width),
    })
    table.push(this.columns.map(({ head }) => cells[head] ?? ''))
    this.print(`${table.toString().trimEnd()}\n`)
  }
}
