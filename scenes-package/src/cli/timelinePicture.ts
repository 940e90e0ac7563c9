/** An event log as a picture: a bar for each pair from its begin to its end, impacts as spikes, changes of rays, actions, ends of joints. */
import type { LogAction, LogEvent, LogHeader, LogJoint, LogLine, LogRay } from 'keen-sentry/record'

/** The pair, or the ray, of a row, and what happened in it. Ticks are those of the log. */
interface Row {
  readonly name: string
  readonly bars: Bar[]
  readonly spikes: { readonly tick: number; readonly impulse: number }[]
  readonly turns: { readonly tick: number; readonly text: string }[]
  /** Begins of what nobody tells the end of. */
  readonly marks: { readonly tick: number; readonly response: 'solid' | 'sense' }[]
}

interface Bar {
  readonly from: number
  /** Null where it goes on. */
  to: number | null
  readonly response: 'solid' | 'sense'
  /** Where it is not plain motion. */
  readonly begun: string
  ended: string
}

const INK = {
  ground: '#0b1724',
  stripe: '#0f1d2c',
  line: '#1d3348',
  text: '#dfe9f2',
  faint: '#8ea3b8',
  sense: '#4fb3e8',
  solid: '#ffb545',
  spike: '#ff8f70',
  ray: '#ece27a',
  action: '#f491bd',
  broken: '#ff5c5c',
}
const FONT = "'DejaVu Sans', 'Segoe UI', 'Helvetica Neue', sans-serif"
const TOP = 84
const FOOT = 40
const RIGHT = 28
/** Width of a character, as a part of the size of the font. */
const CHARACTER = 0.6
const LONGEST_NAME = 40
const MOST_ROWS = 2000

export interface Timeline {
  readonly svg: string
  readonly rows: number
  readonly ticks: number
  /** Rows that found no room, and are said to be missing. */
  readonly left: number
}

/**
 * @param width pixels; the height follows from the number of rows
 * @param endless keys of watches that tell no ends, where that is known
 */
export function timelineOf(lines: readonly LogLine[], width: number, endless: ReadonlySet<string>): Timeline {
  const head = lines[0] as LogHeader
  const all = rowsOf(lines, new Set([...endless, ...beginsTwice(lines)]))
  const rows = all.slice(0, MOST_ROWS)
  const actions = lines.filter((line): line is LogAction => 'kind' in line && line.kind === 'action')
  const joints = lines.filter((line): line is LogJoint => 'kind' in line && line.kind === 'joint')
  const last = Math.max(head.tick + 1, ...lines.map((line) => tickOf(line, head.tick)))
  const size = rows.length <= 24 ? 13 : rows.length <= 80 ? 11 : 9
  const pitch = Math.round(size * (rows.length <= 24 ? 2.1 : 1.6))
  const longest = Math.max(8, ...rows.map(({ name }) => Math.min(name.length, LONGEST_NAME)))
  const left = Math.min(Math.ceil(longest * size * CHARACTER) + 26, width * 0.4)
  const height = TOP + Math.max(rows.length, 3) * pitch + FOOT
  const x = (tick: number): number => left + ((tick - head.tick) / (last - head.tick)) * (width - left - RIGHT)
  const strongest = Math.max(0, ...rows.flatMap(({ spikes }) => spikes.map(({ impulse }) => impulse)))
  const place: Place = { x, rate: head.rate, last, size, pitch, right: width - RIGHT, strongest }
  const parts = [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" font-family="${FONT}">`,
    '<defs><pattern id="sense" patternUnits="userSpaceOnUse" width="6" height="6" patternTransform="rotate(45)">' +
      `<rect width="6" height="6" fill="${INK.sense}" fill-opacity="0.22"/><rect width="2" height="6" fill="${INK.sense}" fill-opacity="0.8"/></pattern></defs>`,
    `<rect width="${width}" height="${height}" fill="${INK.ground}"/>`,
    text(18, 32, 19, INK.text, head.scene, 'font-weight="bold"'),
    legend(width),
    ...rows.map((_, i) =>
      i % 2 === 0 ? `<rect x="0" y="${TOP + i * pitch}" width="${width}" height="${pitch}" fill="${INK.stripe}"/>` : '',
    ),
    axis(place, head.tick, height - FOOT),
    ...happenings(place, actions, joints, height - FOOT),
    ...rows.map((row, i) => rowSvg(row, TOP + i * pitch, left, place)),
    caption(rows.length, all.length - rows.length, last - head.tick, head.rate, height),
    '</svg>',
  ]
  return {
    svg: parts.filter((part) => part !== '').join('\n'),
    rows: rows.length,
    ticks: last,
    left: all.length - rows.length,
  }
}

interface Place {
  x(tick: number): number
  readonly rate: number
  readonly last: number
  readonly size: number
  readonly pitch: number
  readonly right: number
  readonly strongest: number
}

function tickOf(line: LogLine, from: number): number {
  if ('ticks' in line) return from + line.ticks
  return 'tick' in line ? line.tick : 0
}

