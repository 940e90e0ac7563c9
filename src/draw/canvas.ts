/** The draw list on a canvas: the same looks as the SVG, for pages. */
import { oneOf } from '../core/util/checks.ts'
import type { DrawItem, DrawList, FaceItem, RegionItem, RoundItem } from './list.ts'
import { gridStep } from './svg.ts'
import { THEMES, type Theme, type ThemeName } from './theme.ts'
import { fitView, LABEL_SIZE, placeLabels, type View } from './view.ts'

/** Anything with the calls of a 2D canvas context that are used here. */
export type Pen = Pick<
  CanvasRenderingContext2D,
  | 'save'
  | 'restore'
  | 'beginPath'
  | 'closePath'
  | 'moveTo'
  | 'lineTo'
  | 'arc'
  | 'fill'
  | 'stroke'
  | 'clip'
  | 'fillRect'
  | 'fillText'
  | 'strokeText'
  | 'setLineDash'
  | 'fillStyle'
  | 'strokeStyle'
  | 'lineWidth'
  | 'lineJoin'
  | 'lineCap'
  | 'globalAlpha'
  | 'font'
  | 'textAlign'
>

const FONT = `${LABEL_SIZE}px 'DejaVu Sans', 'Segoe UI', 'Helvetica Neue', sans-serif`
const HATCH = 8
/** Pixels across below which an item is drawn plainly, together with others that look alike. */
const SMALL = 14
const GHOST_DASH = [3, 4]
const SENSOR_DASH = [7, 4]
const NO_DASH: number[] = []

/** How a list is drawn on a canvas. */
export interface CanvasOptions {
  /** Where places of the world lie on the canvas, as your own camera has it; see {@link viewAt}. Default: the list fits in. */
  view?: View | undefined
  /** Whether the ground and its grid are drawn first; false to draw over a picture of your own. Default true. */
  ground?: boolean | undefined
  /** Which ground the colours are for. Default `'dark'`. */
  theme?: ThemeName | undefined
}

/** Draws the list into `width` x `height` pixels and returns the view, for finding what the pointer is on. */
export function toCanvas(
  list: DrawList,
  pen: Pen,
  width: number,
  height: number,
  { view: own, ground = true, theme: name = 'dark' }: CanvasOptions = {},
): View {
  const view = own ?? fitView(list.min, list.max, { left: 0, top: 0, width, height })
  const theme = THEMES[oneOf(name, ['dark', 'light'], "'theme' of a canvas")]
  if (ground) {
    pen.fillStyle = theme.ground
    pen.fillRect(0, 0, width, height)
    if (list.grid !== false) grid(pen, view, theme, width, height)
  }
  for (let i = 0; i < list.items.length; ) {
    const many = smallRun(list.items, i, view)
    if (many > 0) drawSmall(list.items as readonly RoundItem[], i, i + many, pen, view, theme)
    else drawItem(list.items[i], pen, view, theme)
    i += Math.max(1, many)
  }
  pen.font = FONT
  pen.textAlign = 'center'
  pen.lineJoin = 'round'
  for (const { label, x, y, inside } of placeLabels(list, view, width, height)) {
    if (!inside) {
      pen.strokeStyle = theme.ground
      pen.lineWidth = 3
      pen.strokeText(label.text, x, y)
    }
    pen.fillStyle = inside ? theme.inside : theme.ink(label.colour)
    pen.fillText(label.text, x, y)
  }
  return view
}

/** How many items from a place on are too small for a dash or a hatch, and look alike: they are drawn as one path. */
function smallRun(items: readonly DrawItem[], from: number, view: View): number {
  const first = items[from]
  if (first.kind !== 'round' || first.fill === 'ghost' || first.lit) return 0
  let to = from
  for (; to < items.length; to++) {
    const item = items[to]
    if (item.kind !== 'round' || item.lit || item.fill !== first.fill || item.colour !== first.colour) break
    if (!isSmall(item, view)) break
  }
  return to - from
}

function isSmall({ points, radius }: RoundItem, { scale }: View): boolean {
  let [left, bottom, right, top] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const { x, y } of points) {
    if (x < left) left = x
    if (x > right) right = x
    if (y < bottom) bottom = y
    if (y > top) top = y
  }
  const most = SMALL / scale - 2 * radius
  return right - left < most && top - bottom < most
}

