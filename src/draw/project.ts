/**
 * A draw list of 3D on a picture: faces from the back to the front, lines where they are seen, and dimmed where something
 * hides them. What hides what is found by the nearest surface at every pixel (Catmull, 1974).
 */
import type { Vec3 } from '../3d/index.ts'
import { type Camera, Projection } from './camera.ts'
import { placed } from './frame.ts'
import type { DrawItem, DrawList, Point } from './list.ts'
import type { DrawList3, SolidItem, SpaceArrow, SpaceLabel, SpaceLine } from './list3d.ts'
import { dimmed, mixed } from './palette.ts'
import { unitNormal } from './solids.ts'

/** Pixels that a piece of a face has at most, along its longest edge: small ones can be put in order. */
const PIECE = 40
const DEEPEST = 9
/** Pixels beside the picture that are drawn too: what shows it may have a margin. */
const BESIDE = 60
/** Pixels from one test of a line to the next. */
const STEP = 2
/** Part of the distance by which a line may lie behind a surface and still be on it. */
const ON = 0.004
/** From where the light falls: over the left shoulder. */
const LIGHT = { right: -0.45, up: 0.75, back: 0.55 }

/** The list as a camera sees it, in pixels of a picture of that size, y up. */
export function project(
  list: DrawList3,
  camera: Camera,
  { width, height }: { readonly width: number; readonly height: number },
): DrawList {
  const picture = new Picture(new Projection(camera, width, height))
  const solids = list.items.filter((item) => item.kind === 'solid').map((item) => picture.seen(item))
  for (const seen of solids) if (seen.item.fill === 'plain') picture.cover(seen)
  const faces = solids.flatMap((seen) => (seen.item.fill === 'ghost' ? [] : picture.faces(seen)))
  faces.sort((a, b) => b.ahead - a.ahead)
  const items: DrawItem[] = faces.map((face) => face.item)
  for (const seen of solids) picture.edges(seen, items)
  for (const item of list.items) {
    if (item.kind === 'line') picture.line(item, items)
    else if (item.kind === 'mark') {
      const at = picture.point(item.at)
      if (at !== null) items.push({ ...item, at })
    } else if (item.kind === 'arrow') picture.arrow(item, items)
    else if (item.kind === 'label') picture.label(item, items)
  }
  const { title, caption, legend } = list
  return { title, caption, min: { x: 0, y: 0 }, max: { x: width, y: height }, items, legend, grid: false }
}

/** A solid as the camera has it. */
interface Seen {
  readonly item: SolidItem
  /** Nine numbers a triangle: right, up, ahead of each corner. */
  readonly view: Float64Array
  /** Unit normals in that frame. */
  readonly normals: Float64Array
  /** 1 for the triangles whose front is seen. */
  readonly front: Uint8Array
}

interface Face {
  readonly ahead: number
  readonly item: DrawItem
}

interface Look {
  readonly colour: string
  readonly width: number
  readonly dashed: boolean
}

class Picture {
  private readonly projection: Projection
  private readonly wide: number
  private readonly high: number
  /** How near the nearest surface is at each pixel; see `Projection.toScreen`. */
  private readonly nearest: Float32Array
  private readonly screen = new Float64Array(9)
  private readonly clipped = new Float64Array(3 * 5)

  constructor(projection: Projection) {
    this.projection = projection
    this.wide = Math.ceil(projection.width)
    this.high = Math.ceil(projection.height)
    this.nearest = new Float32Array(this.wide * this.high).fill(projection.parallel ? -Infinity : 0)
  }

  seen(item: SolidItem): Seen {
    const view = this.projection.toView(placed(item.solid.corners, item.frame))
    const count = view.length / 9
    const normals = new Float64Array(3 * count)
    const front = new Uint8Array(count)
    for (let t = 0; t < count; t++) {
      unitNormal(view, 9 * t, normals, 3 * t)
      // Right, up, ahead is a left-handed frame: its normals point the other way.
      for (let i = 0; i < 3; i++) normals[3 * t + i] = -normals[3 * t + i]
      const towards = this.projection.parallel
        ? -normals[3 * t + 2]
        : -(normals[3 * t] * view[9 * t] + normals[3 * t + 1] * view[9 * t + 1] + normals[3 * t + 2] * view[9 * t + 2])
      front[t] = towards > 0 ? 1 : 0
    }
    return { item, view, normals, front }
  }

