/** Tabs: one panel is shown, arrow keys go from one to the next. */
export function tabs(list: HTMLElement, chosen: (panel: string) => void): (panel: string) => void {
  const all = [...list.querySelectorAll<HTMLButtonElement>('[role=tab]')]
  const panelOf = (tab: HTMLElement): string => tab.getAttribute('aria-controls')!
  const choose = (panel: string): void => {
    for (const tab of all) {
      const isChosen = panelOf(tab) === panel
      tab.setAttribute('aria-selected', String(isChosen))
      tab.tabIndex = isChosen ? 0 : -1
      document.getElementById(panelOf(tab))!.hidden = !isChosen
    }
    chosen(panel)
  }
  for (const tab of all) {
    tab.addEventListener('click', () => choose(panelOf(tab)))
    // A panel that scrolls must be within reach of the keyboard.
    document.getElementById(panelOf(tab))!.tabIndex = 0
  }
  list.addEventListener('keydown', (event) => {
    const by = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0
    if (by === 0) return
    const now = all.indexOf(document.activeElement as HTMLButtonElement)
    const next = all[(now + by + all.length) % all.length]
    next.focus()
    choose(panelOf(next))
    event.preventDefault()
  })
  choose(panelOf(all[0]))
  return choose
}
