/** Drawings: the lines of an SVG, and outlines as one. */
import { KeenError } from 'keen-sentry'
import type { Vec2 } from 'keen-sentry/2d'
import { type Line, lineOf } from './line.ts'

/** How a drawing is read. */
export interface ReadSvgOptions {
  /** Metres to a unit of the drawing. Default 1. */
  readonly scale?: number | undefined
  /** Units of the drawing by which a curve may be off the lines that it becomes. Default 0.1. */
  readonly tolerance?: number | undefined
}

type Attributes = Readonly<Record<string, string>>
/** Lines to one curve at most. */
const MOST_LINES = 1000

/**
 * The lines of a drawing: its paths, polylines, polygons, lines, rectangles, circles and ellipses, with all their transforms. y is turned
 * upwards: what was at the top of the drawing is the highest, and its lower edge (by `viewBox` or `height`) is 0. What has no outline, as text
 * and pictures, is left out, and so is what lies in `defs`. Curves become lines by even steps, as many as the tolerance needs.
 * @throws KeenError `bad-level` for what is no SVG, or a path that cannot be read
 */
export async function linesFromSvg(text: string, options: ReadSvgOptions = {}): Promise<Line[]> {
  const [{ SaxesParser }, svgpath] = await Promise.all([import('saxes'), import('svgpath')])
  const scale = positive(options.scale ?? 1, 'scale')
  const tolerance = positive(options.tolerance ?? 0.1, 'tolerance')
  const transforms: string[] = []
  const found: { name: string | null; path: string; transform: string }[] = []
  let [hidden, height, roots] = [0, 0, 0]
  const parser = new SaxesParser()
  parser.on('error', (error) => {
    throw new KeenError('bad-level', `that is no SVG: ${error.message}`)
  })
  parser.on('opentag', ({ name: tag, attributes }) => {
    const own = attributes as Attributes
    if (transforms.length === 0) {
      if (tag !== 'svg') throw new KeenError('bad-level', `that is no SVG: it begins with <${tag}>`)
      roots++
      height = heightOf(own)
    }
    transforms.push(own['transform'] ?? '')
    if (HIDDEN.has(tag)) hidden++
    const path = hidden > 0 ? null : pathOf(tag, own)
    if (path !== null) found.push({ name: own['id'] ?? null, path, transform: transforms.filter(Boolean).join(' ') })
  })
  parser.on('closetag', ({ name: tag }) => {
    transforms.pop()
    if (HIDDEN.has(tag)) hidden--
  })
  parser.write(text.replace(/^\uFEFF/, '')).close()
  if (roots === 0) throw new KeenError('bad-level', 'that is no SVG: it has no <svg>')
  return found.flatMap(({ name, path, transform }) => {
    const read = svgpath.default(path) as unknown as ReadPath
    if (read.err) throw new KeenError('bad-level', `the path ${name ?? ''} cannot be read: ${read.err}`)
    const drawn = read.transform(transform).abs().unarc().unshort()
    const place = (x: number, y: number): Vec2 => ({ x: x * scale, y: (height - y) * scale })
    return subPaths(drawn, tolerance).flatMap(({ numbers, closed }) => {
      const points: Vec2[] = []
      for (let i = 0; i < numbers.length; i += 2) points.push(place(numbers[i], numbers[i + 1]))
      return lineOf(name, points, closed) ?? []
    })
  })
}

/** What the reader of paths gives, as far as it is used. */
interface ReadPath {
  readonly err: string
  transform(text: string): ReadPath
  abs(): ReadPath
  unarc(): ReadPath
  unshort(): ReadPath
  iterate(visit: (segment: readonly [string, ...number[]], index: number, x: number, y: number) => void): ReadPath
}

const HIDDEN: ReadonlySet<string> = new Set(['defs', 'symbol', 'clipPath', 'mask', 'marker', 'pattern'])

function heightOf(svg: Attributes): number {
  const box = svg['viewBox']
    ?.trim()
    .split(/[\s,]+/)
    .map(Number)
  if (box?.length === 4 && box.every(Number.isFinite)) return box[1] + box[3]
  return Number.parseFloat(svg['height'] ?? '') || 0
}