/** Watches that told of a begin twice, and of no end at all: of these it is not known how long what they tell of lasts. */
function beginsTwice(lines: readonly LogLine[]): ReadonlySet<string> {
  const begun = new Set<string>()
  const twice = new Set<string>()
  for (const line of lines) {
    if (!('dwell' in line)) continue
    const pair = JSON.stringify([line.watch, line.a, line.b])
    if (line.kind === 'begin' && begun.has(pair)) twice.add(line.watch)
    begun.add(pair)
  }
  for (const line of lines) if ('dwell' in line && line.kind === 'end') twice.delete(line.watch)
  return twice
}

/** Pairs in the order in which they first met, then rays. */
function rowsOf(lines: readonly LogLine[], endless: ReadonlySet<string>): Row[] {
  const pairs = new Map<string, Row>()
  const rays = new Map<string, Row>()
  const row = (of: Map<string, Row>, name: string): Row => {
    let found = of.get(name)
    if (found === undefined) of.set(name, (found = { name, bars: [], spikes: [], turns: [], marks: [] }))
    return found
  }
  for (const line of lines) {
    if (!('kind' in line)) continue
    if (line.kind === 'ray') turn(row(rays, `ray ${line.ray}`), line)
    else if ('dwell' in line) happen(row(pairs, [line.a, line.b].join(' · ')), line, lines[0] as LogHeader, endless)
  }
  return [...pairs.values(), ...rays.values()]
}

function turn({ turns }: Row, { tick, hit }: LogRay): void {
  turns.push({ tick, text: hit === null ? 'nothing' : hit.body })
}

function happen(row: Row, event: LogEvent, { rate, tick: first }: LogHeader, endless: ReadonlySet<string>): void {
  const { bars, spikes, marks } = row
  const open = bars.findLast(({ to, response }) => to === null && response === event.response)
  const at = event.tick - 1 + event.when
  if (event.kind === 'impact') spikes.push({ tick: at, impulse: event.impulse ?? 0 })
  else if (event.kind === 'begin' && endless.has(event.watch)) marks.push({ tick: at, response: event.response })
  else if (event.kind === 'begin') {
    // Several watches may tell of the same.
    if (open !== undefined) return
    const begun = event.cause === 'moved' ? '' : event.cause
    bars.push({ from: at, to: null, response: event.response, begun, ended: '' })
  } else if (event.kind === 'end') {
    const ended = event.cause === 'moved' ? '' : event.cause
    // Of a watch that tells of ends only, and of what began before the log.
    const since = Math.max(first, at - event.dwell * rate)
    if (open === undefined) bars.push({ from: since, to: at, response: event.response, begun: '', ended })
    else {
      open.to = Math.max(at, open.from)
      open.ended = ended
    }
  }
}

function rowSvg({ name, bars, spikes, turns, marks }: Row, y: number, left: number, place: Place): string {
  const { x, last, size, pitch, strongest } = place
  const middle = y + pitch / 2
  const thick = Math.round(pitch * 0.56)
  const room = Math.floor((left - 26) / (size * CHARACTER))
  const parts = [text(left - 10, middle + size * 0.36, size, INK.text, cut(name, room), 'text-anchor="end"')]
  for (const bar of bars) {
    const [from, to] = [x(bar.from), x(bar.to ?? last)]
    const colour = INK[bar.response]
    const fill = bar.response === 'sense' ? 'url(#sense)' : colour
    parts.push(
      `<rect x="${n(from)}" y="${n(middle - thick / 2)}" width="${n(Math.max(to - from, 1.5))}" height="${thick}" rx="2" fill="${fill}" stroke="${colour}" stroke-width="1"/>`,
    )
    // What goes on has an open end.
    if (bar.to === null) {
      parts.push(
        `<path d="M${n(to + 3)} ${n(middle - thick / 2)}l6 ${n(thick / 2)}l-6 ${n(thick / 2)}z" fill="${colour}"/>`,
      )
    }
    const wide = (word: string): boolean => word !== '' && size > 9 && to - from > (word.length + 2) * size * CHARACTER
    if (wide(bar.begun)) parts.push(label(from + 4, middle, size, bar, bar.begun, 'start'))
    if (wide(bar.ended) && (bar.begun === '' || wide(`${bar.begun} ${bar.ended}`)))
      parts.push(label(to - 4, middle, size, bar, bar.ended, 'end'))
  }
  for (const { tick, response } of marks) {
    parts.push(
      `<path d="M${n(x(tick))} ${n(middle - thick / 2)}l${n(thick * 0.7)} ${n(thick / 2)}l${n(-thick * 0.7)} ${n(thick / 2)}z" fill="${INK[response]}"/>`,
    )
  }
  for (const { tick, impulse } of spikes) {
    const high = pitch * (0.3 + (strongest > 0 ? 0.55 * Math.sqrt(impulse / strongest) : 0.3))
    parts.push(
      `<path d="M${n(x(tick))} ${n(y + pitch - 2)}v${n(-high)}" stroke="${INK.spike}" stroke-width="2"/>`,
      `<circle cx="${n(x(tick))}" cy="${n(y + pitch - 2 - high)}" r="2.2" fill="${INK.spike}"/>`,
    )
  }
  let free = -Infinity
  for (const each of turns) {
    const at = x(each.tick)
    parts.push(`<path d="M${n(at)} ${n(middle - 5)}l5 5l-5 5l-5 -5z" fill="${INK.ray}"/>`)
    const end = at + 9 + (each.text.length + 1) * size * CHARACTER
    if (at < free || end > place.right) continue
    parts.push(text(at + 9, middle + size * 0.36, size, INK.faint, each.text))
    free = end
  }
  return parts.join('')
}

