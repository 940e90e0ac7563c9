/** Text for the terminal: the table of a run, and the sentences of a story. */
import { digits } from 'keen-sentry/internal'
import {
  fillJointTelling,
  fillTelling,
  type LogAction,
  type LogEvent,
  type LogJoint,
  type LogRay,
} from 'keen-sentry/record'
import pc from 'picocolors'
import { type Column, RowPrinter } from './table.ts'

/** What a run can tell, beyond begins and ends. */
export interface Told {
  readonly longestName: number
  readonly impacts: boolean
  readonly rays: boolean
}

const NAMES_WIDEST = 28

/** What happens, a row each. Columns of impacts and rays are there where a scene has any. */
export class EventTable {
  private readonly rows: RowPrinter

  constructor({ longestName, impacts, rays }: Told, print: (text: string) => void) {
    const width = Math.min(Math.max(longestName, 4), NAMES_WIDEST)
    const columns: Column[] = [
      { head: 'time', width: 9, spare: 0 },
      { head: 'what', width: 7, spare: 0 },
      { head: 'a', width, spare: 0, isName: true },
      { head: 'b', width, spare: 0, isName: true },
      { head: 'response', width: 8, spare: 6 },
      { head: 'cause', width: 10, spare: 3 },
      { head: 'dwell', width: 8, spare: 1 },
    ]
    if (impacts) {
      columns.push({ head: 'impulse', width: 10, spare: 2 }, { head: 'speed', width: 9, spare: 5 })
    }
    if (rays) columns.push({ head: 'distance', width: 9, spare: 4 })
    this.rows = new RowPrinter(columns, print)
  }

  event(line: LogEvent): void {
    const { kind, a, b, response, cause, impulse, closingSpeed } = line
    const struck = kind === 'impact'
    this.rows.row({
      time: clock(line.time),
      what: kindText(kind),
      a,
      b,
      response,
      cause,
      dwell: kind === 'begin' || struck ? '' : `${line.dwell.toFixed(2)} s`,
      impulse: struck && impulse! > 0 ? `${digits(impulse!, 3)} Ns` : '',
      speed: struck && closingSpeed! > 0 ? `${closingSpeed!.toFixed(1)} m/s` : '',
    })
  }

  ray({ time, ray, hit }: LogRay): void {
    const b = hit === null ? pc.dim('nothing') : hit.body
    const distance = hit === null ? '' : `${hit.distance.toFixed(2)} m`
    this.rows.row({ time: clock(time), what: pc.yellow('ray'), a: ray, b, distance })
  }

  action(line: LogAction): void {
    const a = line.body ?? line.joint ?? ''
    this.rows.row({ time: clock(line.time), what: pc.magenta('action'), a, cause: line.do })
  }

  joint({ time, joint, a, b, cause }: LogJoint): void {
    const ends = `${a}${b === null ? '' : `, ${b}`}`
    this.rows.row({ time: clock(time), what: pc.red('joint'), a: joint, b: ends, cause })
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

export function clock(seconds: number): string {
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
  if (line.cause !== 'moved' && line.kind !== 'impact') why.push(line.cause)
  if (line.kind === 'end' && !template.includes('{dwell}')) why.push(`after ${line.dwell.toFixed(2)} s`)
  if (line.kind === 'impact' && telling === undefined && line.impulse! > 0) why.push(`${digits(line.impulse!, 2)} Ns`)
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

export function jointSentence(line: LogJoint, telling: string | undefined): string {
  const plain = line.cause === 'broken' ? '{joint} breaks, under {force} N' : '{joint} ends: {cause}'
  return `${clock(line.time)}  ${pc.red('x')} ${fillJointTelling(telling ?? plain, line)}`
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
    motor: 'is driven otherwise',
    release: 'lets go',
    aim: 'goes elsewhere',
    carve: 'is carved',
    tile: 'gets another tile',
  }
  return `${clock(line.time)}  ${pc.magenta('*')} ${line.body ?? line.joint}${part} ${verbs[line.do] ?? line.do}`
}