  /** Takes a solid into account for what hides what. */
  cover({ item, view, front }: Seen): void {
    for (let t = 0; t < front.length; t++) {
      if (item.solid.closed && front[t] === 0) continue
      const corners = this.clip(view, 9 * t)
      for (let k = 2; k < corners; k++) {
        this.projection.toScreen(this.clipped, 0, this.screen, 0)
        this.projection.toScreen(this.clipped, 3 * (k - 1), this.screen, 3)
        this.projection.toScreen(this.clipped, 3 * k, this.screen, 6)
        this.fill(this.screen)
      }
    }
  }

  /** Cuts a triangle at the nearest distance that is drawn; returns how many corners are left in `clipped`. */
  private clip(view: Float64Array, from: number): number {
    const { near } = this.projection
    const { clipped } = this
    let count = 0
    for (let i = 0; i < 3; i++) {
      const a = from + 3 * i
      const b = from + 3 * ((i + 1) % 3)
      if (view[a + 2] >= near) {
        for (let axis = 0; axis < 3; axis++) clipped[3 * count + axis] = view[a + axis]
        count++
      }
      if (view[a + 2] >= near === view[b + 2] >= near) continue
      const part = (near - view[a + 2]) / (view[b + 2] - view[a + 2])
      for (let axis = 0; axis < 3; axis++) {
        clipped[3 * count + axis] = view[a + axis] + part * (view[b + axis] - view[a + axis])
      }
      count++
    }
    return count
  }

  /** Notes how near a triangle is at each pixel whose middle it covers. */
  private fill(s: Float64Array): void {
    const { wide, high, nearest } = this
    const area = (s[3] - s[0]) * (s[7] - s[1]) - (s[4] - s[1]) * (s[6] - s[0])
    if (area === 0 || !Number.isFinite(area)) return
    const left = Math.max(0, Math.floor(Math.min(s[0], s[3], s[6])))
    const right = Math.min(wide - 1, Math.ceil(Math.max(s[0], s[3], s[6])))
    const low = Math.max(0, Math.floor(Math.min(s[1], s[4], s[7])))
    const top = Math.min(high - 1, Math.ceil(Math.max(s[1], s[4], s[7])))
    for (let y = low; y <= top; y++) {
      for (let x = left; x <= right; x++) {
        const px = x + 0.5
        const py = y + 0.5
        const u = ((s[3] - px) * (s[7] - py) - (s[4] - py) * (s[6] - px)) / area
        const v = ((s[6] - px) * (s[1] - py) - (s[7] - py) * (s[0] - px)) / area
        const w = 1 - u - v
        if (u < 0 || v < 0 || w < 0) continue
        const near = u * s[2] + v * s[5] + w * s[8]
        if (near > nearest[y * wide + x]) nearest[y * wide + x] = near
      }
    }
  }

  /** Whether something so near is seen at a pixel: nothing lies before it, there or beside it. */
  private isSeen(x: number, y: number, nearness: number): boolean {
    const { wide, high, nearest, projection } = this
    const column = Math.floor(x)
    const row = Math.floor(y)
    if (column < 0 || row < 0 || column >= wide || row >= high) return true
    let farthest = Infinity
    for (let dy = -1; dy <= 1; dy++) {
      for (let dx = -1; dx <= 1; dx++) {
        const cx = Math.min(wide - 1, Math.max(0, column + dx))
        const cy = Math.min(high - 1, Math.max(0, row + dy))
        farthest = Math.min(farthest, nearest[cy * wide + cx])
      }
    }
    const ahead = projection.ahead(nearness)
    const surface = projection.ahead(farthest)
    const slack = projection.parallel ? (ON * projection.height) / projection.scale : ON * ahead
    return ahead <= surface + slack
  }

  /** The pieces of a solid's faces that are seen, or the outline of a sensor. */
  faces(seen: Seen): Face[] {
    const { item, view, normals, front } = seen
    if (item.fill === 'hatched') return this.outline(seen)
    const faces: Face[] = []
    for (let t = 0; t < front.length; t++) {
      if (item.solid.closed && front[t] === 0) continue
      const turn = front[t] === 1 ? 1 : -1
      const bright =
        turn * (LIGHT.right * normals[3 * t] + LIGHT.up * normals[3 * t + 1] - LIGHT.back * normals[3 * t + 2])
      const shade = 0.34 + 0.5 * Math.max(0, bright) + (item.lit ? 0.12 : 0)
      // A few shades are enough, and the fewer the smaller the picture.
      const colour = mixed(item.colour, Math.round(shade * 32) / 32)
      const corners = this.clip(view, 9 * t)
      const clipped = this.clipped.slice(0, 3 * corners)
      for (let k = 2; k < corners; k++) {
        this.piece([0, k - 1, k].map((i) => [...clipped.subarray(3 * i, 3 * i + 3)]) as Triangle, colour, faces, 0)
      }
    }
    return faces
  }

