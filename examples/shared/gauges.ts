/** What pages show of forces: values over time, and the strong impacts as a list. */
import uPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import { colour, element, eventItem } from './page.ts'

/** Ticks that a plot shows. */
const SHOWN = 600
/** Impacts that the list holds. */
const LISTED = 200

const LOOK: uPlot.Axis = {
  stroke: () => colour('--faint'),
  grid: { stroke: () => colour('--edge'), width: 1 },
  ticks: { show: false },
  font: '11px sans-serif',
}

/** Values over the time of a world, in the element of an id. */
export class TimePlot {
  private readonly plot: uPlot
  private readonly room: HTMLElement
  private readonly columns: number[][]

  constructor(id: string, series: uPlot.Series[]) {
    this.room = element(id)
    this.columns = [[], ...series.map(() => [])]
    const options = {
      ...this.size(),
      legend: { show: false },
      cursor: { show: false },
      scales: { x: { time: false } },
      axes: [
        { ...LOOK, size: 26 },
        { ...LOOK, size: 48 },
      ],
      series: [{}, ...series.map((each) => ({ width: 1.5, ...each }))],
    }
    this.plot = new uPlot(options, this.columns as uPlot.AlignedData, this.room)
    new ResizeObserver(() => this.plot.setSize(this.size())).observe(this.room)
  }

  /** One value of each series, at a time in seconds. */
  push(time: number, ...values: number[]): void {
    const row = [time, ...values]
    for (const [i, column] of this.columns.entries()) {
      column.push(row[i])
      if (column.length > SHOWN) column.shift()
    }
  }

  /** Shows these values instead, at these times. */
  set(times: readonly number[], ...values: (readonly number[])[]): void {
    for (const [i, list] of [times, ...values].entries()) this.columns[i] = list.slice(-SHOWN)
    this.draw()
  }

  clear(): void {
    for (const column of this.columns) column.length = 0
  }

  draw(): void {
    this.plot.setData(this.columns as uPlot.AlignedData)
  }

  private size(): { width: number; height: number } {
    return { width: Math.max(1, this.room.clientWidth - 16), height: this.room.clientHeight }
  }
}

/** The list of impacts of a page, and the hardest of the tick that is under way. */
export class ImpactList {
  private told = 0
  private hardest = 0

  add(time: number, a: unknown, b: unknown, impulse: number, speed: number): void {
    this.hardest = Math.max(this.hardest, impulse)
    const list = element('events')
    list.append(eventItem('impact', time, `${a} and ${b}`, `${impulse.toFixed(1)} Ns · ${speed.toFixed(1)} m/s`))
    while (list.childElementCount > LISTED) list.firstElementChild!.remove()
    list.scrollTop = list.scrollHeight
    element('count').textContent = String(++this.told)
  }

  clear(): void {
    this.told = 0
    this.hardest = 0
    element('events').replaceChildren()
    element('count').textContent = '0'
  }

  /** The impulse of the hardest since the last call, newton seconds; 0 for none. */
  takeHardest(): number {
    const { hardest } = this
    this.hardest = 0
    return hardest
  }
}
