/** The events of a run as a list that is filtered; a press on one goes to its tick. */
import { element, eventItem } from '../shared/page.ts'
import type { Happening, Run } from './run.ts'

const KINDS: readonly [Happening['kind'], string][] = [
  ['begin', 'begin'],
  ['end', 'end'],
  ['impact', 'impact'],
  ['action', 'action'],
  ['joint', 'joint'],
  ['ray', 'ray'],
]
/** Events that are listed at most: the latest. */
const LISTED = 300

export class HappenedPanel {
  private readonly list = element<HTMLOListElement>('events')
  private readonly whom = element<HTMLInputElement>('about-whom')
  private readonly seek: (happening: Happening) => void
  private readonly on = new Set<string>(KINDS.map(([kind]) => kind))
  private shown: readonly Happening[] = []
  private known = -1
  private isFiltered = true

  constructor(seek: (happening: Happening) => void, changed: () => void) {
    this.seek = seek
    const filter = (): void => {
      this.isFiltered = true
      changed()
    }
    for (const [kind, text] of KINDS) {
      const label = document.createElement('label')
      const box = document.createElement('input')
      box.type = 'checkbox'
      box.checked = true
      box.addEventListener('change', () => {
        if (box.checked) this.on.add(kind)
        else this.on.delete(kind)
        filter()
      })
      label.append(box, text)
      element('kinds').append(label)
    }
    this.whom.addEventListener('input', filter)
  }

  draw(run: Run): void {
    const { happenings, tick } = run
    if (this.isFiltered || this.known !== happenings.length) {
      const known = this.known
      this.known = happenings.length
      this.isFiltered = false
      const part = this.whom.value.trim().toLowerCase()
      const isShown = ({ kind, text, names }: Happening): boolean =>
        this.on.has(kind === 'during' ? 'begin' : kind) &&
        (part === '' || text.toLowerCase().includes(part) || names.some((name) => name.toLowerCase().includes(part)))
      const all = happenings.filter(isShown)
      this.shown = all.slice(-LISTED)
      this.list.replaceChildren(...this.shown.map((each) => this.item(each)))
      element('count').textContent = String(all.length)
      element('all').textContent = String(happenings.length)
      if (happenings.length > known) this.list.parentElement!.scrollTop = this.list.parentElement!.scrollHeight
    }
    for (const [i, item] of [...this.list.children].entries()) item.classList.toggle('now', this.shown[i].tick === tick)
  }

  private item(happening: Happening): HTMLLIElement {
    const { kind, time, text, detail } = happening
    const item = eventItem(kind, time, text, detail)
    const button = document.createElement('button')
    button.type = 'button'
    button.append(...item.childNodes)
    button.addEventListener('click', () => this.seek(happening))
    item.append(button)
    return item
  }
}