  private piece(points: Triangle, colour: string, faces: Face[], depth: number): void {
    const { screen, projection } = this
    for (let i = 0; i < 3; i++) projection.toScreen(points[i], 0, screen, 3 * i)
    const xs = [screen[0], screen[3], screen[6]]
    const ys = [screen[1], screen[4], screen[7]]
    const { wide, high } = this
    const beside = Math.max(...xs) < -BESIDE || Math.min(...xs) > wide + BESIDE
    if (beside || Math.max(...ys) < -BESIDE || Math.min(...ys) > high + BESIDE) return
    let longest = 0
    let most = 0
    for (let i = 0; i < 3; i++) {
      const k = (i + 1) % 3
      const length = Math.hypot(xs[k] - xs[i], ys[k] - ys[i])
      if (length > most) {
        most = length
        longest = i
      }
    }
    if (most > PIECE && depth < DEEPEST) {
      const a = points[longest]
      const b = points[(longest + 1) % 3]
      const c = points[(longest + 2) % 3]
      const middle = a.map((value, axis) => (value + b[axis]) / 2)
      this.piece([a, middle, c], colour, faces, depth + 1)
      this.piece([middle, b, c], colour, faces, depth + 1)
      return
    }
    const outline = xs.map((x, i): Point => ({ x, y: ys[i] }))
    const mean = (screen[2] + screen[5] + screen[8]) / 3
    let any = this.isSeen((xs[0] + xs[1] + xs[2]) / 3, (ys[0] + ys[1] + ys[2]) / 3, mean)
    for (let i = 0; i < 3 && !any; i++) {
      const part = (at: number): number =>
        0.8 * screen[3 * i + at] + 0.2 * ((screen[at] + screen[3 + at] + screen[6 + at]) / 3)
      any = this.isSeen(part(0), part(1), part(2))
    }
    if (!any) return
    faces.push({ ahead: projection.ahead(mean), item: { kind: 'face', points: outline, colour, hatched: false } })
  }

  /** The outline of what is round about a solid, hatched. */
  private outline({ item, view, front }: Seen): Face[] {
    const { screen, projection } = this
    const points: Point[] = []
    let ahead = 0
    let count = 0
    for (let t = 0; t < front.length; t++) {
      const corners = this.clip(view, 9 * t)
      for (let k = 0; k < corners; k++) {
        projection.toScreen(this.clipped, 3 * k, screen, 0)
        points.push({ x: screen[0], y: screen[1] })
        ahead += projection.ahead(screen[2])
        count++
      }
    }
    const around = convexOutline(points)
    if (around.length < 3) return []
    return [{ ahead: ahead / count, item: { kind: 'face', points: around, colour: item.colour, hatched: true } }]
  }

  /** The lines of a solid: creases, and where its front ends. */
  edges({ item, view, front }: Seen, items: DrawItem[]): void {
    const { neighbours, lines, closed } = item.solid
    const look: Look = {
      colour: item.fill === 'plain' ? mixed(item.colour, 1.12) : item.colour,
      width: item.lit ? 2.5 : 1.2,
      dashed: item.fill === 'ghost',
    }
    const fine: Look = { ...look, colour: mixed(item.colour, closed ? 0.8 : 0.62), width: 0.7 }
    for (let edge = 0; edge < neighbours.length; edge++) {
      const t = Math.floor(edge / 3)
      const other = neighbours[edge]
      if (other >= 0 && other < t) continue
      const rim = other < 0 || front[t] !== front[other]
      if (!rim && lines[edge] === 0) continue
      const from = 9 * t + 3 * (edge % 3)
      const to = 9 * t + 3 * ((edge + 1) % 3)
      this.segment(view.subarray(from, from + 3), view.subarray(to, to + 3), rim ? look : fine, items, !closed)
    }
  }

