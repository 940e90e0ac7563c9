/** What a picture can show of a world besides its bodies, in either dimension: bounds, trees, ways, velocities, loads of joints. */
import type { BoundsTree } from '../core/tree/boundsTree.ts'
import { boxesOf } from '../core/tree/boxes.ts'
import { onlyFields } from '../core/util/checks.ts'
import { dimmed, JOINT, mixed } from './palette.ts'

/** What a picture shows besides the bodies. */
export interface Overlays {
  /** Where solids touch: normal, and how hard they press. Default true. */
  touches?: boolean | undefined
  /** Joints. Default true. */
  joints?: boolean | undefined
  /** The force of each joint in the last tick, in newtons, beside it. Default false. */
  loads?: boolean | undefined
  /** Bounds of colliders, as queries know them. Default false. */
  bounds?: boolean | undefined
  /** Nodes of the trees that queries walk through: faint near the root. Default false. */
  tree?: boolean | undefined
  /** Velocities of what moves: from its centre to where that would be in a quarter of a second. Default false. */
  velocities?: boolean | undefined
  /** Where what moves stood a tick ago, and its way since. Default false. */
  ways?: boolean | undefined
  /** Dynamic bodies that sleep are drawn faint. Default false. */
  asleep?: boolean | undefined
}

/** The names of the overlays. */
export const OVERLAYS = ['touches', 'joints', 'loads', 'bounds', 'tree', 'velocities', 'ways', 'asleep'] as const

/**
 * Which overlays are on, the defaults filled in.
 * @throws KeenError `bad-argument` for one that there is not
 */
export function overlaysOf(show: Overlays = {}): Required<{ [K in keyof Overlays]: boolean }> {
  onlyFields(show, OVERLAYS, "'show' of a picture")
  const { touches = true, joints = true, loads = false, bounds = false } = show
  const { tree = false, velocities = false, ways = false, asleep = false } = show
  return { touches, joints, loads, bounds, tree, velocities, ways, asleep }
}

/** Seconds ahead that a velocity is drawn. */
export const AHEAD = 0.25
const BOUNDS = '#7f9bb5'
const TREE = '#8fd0a8'
const VELOCITY = '#86e1ff'
/** Parts of a unit by which something has come that has a way. */
const MOVED = 1e-6

/** The colour of what sleeps. */
export const asleepColour = dimmed

/** A body of either dimension, as far as overlays look at it. */
interface Moving<V> {
  readonly type: string
  readonly asleep: boolean
  readonly centre: V
  readonly velocity: V
}

/** A line of either dimension. */
interface Line<V> {
  readonly kind: 'line'
  readonly from: V
  readonly to: V
  readonly colour: string
  readonly width: number
  readonly dashed: boolean
}

interface Mark<V> {
  readonly kind: 'mark'
  readonly at: V
  readonly sign: 'dot' | 'ring' | 'cross'
  readonly colour: string
  readonly size: number
}

/** The velocities of what moves. @param ahead a point so many seconds further along a velocity */
export function velocityItems<V>(bodies: readonly Moving<V>[], ahead: (body: Moving<V>) => V): (Line<V> | Mark<V>)[] {
  return bodies
    .filter(({ type, asleep }) => type !== 'static' && !asleep)
    .flatMap((body) => {
      const to = ahead(body)
      return [
        { kind: 'line', from: body.centre, to, colour: VELOCITY, width: 1.6, dashed: false },
        { kind: 'mark', at: to, sign: 'dot', colour: VELOCITY, size: 4 },
      ]
    })
}

/** The way of a body in the last tick; nothing where it stood. */
export function wayItems<V>(from: V, to: V, length: number, unit: number): Line<V>[] {
  return length > MOVED * unit ? [{ kind: 'line', from, to, colour: VELOCITY, width: 1.2, dashed: true }] : []
}

/** The text of the load of a joint. */
export function loadText(force: number): string {
  return `${force.toFixed(force < 10 ? 1 : 0)} N`
}

export const LOAD = JOINT

/** A box of numbers, and the colour to draw it in. */
export interface ShownBox {
  readonly box: readonly number[]
  readonly colour: string
}

/** Every node of some trees, the deeper the brighter. */
export function treeBoxes(trees: readonly BoundsTree[]): ShownBox[] {
  return trees.flatMap((tree) =>
    [...boxesOf(tree)].map(({ box, depth }) => ({ box, colour: mixed(TREE, Math.min(0.85, 0.25 + 0.1 * depth)) })),
  )
}

/** The bounds of a collider. */
export function boundsBox(box: readonly number[]): ShownBox {
  return { box, colour: BOUNDS }
}

/** What the overlays mean that are on, for a legend. */
export function overlayLegend(on: ReturnType<typeof overlaysOf>): { text: string; colour: string; fill: 'line' }[] {
  const entries: [boolean, string, string][] = [
    [on.bounds, 'bounds', BOUNDS],
    [on.tree, 'tree', TREE],
    [on.velocities, 'velocity: a quarter of a second', VELOCITY],
    [on.ways, 'way of the last tick', VELOCITY],
  ]
  return entries.filter(([shown]) => shown).map(([, text, colour]) => ({ text, colour, fill: 'line' }))
}
