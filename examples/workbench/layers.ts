/** The layers of a scene: shown or hidden, the pair table as buttons that change the world at once, and which of its rows mattered. */
import type { Response } from 'keen-sentry'
import { layerColour } from 'keen-sentry/draw'
import { element } from '../shared/page.ts'
import { keyOf, type Run } from './run.ts'

const SIGNS: Readonly<Record<Response, string>> = { solid: '●', sense: '◐', pass: '○' }
const NEXT: Readonly<Record<Response, Response>> = { solid: 'sense', sense: 'pass', pass: 'solid' }

/** The layers of a world, without their types. */
interface Table {
  readonly all: readonly string[]
  pair(a: string, b: string): Response
}

export class LayersPanel {
  private readonly hidden = new Set<string>()
  private readonly changed: () => void
  private cells: { readonly a: string; readonly b: string; readonly button: HTMLButtonElement }[] = []
  private run: Run | null = null
  private asInFile: Table | null = null

  constructor(changed: () => void) {
    this.changed = changed
  }

  /** The layers that are shown; undefined for all. */
  get shown(): readonly string[] | undefined {
    if (this.hidden.size === 0 || this.run === null) return undefined
    return tableOf(this.run).all.filter((name) => !this.hidden.has(name))
  }

  show(run: Run): void {
    this.run = run
    this.hidden.clear()
    this.asInFile = tableOf(run)
    const { all } = this.asInFile
    const table = document.createElement('table')
    table.createCaption().className = 'unseen'
    table.caption!.textContent = 'the pair table'
    const head = table.createTHead().insertRow()
    head.append(header('layer', 'col'), ...all.map((name) => header(name, 'col')))
    head.firstElementChild!.classList.add('corner')
    this.cells = []
    const body = table.createTBody()
    for (const [i, a] of all.entries()) {
      const row = body.insertRow()
      row.append(this.rowHead(a, i))
      for (const b of all.slice(0, i + 1)) row.insertCell().append(this.cell(a, b))
    }
    element('table').replaceChildren(table)
    this.draw()
  }

  draw(): void {
    const { run } = this
    if (run === null) return
    const table = tableOf(run)
    const covered = run.counter?.result((run.scene.watches ?? [{ a: '*', b: '*' }]).map(keyOf)) ?? null
    const counts = new Map(
      covered?.pairs.flatMap((pair) => [
        [`${pair.a} ${pair.b}`, pair],
        [`${pair.b} ${pair.a}`, pair],
      ]),
    )
    for (const { a, b, button } of this.cells) {
      const response = table.pair(a, b)
      const count = counts.get(`${a} ${b}`)
      const isChanged = response !== this.asInFile!.pair(a, b)
      const met =
        count === undefined ? '' : response === 'pass' ? ` near ${count.near} times` : ` met ${count.met} times`
      const label = `${a} and ${b}: ${response}${met}${isChanged ? ', changed' : ''}; press for ${NEXT[response]}`
      if (button.getAttribute('aria-label') === label) continue
      button.setAttribute('aria-label', label)
      button.title = label
      button.className = `cell ${response}${isChanged ? ' changed' : ''}`
      const small = document.createElement('small')
      small.textContent = count === undefined ? '' : String(response === 'pass' ? count.near : count.met)
      button.replaceChildren(SIGNS[response], small)
    }
    this.drawRows(covered)
  }

  private drawRows(covered: ReturnType<NonNullable<Run['counter']>['result']> | null): void {
    const text = (value: string): HTMLLIElement => {
      const item = document.createElement('li')
      item.textContent = value
      return item
    }
    const rows =
      covered === null
        ? [text('Not counted: there are too many colliders.')]
        : covered.rows.map(({ row, decided, overridden }) => {
            const said = overridden
              ? 'never: later rows say otherwise'
              : decided === 0
                ? 'never mattered so far'
                : `decided ${decided} times`
            const item = text(`${row[0]}, ${row[1]}: ${row[2]} (${said})`)
            if (decided === 0) item.className = 'never'
            return item
          })
    const list = element('rows')
    const now = rows.map(({ textContent }) => textContent).join('\n')
    if (list.dataset['now'] === now) return
    list.dataset['now'] = now
    list.replaceChildren(...(rows.length === 0 ? [text('The table has no rows.')] : rows))
  }

  private rowHead(name: string, index: number): HTMLElement {
    const head = header('', 'row')
    const label = document.createElement('label')
    const box = document.createElement('input')
    box.type = 'checkbox'
    box.checked = true
    box.setAttribute('aria-label', `show ${name}`)
    box.addEventListener('change', () => {
      if (box.checked) this.hidden.delete(name)
      else this.hidden.add(name)
      this.changed()
    })
    const colour = document.createElement('i')
    colour.style.background = layerColour(index)
    label.append(box, colour, name)
    head.append(label)
    return head
  }

  private cell(a: string, b: string): HTMLButtonElement {
    const button = document.createElement('button')
    button.type = 'button'
    button.dataset['pair'] = `${a} ${b}`
    button.addEventListener('click', () => {
      const run = this.run!
      const response = NEXT[tableOf(run).pair(a, b)]
      run.edit(() => run.player.world.setPair(a as never, b as never, response))
      this.changed()
    })
    this.cells.push({ a, b, button })
    return button
  }
}

function tableOf(run: Run): Table {
  return run.player.world.layers as unknown as Table
}

function header(text: string, scope: 'col' | 'row'): HTMLTableCellElement {
  const cell = document.createElement('th')
  cell.scope = scope
  cell.textContent = text
  return cell
}
