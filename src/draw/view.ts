/** From world units to pixels, and where labels find room. Shared by all renderers. */
import type { ArrowItem, DrawList, LabelItem, LineItem, Point } from './list.ts'

/** How lengths of the world lie on a picture. */
export interface View {
  /** Pixels to a world unit. */
  readonly scale: number
  /** The pixel across at which a place of the world lies. */
  x(worldX: number): number
  /** The pixel down at which a place of the world lies. */
  y(worldY: number): number
  /** The x of the world at a pixel across. */
  worldX(x: number): number
  /** The y of the world at a pixel down. */
  worldY(y: number): number
}

/** Fits a part of the world into a rectangle of pixels, y up, the same scale both ways. */
export function fitView(
  min: Point,
  max: Point,
  area: { readonly left: number; readonly top: number; readonly width: number; readonly height: number },
): View {
  const width = Math.max(max.x - min.x, 1e-9)
  const height = Math.max(max.y - min.y, 1e-9)
  const scale = Math.min(area.width / width, area.height / height)
  const left = area.left + (area.width - width * scale) / 2
  const top = area.top + (area.height - height * scale) / 2
  return {
    scale,
    x: (worldX) => left + (worldX - min.x) * scale,
    y: (worldY) => top + (max.y - worldY) * scale,
    worldX: (x) => min.x + (x - left) / scale,
    worldY: (y) => max.y - (y - top) / scale,
  }
}

/**
 * The view of a camera of your own, y up.
 * @param centre the place of the world in the middle of the picture
 * @param scale pixels to a world unit
 * @param width pixels of the picture
 */
export function viewAt(centre: Point, scale: number, width: number, height: number): View {
  return {
    scale,
    x: (worldX) => width / 2 + (worldX - centre.x) * scale,
    y: (worldY) => height / 2 + (centre.y - worldY) * scale,
    worldX: (x) => centre.x + (x - width / 2) / scale,
    worldY: (y) => centre.y + (height / 2 - y) / scale,
  }
}

export const LABEL_SIZE = 13
/** Width of a character of the label font, as a part of its size. */
const CHARACTER = 0.56

/** Labels of a picture from which on those of small things are left out; and pixels across and up, together, that are not small. */
const MANY = 200
const LARGE = 60
/** The part of the picture from which on what a thing takes is not kept free of names. */
const LARGE_PART = 0.1

export interface PlacedLabel {
  readonly label: LabelItem
  /** Middle of the text, and its baseline, in pixels. */
  readonly x: number
  readonly y: number
  /** Within a solid, where dark text reads best. */
  readonly inside: boolean
}

/** A straight line from a pixel. */
interface Stroke {
  x: number
  y: number
  dx: number
  dy: number
}

interface Choice {
  x: number
  y: number
  inside?: boolean | undefined
}

interface Rectangle {
  left: number
  top: number
  right: number
  bottom: number
}

/**
 * Places every label where it covers no other: within its own solid, above its box, below, right, left, at a corner, else within. Of these the
 * one that covers the fewest other things, lines and arrows, and of equals the first.
 */
export function placeLabels(list: DrawList, view: View, width: number, height: number): PlacedLabel[] {
  const taken: Rectangle[] = []
  const placed: PlacedLabel[] = []
  const labels = list.items.filter((item) => item.kind === 'label')
  const boxes = labels.map(({ min, max }) => ({
    left: view.x(min.x),
    right: view.x(max.x),
    top: view.y(max.y),
    bottom: view.y(min.y),
  }))
  const drawn = list.items.filter((item) => item.kind === 'arrow' || item.kind === 'line')
  // Where a tree or a tangle is drawn there is no way round.
  const strokes = drawn.length > MANY ? [] : drawn.map((item) => strokeOf(item, view))
  const large = LARGE_PART * width * height
  for (const [index, label] of labels.entries()) {
    // Of very many, those of what is small would fill the picture.
    if (labels.length > MANY && (label.max.x - label.min.x + label.max.y - label.min.y) * view.scale < LARGE) continue
    const half = (label.text.length * LABEL_SIZE * CHARACTER) / 2
    const { left, right, top, bottom } = boxes[index]
    const middle = (left + right) / 2
    const centre = (top + bottom) / 2 + LABEL_SIZE * 0.35
    const choices: Choice[] = [
      ...innerChoice(label, view, width, height, half),
      { x: middle, y: top - 6 },
      { x: middle, y: bottom + LABEL_SIZE + 3 },
      { x: right + half + 7, y: centre },
      { x: left - half - 7, y: centre },
      { x: right + half, y: top - 2 },
      { x: left - half, y: top - 2 },
      { x: right + half, y: bottom + LABEL_SIZE },
      { x: left - half, y: bottom + LABEL_SIZE },
      { x: middle, y: top + LABEL_SIZE + 5 },
      { x: middle, y: centre },
    ]
    // What holds the thing itself, as a zone does, is not in the way of its name; nor is what fills the picture.
    const others = boxes.filter((other) => areaOf(other) < large && !holdsMiddle(other, boxes[index]))
    const covering = (box: Rectangle): number =>
      others.filter((other) => meets(box, other)).length + strokes.filter((stroke) => crosses(stroke, box)).length
    let chosen: Choice | null = null
    let least = Infinity
    for (const choice of choices) {
      const box = boxOf(choice, half)
      if (box.left < 2 || box.right > width - 2 || box.top < 2 || box.bottom > height - 2) continue
      if (taken.some((other) => meets(box, other))) continue
      const covered = choice.inside === true ? 0 : covering(box)
      if (covered < least) [chosen, least] = [choice, covered]
      if (covered === 0) break
    }
    // A label without room is left out rather than drawn over another; hovering or `overlapping()` still tells.
    if (chosen === null) continue
    taken.push(boxOf(chosen, half))
    placed.push({ label, x: chosen.x, y: chosen.y, inside: chosen.inside === true })
  }
  return placed
}

