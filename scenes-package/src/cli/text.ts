/** Text for the terminal: a table that is printed as it grows, and the sentences of a story. */
import Table from 'cli-table3'
import { fillTelling, type LogAction, type LogEvent, type LogRay } from 'keen-sentry/record'
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
  middle: ' ',
}

/** A table without borders. */
export const RULED = { ...PLAIN, mid: '', 'top-mid': '', 'bottom-mid': '', middle: '  ' }

const HEADS = ['time', 'what', 'a', 'b', 'response', 'cause', 'dwell']
type Cells = readonly [string, string, string, string, string, string, string]

/** Rows under one head, with widths known beforehand, so that a long run prints as it goes. */
export class EventTable {
  private readonly widths: number[]
  private readonly print: (text: string) => void

  constructor(longestName: number, print: (text: string) => void) {
    const name = Math.min(Math.max(longestName, 4), 28) + 2
    this.widths = [10, 9, name, name, 10, 12, 9]
    this.print = print
    this.row(HEADS.map((head) => pc.dim(head)) as unknown as Cells)
  }

  event(line: LogEvent): void {
    const strength = line.impulse! > 0 ? `${line.impulse!.toPrecision(3)} Ns` : `${line.closingSpeed?.toFixed(1)} m/s`
    const dwell = line.kind === 'begin' ? '' : line.kind === 'impact' ? strength : `${line.dwell.toFixed(2)} s`
    this.row([clock(line.time), kindText(line.kind), line.a, line.b, line.response, line.cause, dwell])
  }

  ray(line: LogRay): void {
    const hit = line.hit
    const what = hit === null ? pc.dim('nothing') : hit.body
    this.row([
      clock(line.time),
      pc.yellow('ray'),
      line.ray,
      what,
      '',
      hit === null ? '' : `at ${hit.distance.toFixed(2)} m`,
      '',
    ])
  }

  action(line: LogAction): void {
    this.row([clock(line.time), pc.magenta('action'), line.body, '', '', line.do, ''])
  }

  private row(cells: Cells): void {
    const table = new Table({
      chars: PLAIN,
      style: { 'padding-left': 0, 'padding-right': 0, head: [], border: [] },
      colWidths: this.widths,
    })
    table.push([...cells])
    this.print(`${table.toString().trimEnd()}\n`)
  }
}

function kindText(kind: string): string {
  return kind === 'begin'
    ? pc.green(kind)
    : kind === 'end'
      ? pc.cyan(kind)
      : kind === 'impact'
        ? pc.red(kind)
        : pc.dim(kind)
}

function clock(seconds: number): string {
  return pc.bold(`${seconds.toFixed(2).padStart(7)} s`)
}

/** How an event is told when the scene has no words of its own for it. */
const TELLINGS: Record<string, string> = {
  'begin sense': '{a} enters {b}',
  'end sense': '{a} leaves {b}',
  'begin solid': '{a} touches {b}',
  'end solid': '{a} lets go of {b}',
  'impact solid': '{a} strikes {b} at {speed} m/s',
  'during sense': '{a} is in {b}',
  'during solid': '{a} rests against {b}',
}

/** One line of the story. */
export function eventSentence(line: LogEvent, telling: string | undefined): string {
  const template = telling ?? TELLINGS[`${line.kind} ${line.response}`] ?? '{a} and {b}'
  const text = fillTelling(template, line)
  const why: string[] = []
  if (line.cause !== 'moved') why.push(line.cause)
  if (line.kind === 'end' && !template.includes('{dwell}')) why.push(`after ${line.dwell.toFixed(2)} s`)
  if (line.kind === 'impact' && telling === undefined && line.impulse! > 0)
    why.push(`${line.impulse!.toPrecision(2)} Ns`)
  const signs = { begin: pc.green('▶'), end: pc.cyan('◀'), during: pc.dim('·'), impact: pc.red('!') }
  const sign = signs[line.kind]
  return `${clock(line.time)}  ${sign} ${text}${why.length > 0 ? pc.dim(`  (${why.join(', ')})`) : ''}`
}

export function raySentence(line: LogRay): string {
  const { hit } = line
  const text =
    hit === null ? `${line.ray} meets nothing` : `${line.ray} meets ${hit.body}, ${hit.distance.toFixed(2)} m away`
  return `${clock(line.time)}  ${pc.yellow('~')} ${pc.dim(text)}`
}

export function actionSentence(line: LogAction): string {
  const part = line.collider === undefined ? '' : ` (collider ${line.collider})`
  const verbs: Record<string, string> = {
    teleport: 'is teleported',
    remove: 'is removed',
    enable: 'is switched on',
    disable: 'is switched off',
    layer: 'changes its layer',
    push: 'is pushed',
    type: 'changes its type',
    blast: 'blows up',
  }
  return `${clock(line.time)}  ${pc.magenta('*')} ${line.body}${part} ${verbs[line.do] ?? line.do}`
}