function drawSmall(items: readonly RoundItem[], from: number, to: number, pen: Pen, view: View, theme: Theme): void {
  const { colour, fill } = items[from]
  pen.beginPath()
  for (let i = from; i < to; i++) addRound(items[i], pen, view)
  pen.strokeStyle = theme.ink(colour)
  pen.lineWidth = 1
  pen.fillStyle = theme.shade(colour)
  if (fill === 'plain') pen.fill()
  pen.stroke()
}

function grid(pen: Pen, view: View, theme: Theme, width: number, height: number): void {
  const step = gridStep(view.scale)
  pen.strokeStyle = theme.grid
  pen.lineWidth = 1
  pen.beginPath()
  for (let x = Math.ceil(view.worldX(0) / step) * step; view.x(x) <= width; x += step) {
    pen.moveTo(view.x(x), 0)
    pen.lineTo(view.x(x), height)
  }
  for (let y = Math.ceil(view.worldY(height) / step) * step; view.y(y) >= 0; y += step) {
    pen.moveTo(0, view.y(y))
    pen.lineTo(width, view.y(y))
  }
  pen.stroke()
}

function drawItem(item: DrawItem, pen: Pen, view: View, theme: Theme): void {
  if (item.kind === 'round' || item.kind === 'region') {
    drawRound(item, pen, view, theme)
    return
  }
  if (item.kind === 'face') {
    drawFace(item, pen, view, theme)
    return
  }
  if (item.kind === 'label') return
  const colour = theme.ink(item.colour)
  pen.save()
  pen.strokeStyle = colour
  if (item.kind === 'line') {
    pen.lineWidth = item.width
    if (item.dashed) {
      pen.setLineDash([2, 5])
      pen.globalAlpha = 0.6
    }
    pen.beginPath()
    pen.moveTo(view.x(item.from.x), view.y(item.from.y))
    pen.lineTo(view.x(item.to.x), view.y(item.to.y))
    pen.stroke()
  } else if (item.kind === 'mark') {
    const x = view.x(item.at.x)
    const y = view.y(item.at.y)
    const r = item.size / 2
    pen.fillStyle = colour
    pen.lineWidth = item.sign === 'cross' ? 2.5 : 2
    pen.lineCap = 'round'
    pen.beginPath()
    if (item.sign === 'cross') {
      pen.moveTo(x - r, y - r)
      pen.lineTo(x + r, y + r)
      pen.moveTo(x - r, y + r)
      pen.lineTo(x + r, y - r)
    } else pen.arc(x, y, r, 0, 2 * Math.PI)
    if (item.sign === 'dot') pen.fill()
    else pen.stroke()
  } else {
    const x = view.x(item.at.x)
    const y = view.y(item.at.y)
    const dx = item.direction.x
    const dy = -item.direction.y
    const tipX = x + dx * item.length
    const tipY = y + dy * item.length
    const back = 7
    pen.lineWidth = 2
    pen.lineCap = 'round'
    pen.beginPath()
    pen.moveTo(x, y)
    pen.lineTo(tipX, tipY)
    pen.moveTo(tipX - back * dx - 0.6 * back * dy, tipY - back * dy + 0.6 * back * dx)
    pen.lineTo(tipX, tipY)
    pen.lineTo(tipX - back * dx + 0.6 * back * dy, tipY - back * dy - 0.6 * back * dx)
    pen.stroke()
  }
  pen.restore()
}

function drawFace(item: FaceItem, pen: Pen, view: View, theme: Theme): void {
  const path = (): void => {
    pen.beginPath()
    for (const [i, point] of item.points.entries()) {
      if (i === 0) pen.moveTo(view.x(point.x), view.y(point.y))
      else pen.lineTo(view.x(point.x), view.y(point.y))
    }
    pen.closePath()
  }
  path()
  if (item.hatched) {
    hatch({ points: item.points, radius: 0, colour: theme.ink(item.colour) }, pen, view)
    return
  }
  pen.fillStyle = theme.ink(item.colour)
  pen.strokeStyle = theme.ink(item.colour)
  pen.lineWidth = 0.7
  pen.fill()
  pen.stroke()
}