/** Where a line or an arrow runs on the picture. */
function strokeOf(item: LineItem | ArrowItem, view: View): Stroke {
  const from = item.kind === 'line' ? item.from : item.at
  const [x, y] = [view.x(from.x), view.y(from.y)]
  if (item.kind === 'line') return { x, y, dx: view.x(item.to.x) - x, dy: view.y(item.to.y) - y }
  // The picture's y runs down.
  return { x, y, dx: item.length * item.direction.x, dy: -item.length * item.direction.y }
}

/** Whether a line runs through a rectangle (Liang and Barsky, 1984). */
function crosses({ x, y, dx, dy }: Stroke, { left, top, right, bottom }: Rectangle): boolean {
  let [enter, leave] = [0, 1]
  for (const [start, along, low, high] of [
    [x, dx, left, right],
    [y, dy, top, bottom],
  ]) {
    if (along === 0) {
      if (start < low || start > high) return false
      continue
    }
    const [a, b] = [(low - start) / along, (high - start) / along]
    enter = Math.max(enter, Math.min(a, b))
    leave = Math.min(leave, Math.max(a, b))
  }
  return enter <= leave
}

/** Whether the middle of one box lies in another, or they are the same. */
function holdsMiddle(box: Rectangle, { left, right, top, bottom }: Rectangle): boolean {
  const x = (left + right) / 2
  const y = (top + bottom) / 2
  return box.left <= x && x <= box.right && box.top <= y && y <= box.bottom
}

/** The middle of what can be seen of a large solid, where the text fits into it. */
function innerChoice(label: LabelItem, view: View, width: number, height: number, half: number): Choice[] {
  if (label.inner === null) return []
  const left = Math.max(0, view.x(label.inner.min.x))
  const right = Math.min(width, view.x(label.inner.max.x))
  const top = Math.max(0, view.y(label.inner.max.y))
  const bottom = Math.min(height, view.y(label.inner.min.y))
  const x = (left + right) / 2
  const y = (top + bottom) / 2
  for (const dx of [-half - 4, half + 4]) {
    for (const dy of [-LABEL_SIZE * 0.7, LABEL_SIZE * 0.7]) {
      if (!holds(label.inner, view.worldX(x + dx), view.worldY(y + dy))) return []
    }
  }
  return [{ x, y: y + LABEL_SIZE * 0.35, inside: true }]
}

/** Whether a point lies within a convex outline grown by a radius (corners of three and more points taken as square). */
function holds(inner: { points: readonly Point[]; radius: number }, x: number, y: number): boolean {
  const { points, radius } = inner
  if (points.length < 3) {
    const a = points[0]
    const b = points[points.length - 1]
    const square = (b.x - a.x) ** 2 + (b.y - a.y) ** 2
    const along = square === 0 ? 0 : ((x - a.x) * (b.x - a.x) + (y - a.y) * (b.y - a.y)) / square
    const t = Math.min(1, Math.max(0, along))
    return Math.hypot(x - a.x - t * (b.x - a.x), y - a.y - t * (b.y - a.y)) <= radius
  }
  return points.every((a, index) => {
    const b = points[(index + 1) % points.length]
    const length = Math.hypot(b.x - a.x, b.y - a.y)
    return (b.x - a.x) * (y - a.y) - (b.y - a.y) * (x - a.x) >= -radius * length
  })
}

function boxOf(at: { x: number; y: number }, half: number): Rectangle {
  return { left: at.x - half - 3, right: at.x + half + 3, top: at.y - LABEL_SIZE, bottom: at.y + 4 }
}

function areaOf({ left, right, top, bottom }: Rectangle): number {
  return (right - left) * (bottom - top)
}

function meets(a: Rectangle, b: Rectangle): boolean {
  return a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom
}
