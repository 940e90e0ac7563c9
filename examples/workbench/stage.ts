/** What the workbench asks of a picture of either dimension. */
import type { Overlays, ThemeName } from 'keen-sentry/draw'
import type { AnyBody, Run } from './run.ts'

/** What is to be seen. */
export interface Look {
  readonly picked: AnyBody | null
  readonly second: AnyBody | null
  /** The layers that are shown; all of them where undefined. */
  readonly layers: readonly string[] | undefined
  readonly show: Overlays
  readonly names: boolean
  readonly rays: boolean
  readonly alpha: number
  readonly theme: ThemeName
}

/** What a picture tells the page. */
export interface Ears {
  /** @param isSecond of two that are asked about */
  pick(body: AnyBody | null, isSecond: boolean): void
  /** Whether the world runs now: then what is dragged is drawn by a hand, else it is put. */
  readonly playing: boolean
  /** Something else is to be seen. */
  changed(): void
}

export interface Stage {
  readonly canvas: HTMLCanvasElement
  draw(look: Look): void
  /** Shows all there is. */
  fit(): void
  /** Draws nearer, or goes away. */
  zoom(by: number): void
  /** Before each tick: what a hand holds is drawn on. */
  beforeStep(): void
  /** Moves a body by lengths of the screen's axes: right, up, and in 3D towards the eye. */
  nudge(body: AnyBody, right: number, up: number, nearer: number): void
  close(): void
}

export function newCanvas(room: HTMLElement): HTMLCanvasElement {
  const canvas = document.createElement('canvas')
  canvas.id = 'view'
  canvas.tabIndex = 0
  canvas.setAttribute('role', 'application')
  canvas.setAttribute('aria-label', 'the scene')
  canvas.setAttribute('aria-describedby', 'keys')
  room.querySelector('canvas#view')?.remove()
  room.prepend(canvas)
  return canvas
}

/** Puts a body somewhere else, as an edit of the run. */
export function put(run: Run, { serial }: AnyBody, at: { x: number; y: number; z?: number }): void {
  run.edit(() => run.body(serial)?.teleport(at as never), `put ${serial}`)
}
