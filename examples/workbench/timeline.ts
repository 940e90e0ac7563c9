/** The time line: a slider over all ticks, with a mark for everything that happened; a press on a mark goes to its tick. */
import type { LogLine } from 'keen-sentry/record'
import { element, fit } from '../shared/page.ts'
import type { Happening, Run } from './run.ts'

const COLOURS: Readonly<Record<Happening['kind'], string>> = {
  begin: '--begin',
  during: '--begin',
  end: '--end',
  impact: '--impact',
  action: '--action',
  joint: '--joint',
  ray: '--ray',
}
/** Rows of marks from the top, in parts of the height; the lowest is for the event log beside it. */
const ROWS: Readonly<Record<Happening['kind'], number>> = {
  begin: 0,
  during: 0,
  end: 1,
  impact: 0,
  joint: 1,
  action: 2,
  ray: 2,
}
const LOG_ROW = 3
const ROW = 7
/** Pixels by which a press may miss a mark. */
const MISS = 5
/** Pixels by which the knob of a slider keeps from its ends. */
const KNOB = 8

export class Timeline {
  private readonly canvas = element<HTMLCanvasElement>('marks')
  private readonly pen = this.canvas.getContext('2d')!
  private readonly slider = element<HTMLInputElement>('time')
  private readonly seek: (tick: number) => void
  private run: Run
  private log: readonly LogLine[] = []

  constructor(run: Run, seek: (tick: number) => void) {
    this.run = run
    this.seek = seek
    this.slider.addEventListener('input', () => seek(Number(this.slider.value)))
    this.canvas.addEventListener('click', (event) => this.press(event.offsetX))
    this.show(run)
  }

  show(run: Run): void {
    this.run = run
    this.slider.max = String(run.player.ticks)
    this.log = []
  }

  /** An event log beside it. */
  beside(log: readonly LogLine[]): void {
    this.log = log
  }

  draw(): void {
    const { pen, run, canvas } = this
    const { width, height } = fit(canvas, pen)
    const style = getComputedStyle(canvas)
    pen.clearRect(0, 0, width, height)
    // What has been played is known.
    pen.fillStyle = style.getPropertyValue('--edge')
    pen.fillRect(KNOB, 0, this.x(run.furthest, width) - KNOB, height)
    for (const { tick, kind } of run.happenings) {
      pen.fillStyle = style.getPropertyValue(COLOURS[kind])
      pen.fillRect(this.x(tick, width) - 1, ROWS[kind] * ROW + 1, 2, ROW - 1)
    }
    pen.fillStyle = style.getPropertyValue('--text')
    for (const line of this.log) {
      if ('kind' in line && line.kind !== 'state' && 'tick' in line)
        pen.fillRect(this.x(line.tick, width) - 0.5, LOG_ROW * ROW + 1, 1, ROW - 1)
    }
    pen.fillStyle = style.getPropertyValue('--accent')
    pen.fillRect(this.x(run.tick, width) - 1, 0, 2, height)
    this.slider.value = String(run.tick)
    this.slider.setAttribute('aria-valuetext', `tick ${run.tick} of ${run.player.ticks}`)
  }

  private x(tick: number, width: number): number {
    return KNOB + (tick / Math.max(1, this.run.player.ticks)) * (width - 2 * KNOB)
  }

  private press(x: number): void {
    const width = this.canvas.clientWidth
    const ticks = this.run.happenings.map(({ tick }) => tick)
    const nearest = ticks.reduce(
      (best, tick) => (Math.abs(this.x(tick, width) - x) < Math.abs(this.x(best, width) - x) ? tick : best),
      Infinity,
    )
    const isNear = Math.abs(this.x(nearest, width) - x) <= MISS
    const at = Math.round(((x - KNOB) / (width - 2 * KNOB)) * this.run.player.ticks)
    this.seek(isNear ? nearest : at)
  }
}
