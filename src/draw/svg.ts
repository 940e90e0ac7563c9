/** The draw list as SVG text: one self-contained picture with title, legend and caption. */
import type { DrawItem, DrawList, Point, RegionItem, RoundItem } from './list.ts'
import { FAINT_TEXT, GRID, GROUND, shaded, TEXT } from './palette.ts'
import { fitView, LABEL_SIZE, placeLabels, type View } from './view.ts'

/** What an SVG is drawn with. */
export interface SvgOptions {
  /** Pixels. Default 1280. */
  width?: number | undefined
  /** Pixels. Default 800. */
  height?: number | undefined
}

const FONT = "'DejaVu Sans', 'Segoe UI', 'Helvetica Neue', sans-serif"
const HEAD = 46
const FOOT = 44
const MARGIN = 14

/** Pixels of an SVG that are left for what is drawn, between head and foot. */
export function pictureArea(options: SvgOptions = {}): { width: number; height: number } {
  return { width: (options.width ?? 1280) - 2 * MARGIN, height: (options.height ?? 800) - HEAD - FOOT }
}

/** A picture of the list. The same list gives the same text. */
export function toSvg(list: DrawList, options: SvgOptions = {}): string {
  const width = options.width ?? 1280
  const height = options.height ?? 800
  const view = fitView(list.min, list.max, {
    left: MARGIN,
    top: HEAD,
    width: width - 2 * MARGIN,
    height: height - HEAD - FOOT,
  })
  const hatches = new Map<string, string>()
  const shapes = list.items.map((item) => itemSvg(item, view, hatches))
  const legend = legendSvg(list, height, hatches)
  const patterns = [...hatches].map(
    ([colour, id]) =>
      `<pattern id="${id}" patternUnits="userSpaceOnUse" width="8" height="8" patternTransform="rotate(45)">` +
      `<rect width="8" height="8" fill="${colour}" fill-opacity="0.10"/>` +
      `<rect width="2" height="8" fill="${colour}" fill-opacity="0.55"/></pattern>`,
  )
  const labels = placeLabels(list, view, width, height - FOOT).map(
    ({ label, x, y, inside }) =>
      `<text x="${n(x)}" y="${n(y)}" text-anchor="middle" font-size="${LABEL_SIZE}" ` +
      (inside
        ? `fill="${GROUND}">`
        : `fill="${label.colour}" stroke="${GROUND}" stroke-width="3" stroke-linejoin="round" paint-order="stroke">`) +
      `${escapeText(label.text)}</text>`,
  )
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" role="img" font-family="${FONT}">`,
    ...[list.title || list.caption].filter((name) => name !== '').map((name) => `<title>${escapeText(name)}</title>`),
    `<defs>${patterns.join('')}<clipPath id="scene"><rect x="0" y="${HEAD}" width="${width}" height="${height - HEAD - FOOT}"/></clipPath></defs>`,
    `<rect width="${width}" height="${height}" fill="${GROUND}"/>`,
    `<g clip-path="url(#scene)">`,
    ...(list.grid === false ? [] : [gridSvg(list, view, width, height)]),
    ...shapes.filter((text) => text !== ''),
    ...labels,
    '</g>',
    `<text x="${MARGIN + 4}" y="30" font-size="19" font-weight="bold" fill="${TEXT}">${escapeText(list.title)}</text>`,
    `<text x="${width - MARGIN - 4}" y="30" font-size="15" text-anchor="end" fill="${FAINT_TEXT}">${escapeText(list.caption)}</text>`,
    legend,
    '</svg>',
    '',
  ].join('\n')
}

/** A number for SVG: three decimals are a thousandth of a pixel. */
function n(value: number): string {
  return String(Math.round(value * 1000) / 1000 + 0)
}

/** One decimal: enough for a face that has no outline. */
function tenth(value: number): string {
  return String(Math.round(value * 10) / 10 + 0)
}

function escapeText(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;')
}

function hatch(colour: string, hatches: Map<string, string>): string {
  let id = hatches.get(colour)
  if (id === undefined) {
    id = `hatch-${hatches.size}`
    hatches.set(colour, id)
  }
  return `url(#${id})`
}

/** Lines each 1, 2, 5, 10 … units, whichever comes to about a hundred pixels. */
function gridSvg(list: DrawList, view: View, width: number, height: number): string {
  const step = gridStep(view.scale)
  let path = ''
  for (let x = Math.ceil(list.min.x / step) * step; x <= list.max.x; x += step)
    path += `M${n(view.x(x))} ${HEAD}V${height - FOOT}`
  for (let y = Math.ceil(list.min.y / step) * step; y <= list.max.y; y += step) path += `M0 ${n(view.y(y))}H${width}`
  return `<path d="${path}" stroke="${GRID}" fill="none"/>`
}

/** Distance of grid lines in world units. */
export function gridStep(scale: number): number {
  const wanted = 100 / scale
  const power = 10 ** Math.floor(Math.log10(wanted))
  const part = wanted / power
  return power * (part < 1.5 ? 1 : part < 3.5 ? 2 : part < 7.5 ? 5 : 10)
}