function label(x: number, middle: number, size: number, { response }: Bar, word: string, anchor: string): string {
  const small = size - 2
  const colour = response === 'solid' ? INK.ground : INK.text
  const edge =
    response === 'solid' ? '' : ` stroke="${INK.ground}" stroke-width="3" paint-order="stroke" stroke-linejoin="round"`
  return `<text x="${n(x)}" y="${n(middle + small * 0.36)}" font-size="${small}" fill="${colour}" text-anchor="${anchor}"${edge}>${escaped(word)}</text>`
}

/** Seconds, at steps of 1, 2 or 5 times a power of ten, about a hundred pixels apart. */
function axis({ x, rate, last }: Place, from: number, bottom: number): string {
  const perSecond = x(from + rate) - x(from)
  const wanted = 90 / perSecond
  const power = 10 ** Math.floor(Math.log10(wanted))
  const step = [1, 2, 5, 10].map((factor) => factor * power).find((each) => each >= wanted) ?? 10 * power
  const parts: string[] = []
  for (let i = Math.ceil(from / rate / step); i * step * rate <= last; i++) {
    const at = x(i * step * rate)
    const seconds = Number((i * step).toPrecision(6))
    parts.push(
      `<path d="M${n(at)} ${TOP - 6}V${bottom}" stroke="${INK.line}"/>`,
      text(at, bottom + 16, 11, INK.faint, `${seconds} s`, 'text-anchor="middle"'),
    )
  }
  return parts.join('')
}

/** What came from outside, and joints that ended, above the rows: a line through all of them. */
function happenings(
  { x, right }: Place,
  actions: readonly LogAction[],
  joints: readonly LogJoint[],
  bottom: number,
): string[] {
  const marks = [
    ...actions.map((line) => ({
      tick: line.tick - 1,
      colour: INK.action,
      word: `${line.do} ${line.body ?? line.joint ?? ''}`.trim(),
    })),
    ...joints.map((line) => ({ tick: line.tick, colour: INK.broken, word: `${line.joint} ${line.cause}` })),
  ].sort((a, b) => a.tick - b.tick)
  let free = -Infinity
  return marks.map(({ tick, colour, word }) => {
    const at = x(tick)
    const wide = (word.length + 1) * 11 * CHARACTER
    const fits = at > free && at + wide < right + RIGHT
    if (fits) free = at + wide
    return (
      `<path d="M${n(at)} ${TOP - 10}V${bottom}" stroke="${colour}" stroke-opacity="0.55" stroke-dasharray="3 4"/>` +
      `<circle cx="${n(at)}" cy="${TOP - 12}" r="3" fill="${colour}"/>` +
      (fits ? text(at + 6, TOP - 14, 11, colour, word) : '')
    )
  })
}

function legend(width: number): string {
  const entries = [
    ['solid', INK.solid],
    ['sense', INK.sense],
    ['impact', INK.spike],
    ['ray', INK.ray],
    ['action', INK.action],
    ['end of a joint', INK.broken],
  ] as const
  let x = width - RIGHT
  return [...entries]
    .reverse()
    .map(([word, colour]) => {
      x -= word.length * 12 * CHARACTER + 26
      return `<rect x="${n(x)}" y="20" width="11" height="11" rx="2" fill="${colour}"/>${text(x + 16, 30, 12, INK.faint, word)}`
    })
    .join('')
}

function caption(rows: number, left: number, ticks: number, rate: number, height: number): string {
  const more = left > 0 ? `; ${left} more have no room` : ''
  const what = rows === 0 ? 'nothing was told' : `${rows} ${rows === 1 ? 'row' : 'rows'}${more}`
  return text(18, height - 12, 11, INK.faint, `${ticks} ticks, ${Number((ticks / rate).toPrecision(4))} s · ${what}`)
}

function cut(name: string, room: number): string {
  return name.length <= room ? name : `${name.slice(0, Math.max(1, room - 1))}…`
}

function text(x: number, y: number, size: number, colour: string, words: string, more = ''): string {
  return `<text x="${n(x)}" y="${n(y)}" font-size="${size}" fill="${colour}"${more === '' ? '' : ` ${more}`}>${escaped(words)}</text>`
}

function escaped(words: string): string {
  return words.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;')
}

function n(value: number): string {
  return String(Math.round(value * 100) / 100)
}
