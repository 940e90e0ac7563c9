/** A draw list of 3D as line segments: what any renderer can show over its own picture. */
import type { Vec3 } from '../3d/index.ts'
import { placed } from './frame.ts'
import type { DrawItem3, DrawList3 } from './list3d.ts'
import { mixed } from './palette.ts'

/** Line segments as flat arrays, for other renderers. */
export interface Segments {
  /** x, y, z of both ends of each segment, one segment after the other. */
  readonly positions: Float32Array
  /** Red, green and blue from 0 to 1, for each end. */
  readonly colours: Float32Array
}

/** Metres of an arrow and of a mark, as a part of the size of all. */
const ARROW = 0.03
const MARK = 0.006

/**
 * The lines of a list: creases and rims of what is solid, rays, arrows and marks. Labels are left out.
 * @param size metres by which arrows and marks are measured; default the size of the list
 * @example const { positions, colours } = segments(drawWorld3(world))
 */
export function segments(list: Pick<DrawList3, 'items' | 'min' | 'max'>, size = sizeOf(list)): Segments {
  const out: Gathered = { positions: [], colours: [] }
  for (const item of list.items) gather(item, size, out)
  return { positions: Float32Array.from(out.positions), colours: Float32Array.from(out.colours) }
}

interface Gathered {
  readonly positions: number[]
  readonly colours: number[]
}

function sizeOf({ min, max }: Pick<DrawList3, 'min' | 'max'>): number {
  return Math.hypot(max.x - min.x, max.y - min.y, max.z - min.z)
}

function gather(item: DrawItem3, size: number, out: Gathered): void {
  if (item.kind === 'solid') {
    const corners = placed(item.solid.corners, item.frame)
    const colour = rgb(item.lit ? mixed(item.colour, 1.3) : item.colour)
    const { neighbours, lines } = item.solid
    for (let edge = 0; edge < lines.length; edge++) {
      const t = Math.floor(edge / 3)
      if (lines[edge] === 0 || (neighbours[edge] >= 0 && neighbours[edge] < t)) continue
      const from = 9 * t + 3 * (edge % 3)
      const to = 9 * t + 3 * ((edge + 1) % 3)
      for (let axis = 0; axis < 3; axis++) out.positions.push(corners[from + axis])
      for (let axis = 0; axis < 3; axis++) out.positions.push(corners[to + axis])
      out.colours.push(...colour, ...colour)
    }
  } else if (item.kind === 'line') add(item.from, item.to, item.colour, out)
  else if (item.kind === 'arrow') {
    const { at, direction } = item
    add(at, ahead(at, direction, ARROW * size), item.colour, out)
  } else if (item.kind === 'mark') {
    for (const axis of ['x', 'y', 'z'] as const) {
      const reach = MARK * size
      add(
        { ...item.at, [axis]: item.at[axis] - reach },
        { ...item.at, [axis]: item.at[axis] + reach },
        item.colour,
        out,
      )
    }
  }
}

function ahead(at: Vec3, { x, y, z }: Vec3, length: number): Vec3 {
  return { x: at.x + x * length, y: at.y + y * length, z: at.z + z * length }
}

function add(from: Vec3, to: Vec3, colour: string, out: Gathered): void {
  out.positions.push(from.x, from.y, from.z, to.x, to.y, to.z)
  out.colours.push(...rgb(colour), ...rgb(colour))
}

function rgb(colour: string): [number, number, number] {
  const part = (at: number): number => Number.parseInt(colour.slice(at, at + 2), 16) / 255
  return [part(1), part(3), part(5)]
}