/** An element as the data of a path; null for what is not drawn as lines. */
function pathOf(tag: string, own: Attributes): string | null {
  const of = (name: string): number => Number.parseFloat(own[name] ?? '0') || 0
  switch (tag) {
    case 'path':
      return own['d'] ?? null
    case 'polyline':
    case 'polygon': {
      const points = own['points']?.trim()
      return points ? `M${points}${tag === 'polygon' ? 'Z' : ''}` : null
    }
    case 'line':
      return `M${of('x1')} ${of('y1')}L${of('x2')} ${of('y2')}`
    case 'rect':
      return of('width') > 0 && of('height') > 0
        ? `M${of('x')} ${of('y')}h${of('width')}v${of('height')}h${-of('width')}Z`
        : null
    case 'circle':
    case 'ellipse': {
      const [rx, ry] = tag === 'circle' ? [of('r'), of('r')] : [of('rx'), of('ry')]
      if (!(rx > 0 && ry > 0)) return null
      return `M${of('cx') - rx} ${of('cy')}a${rx} ${ry} 0 1 0 ${2 * rx} 0a${rx} ${ry} 0 1 0 ${-2 * rx} 0Z`
    }
    default:
      return null
  }
}

/** The parts of a path between its moves: x, y of each point. */
function subPaths(path: ReadPath, tolerance: number): { numbers: number[]; closed: boolean }[] {
  const parts: { numbers: number[]; closed: boolean }[] = []
  let numbers: number[] = []
  path.iterate(([command, ...v], _index, x, y) => {
    if (command === 'M') {
      numbers = [v[0], v[1]]
      parts.push({ numbers, closed: false })
      return
    }
    if (command === 'Z') {
      parts[parts.length - 1].closed = true
      // What follows without a move begins where this one began.
      numbers = [numbers[0], numbers[1]]
      parts.push({ numbers, closed: false })
    } else if (command === 'H') numbers.push(v[0], y)
    else if (command === 'V') numbers.push(x, v[0])
    else if (command === 'L') numbers.push(v[0], v[1])
    else if (command === 'C') addCubic([x, y, ...v], tolerance, numbers)
    // A quadratic curve is a cubic one.
    else if (command === 'Q') {
      const third = (from: number, to: number): number => from + (2 / 3) * (to - from)
      const [cx, cy, ex, ey] = v
      addCubic([x, y, third(x, cx), third(y, cy), third(ex, cx), third(ey, cy), ex, ey], tolerance, numbers)
    }
  })
  return parts
}

/** A cubic curve as even steps of its parameter: their lines are off by an eighth of the second derivative over their number squared. */
function addCubic(p: readonly number[], tolerance: number, out: number[]): void {
  const bend = (i: number): number => {
    const [x, y] = [p[i] - 2 * p[i + 2] + p[i + 4], p[i + 1] - 2 * p[i + 3] + p[i + 5]]
    return Math.sqrt(x * x + y * y)
  }
  const most = 6 * Math.max(bend(0), bend(2))
  const steps = Math.min(MOST_LINES, Math.max(1, Math.ceil(Math.sqrt(most / (8 * tolerance)))))
  for (let k = 1; k <= steps; k++) {
    const t = k / steps
    const u = 1 - t
    const [a, b, c, d] = [u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t]
    if (k === steps) out.push(p[6], p[7])
    else out.push(a * p[0] + b * p[2] + c * p[4] + d * p[6], a * p[1] + b * p[3] + c * p[5] + d * p[7])
  }
}

function positive(value: unknown, what: string): number {
  if (typeof value === 'number' && Number.isFinite(value) && value > 0) return value
  throw new KeenError('bad-number', `'${what}' of a drawing must be a number above 0, got ${JSON.stringify(value)}`)
}

/**
 * Outlines as an SVG, a path a group of loops; holes stay holes by the rule of even and odd. A unit is a metre.
 * @param groups what is drawn as one path each: its name, and its loops
 */
export function svgFromOutlines(groups: readonly { name: string; loops: readonly (readonly Vec2[])[] }[]): string {
  const all = groups.flatMap(({ loops }) => loops.flat())
  const [left, right] = range(all.map(({ x }) => x))
  const [low, high] = range(all.map(({ y }) => y))
  const path = (loops: readonly (readonly Vec2[])[]): string =>
    loops.map((loop) => `M${loop.map(({ x, y }) => `${tidy(x)} ${tidy(high + low - y)}`).join('L')}Z`).join('')
  const paths = groups.map(
    ({ name, loops }) => `  <path id="${escaped(name)}" fill-rule="evenodd" d="${path(loops)}"/>`,
  )
  const box = [left, low, right - left, high - low].map(tidy).join(' ')
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="${box}">\n${paths.join('\n')}\n</svg>\n`
}

function range(values: readonly number[]): [number, number] {
  let [least, most] = [Infinity, -Infinity]
  for (const value of values) {
    least = Math.min(least, value)
    most = Math.max(most, value)
  }
  return values.length === 0 ? [0, 0] : [least, most]
}

/** Micrometres. */
const tidy = (value: number): number => Math.round(value * 1e6) / 1e6 + 0
const escaped = (name: string): string => name.replace(/[&<>"]/g, (sign) => `&#${sign.codePointAt(0)};`)
