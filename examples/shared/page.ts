/** Small things that every page needs. */

export function element<T extends HTMLElement>(id: string): T {
  return document.getElementById(id) as T
}

/** Makes a canvas as sharp as the screen it is on, and says how large it is in its own units. */
export function fit(canvas: HTMLCanvasElement, pen: CanvasRenderingContext2D): { width: number; height: number } {
  const ratio = window.devicePixelRatio || 1
  const { clientWidth: width, clientHeight: height } = canvas
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
    canvas.width = Math.round(width * ratio)
    canvas.height = Math.round(height * ratio)
  }
  pen.setTransform(ratio, 0, 0, ratio, 0, 0)
  return { width, height }
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

const light = matchMedia('(prefers-color-scheme: light)')

/** Which ground the reader's system asks for. */
export function theme(): 'light' | 'dark' {
  return light.matches ? 'light' : 'dark'
}

/** The value of a colour of the page. */
export function colour(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name)
}

// A panel or a list that scrolls must be within reach of the keyboard.
for (const each of document.querySelectorAll<HTMLElement>('aside, #events, #hits')) {
  if (each.querySelector('[role=tabpanel]') === null && each.closest('[role=tabpanel]') === null) each.tabIndex = 0
}