function drawRound(item: RoundItem | RegionItem, pen: Pen, view: View, theme: Theme): void {
  const colour = theme.ink(item.colour)
  itemPath(item, pen, view)
  if (item.fill === 'plain') {
    pen.fillStyle = item.lit ? colour : theme.shade(item.colour)
    pen.fill()
  } else if (item.fill === 'hatched') {
    hatch({ ...(item.kind === 'round' ? item : around(item)), colour }, pen, view)
    itemPath(item, pen, view)
  }
  pen.strokeStyle = colour
  pen.lineWidth = item.lit ? 3 : 1.5
  const dash = item.fill === 'ghost' ? GHOST_DASH : item.fill === 'hatched' && !item.lit ? SENSOR_DASH : NO_DASH
  if (dash !== NO_DASH) pen.setLineDash(dash)
  pen.stroke()
  if (dash !== NO_DASH) pen.setLineDash(NO_DASH)
}

/** Slanted lines within the outline, as far as its box reaches. */
function hatch(item: Pick<RoundItem, 'points' | 'radius' | 'colour'>, pen: Pen, view: View): void {
  const xs = item.points.map((point) => view.x(point.x))
  const ys = item.points.map((point) => view.y(point.y))
  const reach = item.radius * view.scale
  const left = Math.min(...xs) - reach
  const right = Math.max(...xs) + reach
  const top = Math.min(...ys) - reach
  const bottom = Math.max(...ys) + reach
  pen.save()
  pen.clip()
  pen.fillStyle = item.colour
  pen.globalAlpha = 0.1
  pen.fillRect(left, top, right - left, bottom - top)
  pen.globalAlpha = 0.5
  pen.strokeStyle = item.colour
  pen.lineWidth = 2
  pen.beginPath()
  // Anchored to the screen, so that the lines of two sensors run on.
  const pitch = HATCH * Math.SQRT2
  const start = Math.floor((left + top) / pitch) * pitch
  for (let sum = start; sum <= right + bottom; sum += pitch) {
    pen.moveTo(sum - top, top)
    pen.lineTo(sum - bottom, bottom)
  }
  pen.stroke()
  pen.restore()
}

/** All corners of a region. */
function around({ loops, colour }: RegionItem): Pick<RoundItem, 'points' | 'radius' | 'colour'> {
  return { points: loops.flat(), radius: 0, colour }
}

function itemPath(item: RoundItem | RegionItem, pen: Pen, view: View): void {
  if (item.kind === 'round') roundPath(item, pen, view)
  else regionPath(item, pen, view)
}

function regionPath(item: RegionItem, pen: Pen, view: View): void {
  pen.beginPath()
  for (const loop of item.loops) {
    for (const [i, point] of loop.entries()) {
      if (i === 0) pen.moveTo(view.x(point.x), view.y(point.y))
      else pen.lineTo(view.x(point.x), view.y(point.y))
    }
    pen.closePath()
  }
}

function roundPath(item: RoundItem, pen: Pen, view: View): void {
  pen.beginPath()
  addRound(item, pen, view)
}

/** Adds the outline of an item to the path. */
function addRound({ points, radius }: RoundItem, pen: Pen, view: View): void {
  const r = radius * view.scale
  if (points.length === 1) {
    pen.moveTo(view.x(points[0].x) + r, view.y(points[0].y))
    pen.arc(view.x(points[0].x), view.y(points[0].y), r, 0, 2 * Math.PI)
    return
  }
  for (let i = 0; i < points.length; i++) {
    const before = points[(i + points.length - 1) % points.length]
    const at = points[i]
    const next = points[(i + 1) % points.length]
    const x = view.x(at.x)
    const y = view.y(at.y)
    if (radius === 0) {
      if (i === 0) pen.moveTo(x, y)
      else pen.lineTo(x, y)
      continue
    }
    // On the screen y runs down, so the outward normal of an edge (dx, dy) is (dy, dx) with its own signs.
    const into = Math.atan2(at.x - before.x, at.y - before.y)
    const out = Math.atan2(next.x - at.x, next.y - at.y)
    if (i === 0) pen.moveTo(x + r * Math.cos(into), y + r * Math.sin(into))
    pen.arc(x, y, r, into, out, true)
  }
  pen.closePath()
}