function itemSvg(item: DrawItem, view: View, hatches: Map<string, string>): string {
  switch (item.kind) {
    case 'region':
    case 'round': {
      const fill =
        item.fill === 'plain'
          ? `fill="${item.lit ? item.colour : shaded(item.colour)}"`
          : item.fill === 'hatched'
            ? `fill="${hatch(item.colour, hatches)}"`
            : 'fill="none"'
      const dash =
        item.fill === 'ghost'
          ? ' stroke-dasharray="3 4"'
          : item.fill === 'hatched' && !item.lit
            ? ' stroke-dasharray="7 4"'
            : ''
      const path = item.kind === 'region' ? regionPath(item, view) : roundPath(item, view)
      return `<path d="${path}" ${fill} stroke="${item.colour}" stroke-width="${item.lit ? 3 : 1.5}"${dash}/>`
    }
    case 'face': {
      const path = item.points.map((point) => `${tenth(view.x(point.x))} ${tenth(view.y(point.y))}`).join('L')
      // A thin outline of its own colour closes the seams between faces.
      const fill = item.hatched ? hatch(item.colour, hatches) : item.colour
      const stroke = item.hatched ? '' : ` stroke="${item.colour}" stroke-width="0.7"`
      return `<path d="M${path}Z" fill="${fill}"${stroke}/>`
    }
    case 'line': {
      const dash = item.dashed ? ' stroke-dasharray="2 5" stroke-opacity="0.6"' : ''
      return (
        `<line x1="${n(view.x(item.from.x))}" y1="${n(view.y(item.from.y))}" x2="${n(view.x(item.to.x))}" ` +
        `y2="${n(view.y(item.to.y))}" stroke="${item.colour}" stroke-width="${item.width}"${dash}/>`
      )
    }
    case 'mark': {
      const x = view.x(item.at.x)
      const y = view.y(item.at.y)
      const r = item.size / 2
      if (item.sign === 'dot') return `<circle cx="${n(x)}" cy="${n(y)}" r="${n(r)}" fill="${item.colour}"/>`
      if (item.sign === 'ring') {
        return `<circle cx="${n(x)}" cy="${n(y)}" r="${n(r)}" fill="none" stroke="${item.colour}" stroke-width="2"/>`
      }
      return (
        `<path d="M${n(x - r)} ${n(y - r)}L${n(x + r)} ${n(y + r)}M${n(x - r)} ${n(y + r)}L${n(x + r)} ${n(y - r)}" ` +
        `stroke="${item.colour}" stroke-width="2.5" stroke-linecap="round"/>`
      )
    }
    case 'arrow': {
      const x = view.x(item.at.x)
      const y = view.y(item.at.y)
      const dx = item.direction.x
      const dy = -item.direction.y
      const tipX = x + dx * item.length
      const tipY = y + dy * item.length
      const back = 7
      return (
        `<path d="M${n(x)} ${n(y)}L${n(tipX)} ${n(tipY)}M${n(tipX - back * dx - 0.6 * back * dy)} ${n(tipY - back * dy + 0.6 * back * dx)}` +
        `L${n(tipX)} ${n(tipY)}L${n(tipX - back * dx + 0.6 * back * dy)} ${n(tipY - back * dy - 0.6 * back * dx)}" ` +
        `fill="none" stroke="${item.colour}" stroke-width="2" stroke-linecap="round"/>`
      )
    }
    case 'label':
      return ''
  }
}

/** The loops of a region: as they run, what is within is on their left, which fills them and not their holes. */
function regionPath(item: RegionItem, view: View): string {
  const loop = (points: readonly Point[]): string =>
    `M${points.map((point) => `${tenth(view.x(point.x))} ${tenth(view.y(point.y))}`).join('L')}Z`
  return item.loops.map(loop).join('')
}

/** The outline of a rounded convex core: shifted edges joined by arcs. */
function roundPath(item: RoundItem, view: View): string {
  const { points, radius } = item
  const r = n(radius * view.scale)
  if (points.length === 1) {
    const x = view.x(points[0].x)
    const y = view.y(points[0].y)
    const reach = radius * view.scale
    return `M${n(x - reach)} ${n(y)}A${r} ${r} 0 1 1 ${n(x + reach)} ${n(y)}A${r} ${r} 0 1 1 ${n(x - reach)} ${n(y)}Z`
  }
  let path = ''
  for (let i = 0; i < points.length; i++) {
    const from = points[i]
    const to = points[(i + 1) % points.length]
    const length = Math.hypot(to.x - from.x, to.y - from.y)
    const nx = ((to.y - from.y) / length) * radius
    const ny = ((from.x - to.x) / length) * radius
    const start = `${n(view.x(from.x + nx))} ${n(view.y(from.y + ny))}`
    path += i === 0 ? `M${start}` : radius > 0 ? `A${r} ${r} 0 0 0 ${start}` : `L${start}`
    path += `L${n(view.x(to.x + nx))} ${n(view.y(to.y + ny))}`
    if (i < points.length - 1 || radius === 0) continue
    const next = points[1]
    const first = Math.hypot(next.x - to.x, next.y - to.y)
    const firstX = to.x + ((next.y - to.y) / first) * radius
    const firstY = to.y + ((to.x - next.x) / first) * radius
    path += `A${r} ${r} 0 0 0 ${n(view.x(firstX))} ${n(view.y(firstY))}`
  }
  return `${path}Z`
}

function legendSvg(list: DrawList, height: number, hatches: Map<string, string>): string {
  const y = height - FOOT / 2
  let x = MARGIN + 4
  let text = ''
  for (const entry of list.legend) {
    if (entry.fill === 'line') {
      text += `<line x1="${x}" y1="${y}" x2="${x + 20}" y2="${y}" stroke="${entry.colour}" stroke-width="2.5"/>`
    } else {
      const fill = entry.fill === 'hatched' ? hatch(entry.colour, hatches) : entry.colour
      text += `<rect x="${x}" y="${y - 8}" width="20" height="16" rx="3" fill="${fill}" stroke="${entry.colour}"/>`
    }
    text += `<text x="${x + 28}" y="${y + 5}" font-size="14" fill="${TEXT}">${escapeText(entry.text)}</text>`
    x += 28 + Math.round(entry.text.length * 8.4) + 26
  }
  return text
}