  line({ from, to, colour, width, dashed }: SpaceLine, items: DrawItem[]): void {
    const look = { colour, width, dashed }
    const view = this.projection.toView(Float64Array.of(from.x, from.y, from.z, to.x, to.y, to.z))
    this.segment(view.subarray(0, 3), view.subarray(3, 6), look, items, false)
  }

  /** A straight line, split where it goes behind something and comes out again. */
  private segment(a: ArrayLike<number>, b: ArrayLike<number>, look: Look, items: DrawItem[], seenOnly: boolean): void {
    const { near } = this.projection
    if (a[2] < near && b[2] < near) return
    const cut = (p: ArrayLike<number>, q: ArrayLike<number>): number[] => {
      const part = p[2] >= near ? 0 : (near - p[2]) / (q[2] - p[2])
      return [0, 1, 2].map((axis) => p[axis] + part * (q[axis] - p[axis]))
    }
    const s = new Float64Array(6)
    this.projection.toScreen(cut(a, b), 0, s, 0)
    this.projection.toScreen(cut(b, a), 0, s, 3)
    const length = Math.hypot(s[3] - s[0], s[4] - s[1])
    const steps = Math.min(2000, Math.max(1, Math.ceil(length / STEP)))
    const at = (part: number): Point => ({ x: s[0] + part * (s[3] - s[0]), y: s[1] + part * (s[4] - s[1]) })
    const test = (k: number): boolean => {
      const part = (k + 0.5) / steps
      const { x, y } = at(part)
      return this.isSeen(x, y, s[2] + part * (s[5] - s[2]))
    }
    let start = 0
    let shown = test(0)
    for (let k = 1; k <= steps; k++) {
      const now = k < steps && test(k)
      if (k < steps && now === shown) continue
      if (shown) items.push({ kind: 'line', from: at(start / steps), to: at(k / steps), ...look })
      else if (!seenOnly) {
        const hidden = { colour: dimmed(look.colour), width: Math.min(look.width, 1), dashed: true }
        items.push({ kind: 'line', from: at(start / steps), to: at(k / steps), ...hidden })
      }
      start = k
      shown = now
    }
  }

  /** Where a point is on the picture; null behind the eye. */
  point(at: Vec3): Point | null {
    const view = this.projection.toView(Float64Array.of(at.x, at.y, at.z))
    if (view[2] < this.projection.near) return null
    this.projection.toScreen(view, 0, this.screen, 0)
    return { x: this.screen[0], y: this.screen[1] }
  }

  /** An arrow as long as its direction is seen from the side. */
  arrow(item: SpaceArrow, items: DrawItem[]): void {
    const at = this.point(item.at)
    if (at === null) return
    const { right, up } = this.projection
    const { x, y, z } = item.direction
    const dx = right.x * x + right.y * y + right.z * z
    const dy = up.x * x + up.y * y + up.z * z
    const across = Math.hypot(dx, dy)
    if (across < 0.2) return
    const length = item.length * across
    items.push({ kind: 'arrow', at, direction: { x: dx / across, y: dy / across }, colour: item.colour, length })
  }

  label(item: SpaceLabel, items: DrawItem[]): void {
    const min = { x: Infinity, y: Infinity }
    const max = { x: -Infinity, y: -Infinity }
    for (const each of item.points) {
      const corner = this.point(each)
      if (corner === null) return
      min.x = Math.min(min.x, corner.x)
      min.y = Math.min(min.y, corner.y)
      max.x = Math.max(max.x, corner.x)
      max.y = Math.max(max.y, corner.y)
    }
    items.push({ kind: 'label', min, max, inner: null, text: item.text, colour: item.colour })
  }
}

type Triangle = [ArrayLike<number> & number[], ArrayLike<number> & number[], ArrayLike<number> & number[]]

/** The convex outline of points, counter-clockwise (Andrew, 1979). */
function convexOutline(points: readonly Point[]): Point[] {
  const sorted = [...points].sort((a, b) => a.x - b.x || a.y - b.y)
  const half = (list: readonly Point[]): Point[] => {
    const chain: Point[] = []
    for (const p of list) {
      while (chain.length >= 2) {
        const a = chain[chain.length - 2]
        const b = chain[chain.length - 1]
        if ((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x) > 0) break
        chain.pop()
      }
      chain.push(p)
    }
    return chain.slice(0, -1)
  }
  return [...half(sorted), ...half(sorted.reverse())]
}
