/** The draw list of 3D: what is to be seen, in world units, without a camera and without a renderer. */
import type { Vec3 } from '../3d/index.ts'
import type { Frame } from './frame.ts'
import type { LegendEntry } from './list.ts'
import type { Solid } from './solids.ts'

/** A part of a collider where it stands. */
export interface SolidItem {
  readonly kind: 'solid'
  readonly solid: Solid
  readonly frame: Frame
  readonly colour: string
  /** Plain: hides what is behind it. Hatched: a sensor. Ghost: lines only, for what is disabled. */
  readonly fill: 'plain' | 'hatched' | 'ghost'
  /** Drawn stronger: a sensor with somebody in it, or what the pointer is on. */
  readonly lit: boolean
}

export interface SpaceLine {
  readonly kind: 'line'
  readonly from: Vec3
  readonly to: Vec3
  readonly colour: string
  /** Pixels. */
  readonly width: number
  readonly dashed: boolean
}

/** A small sign of a fixed size on the screen. */
interface SpaceMark {
  readonly kind: 'mark'
  readonly at: Vec3
  readonly sign: 'dot' | 'ring' | 'cross'
  readonly colour: string
  /** Pixels across. */
  readonly size: number
}

/** An arrow of a fixed length on the screen where it is seen from the side, as for a normal. */
export interface SpaceArrow {
  readonly kind: 'arrow'
  readonly at: Vec3
  readonly direction: Vec3
  readonly colour: string
  /** Pixels. */
  readonly length: number
}

/** A name, to be put beside what it names. */
export interface SpaceLabel {
  readonly kind: 'label'
  /** Points around what it names: its name stands beside them. One point where it names a place. */
  readonly points: readonly Vec3[]
  readonly text: string
  readonly colour: string
}

/** One thing to be drawn of 3D. */
export type DrawItem3 = SolidItem | SpaceLine | SpaceMark | SpaceArrow | SpaceLabel

/** A picture of 3D as data, before a camera has checked it. */
export interface DrawList3 {
  /** Stands above the picture. */
  readonly title: string
  /** Stands below the picture. */
  readonly caption: string
  /** The box that holds all, in world units. */
  readonly min: Vec3
  /** The corner of the bounds with the greatest coordinates. */
  readonly max: Vec3
  /** What is to be drawn, in no order. */
  readonly items: readonly DrawItem3[]
  /** What the colours mean. */
  readonly legend: readonly LegendEntry[]
}
