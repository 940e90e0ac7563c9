/** Keys, a pad for a thumb, and buttons: whatever is there says the same thing. */
import type { Controls } from './game.ts'

const WAYS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
  KeyA: [-1, 0],
  KeyD: [1, 0],
  KeyW: [0, 1],
  KeyS: [0, -1],
}
const ACTS: Readonly<Record<string, 'ping' | 'claw' | 'charge'>> = { Space: 'ping', KeyC: 'claw', KeyX: 'charge' }

/** How far the knob of the pad goes, in pixels. */
const KNOB = 44

export class Hands {
  /** Called when the player does anything. */
  onUse: () => void = () => {}
  private readonly held = new Set<string>()
  private readonly pressed = new Set<string>()
  private pad = { x: 0, y: 0 }

  /** Listens to the keys of a document, to a pad with its knob, and to a button for each act. */
  constructor(pad: HTMLElement, knob: HTMLElement, acts: Readonly<Record<'ping' | 'claw' | 'charge', HTMLElement>>) {
    document.addEventListener('keydown', (event) => this.down(event))
    document.addEventListener('keyup', ({ code }) => this.held.delete(code))
    addEventListener('blur', () => this.release())
    for (const [name, button] of Object.entries(acts)) {
      const press = (): void => {
        this.pressed.add(name)
        this.onUse()
      }
      // At once, and while a thumb is on the pad: a second finger makes no click. The keyboard makes one without a count.
      button.addEventListener('pointerdown', press)
      button.addEventListener('click', ({ detail }) => {
        if (detail === 0) press()
      })
    }
    const follow = (event: PointerEvent): void => {
      const { left, top, width, height } = pad.getBoundingClientRect()
      const x = (event.clientX - left - width / 2) / KNOB
      const y = (top + height / 2 - event.clientY) / KNOB
      const far = Math.max(1, Math.sqrt(x * x + y * y))
      this.pad = { x: x / far, y: y / far }
      knob.style.transform = `translate(${KNOB * this.pad.x}px, ${-KNOB * this.pad.y}px)`
      this.onUse()
    }
    const leave = (): void => {
      this.pad = { x: 0, y: 0 }
      knob.style.transform = ''
    }
    // Else a quick thumb would be a fling, and swallow the next tap.
    pad.addEventListener('touchstart', (event) => event.preventDefault(), { passive: false })
    pad.addEventListener('pointerdown', (event) => {
      pad.setPointerCapture(event.pointerId)
      follow(event)
    })
    pad.addEventListener('pointermove', (event) => {
      if (pad.hasPointerCapture(event.pointerId)) follow(event)
    })
    pad.addEventListener('pointerup', leave)
    pad.addEventListener('pointercancel', leave)
  }

  private down(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey) return
    const { code } = event
    const act = ACTS[code]
    if (WAYS[code] === undefined && act === undefined) return
    // A button that has the focus is pressed by the space bar.
    if (code === 'Space' && event.target instanceof HTMLButtonElement) return
    event.preventDefault()
    if (act !== undefined && !event.repeat) this.pressed.add(act)
    this.held.add(code)
    this.onUse()
  }

  /** Lets go of everything. */
  release(): void {
    this.held.clear()
    this.pressed.clear()
    this.pad = { x: 0, y: 0 }
  }

  /** What is asked for now; what was pressed is handed over once. */
  take(): Controls {
    let { x, y } = this.pad
    for (const code of this.held) {
      const way = WAYS[code]
      if (way === undefined) continue
      x += way[0]
      y += way[1]
    }
    const { pressed } = this
    const controls = {
      x: Math.max(-1, Math.min(1, x)),
      y: Math.max(-1, Math.min(1, y)),
      ping: pressed.has('ping'),
      claw: pressed.has('claw'),
      charge: pressed.has('charge'),
    }
    pressed.clear()
    return controls
  }
}
