/** Small things that every page needs. */

export function element<T extends HTMLElement>(id: string): T {
  return document.getElementById(id) as T
}

/** An item of the list of events: when, what, and a detail below. */
export function eventItem(kind: string, time: number, text: string, detail: string): HTMLLIElement {
  const item = document.createElement('li')
  item.className = kind
  const when = document.createElement('time')
  when.textContent = `${time.toFixed(2)} s`
  const what = document.createElement('span')
  what.textContent = text
  const small = document.createElement('small')
  small.textContent = detail
  item.append(when, what, small)
  return item
}
