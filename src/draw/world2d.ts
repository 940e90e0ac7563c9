/** A 2D world as a draw list: solids plain, sensors hatched, what is off as a ghost, rays with point and normal. */
import { type Body2, box, type Collider2, type RayHit2, type World2 } from '../2d/index.ts'
import { HEAD, LINE, PLANE } from '../2d/shapes/layout.ts'
import type { Piece } from '../2d/shapes/shape.ts'
import type { Kinds } from '../core/index.ts'
import { arcItems, brokenItems, jointItems, jointLook } from './joints.ts'
import type { DrawItem, DrawList, Point, RoundItem } from './list.ts'
import {
  enteredSensors,
  isSensor,
  legendOf,
  lookOf,
  maskOf,
  nameOrder,
  noteLayers,
  type Shown,
  type ShownTrail,
  touchesOf,
  trailItems,
} from './looks.ts'
import {
  AHEAD,
  asleepColour,
  boundsBox,
  LOAD,
  loadText,
  type Overlays,
  overlaysOf,
  type ShownBox,
  treeBoxes,
  velocityItems,
  wayItems,
} from './overlays.ts'
import { FAINT_TEXT, HIT, RAY, TEXT, TOUCH } from './palette.ts'
import { corePoints, shownPieces } from './pieces2d.ts'

/** A ray to be shown, and what it meets. */
export interface ShownRay2<K extends Kinds> {
  /** Stands beside it. */
  readonly name: string
  /** Where it begins. */
  readonly from: Point
  /** Where it would end. */
  readonly to: Point
  /** What it meets; null for nothing. */
  readonly hit: RayHit2<K> | null
}

/** What is drawn of a world besides its bodies. */
export interface DrawWorldOptions2<K extends Kinds> {
  /** Stands above the picture. Default none. */
  title?: string | undefined
  /** Default: tick and time. */
  caption?: string | undefined
  /** What to show, in world units. Default: everything there is, with a margin. */
  view?: { readonly min: Point; readonly max: Point } | undefined
  /** Rays to be drawn, with what they meet. Default none. */
  rays?: readonly ShownRay2<K>[] | undefined
  /** Ways of bodies that travel, with what they met. Default none. */
  trails?: readonly ShownTrail<Point>[] | undefined
  /** Names beside the bodies. Default true. */
  labels?: boolean | undefined
  /** A body to be drawn stronger, as the one under the pointer. */
  highlight?: Body2<K> | null | undefined
  /** Between which ticks, 0 (the one before the last) to 1 (the last). Default 1. */
  alpha?: number | undefined
  /** Which bodies to show, as those that move; default all. */
  where?: ((body: Body2<K>) => boolean) | undefined
  /** Whose colliders to show; default those of all layers. */
  layers?: readonly K['layer'][] | undefined
  /** What to show besides the bodies; default touches and joints. */
  show?: Overlays | undefined
  /** Whether bodies off the `view` are left out, found by a query of the world: for large worlds. Default false. */
  cull?: boolean | undefined
}

/** The world as it stands after its last step (or between two, see `alpha`). */
export function drawWorld2<K extends Kinds>(world: World2<K>, options: DrawWorldOptions2<K> = {}): DrawList {
  const alpha = options.alpha ?? 1
  const { where, highlight = null } = options
  const overlays = overlaysOf(options.show)
  const seen = options.cull === true && options.view !== undefined ? bodiesIn(world, options.view) : world.bodies()
  const bodies = where === undefined ? seen : seen.filter(where)
  const layerBits = options.layers === undefined ? -1 : maskOf(world.layers, options.layers)
  const entered = enteredSensors<Collider2<K>>(bodies)
  const order = nameOrder(bodies, highlight)
  const boxes: ShownBox[] = []
  const backs: DrawItem[] = []
  const fronts: DrawItem[] = []
  const labels: DrawItem[][] = [[], [], []]
  const planes: ShownPlane<K>[] = []
  const whole = emptyBox()
  const shown: Shown = new Map()
  let [edges, tiles] = [0, 0]
  for (const body of bodies) {
    const pose = body.poseAt(alpha, { at: { x: 0, y: 0 }, angle: 0 })
    const own = emptyBox()
    let inner: (MutableBox & { points: Point[]; radius: number }) | null = null
    for (const collider of body.colliders) {
      if ((collider.layerBits & layerBits) === 0 && layerBits !== -1) continue
      const sensor = isSensor(collider)
      const look = lookOf(world.layers, collider, entered.has(collider) || body === highlight)
      if (overlays.asleep && body.asleep) look.colour = asleepColour(look.colour)
      if (overlays.bounds) boxes.push(...boundsOf(collider))
      const items = sensor ? backs : fronts
      const { shape } = collider
      if (shape.kind === 'tiles') {
        tiles += shape.count
        const loops = collider.outline.map((loop) => loop.map((point) => inWorld(collider, point, pose)))
        for (const point of loops.flat()) grow(own, point, 0)
        if (loops.length === 0) continue
        edges += loops.flat().length
        items.push({ kind: 'region', loops, ...look })
        noteLayers(world.layers, collider, shown)
        continue
      }
      for (const piece of shownPieces(shape)) {
        if (piece.block[0] === PLANE) {
          planes.push({ collider, piece, pose, look, items })
          continue
        }
        const points = outline(collider, piece.block, pose)
        const radius = piece.block[HEAD]
        const part = emptyBox()
        for (const point of points) grow(part, point, radius)
        grow(own, part.min, 0)
        grow(own, part.max, 0)
        if (!sensor && (inner === null || area(part) > area(inner))) inner = { ...part, points, radius }
        items.push(
          piece.block[0] === LINE
            ? {
                kind: 'line',
                from: points[0],
                to: points[1],
                colour: look.colour,
                width: look.lit ? 5 : 3,
                dashed: false,
              }
            : { kind: 'round', points, radius, ...look },
        )
      }
      noteLayers(world.layers, collider, shown)
    }
    if (own.min.x > own.max.x) continue
    grow(whole, own.min, 0)
    grow(whole, own.max, 0)
    if (options.labels !== false && body.name !== null) {
      const colour = body === highlight ? TEXT : FAINT_TEXT
      labels[order.get(body)!].push({ kind: 'label', min: own.min, max: own.max, inner, text: body.name, colour })
    }
  }
  const margin = 0.04 * Math.max(whole.max.x - whole.min.x, whole.max.y - whole.min.y, 1)
  grow(whole, whole.min.x > whole.max.x ? { x: 0, y: 0 } : whole.min, margin)
  grow(whole, whole.max.x < whole.min.x ? { x: 0, y: 0 } : whole.max, margin)
  const min = options.view?.min ?? whole.min
  const max = options.view?.max ?? whole.max
  for (const plane of planes) plane.items.unshift(planeItem(plane, { min: { ...min }, max: { ...max } }))
  const count = (many: number, what: string): string => `${many.toLocaleString('en')} ${what}`
  const outlined = tiles === 0 ? '' : `${count(tiles, 'tiles')} in ${count(edges, 'edges')} · `
  const rays = options.rays ?? []
  const trails = options.trails ?? []
  return {
    title: options.title ?? '',
    caption: options.caption ?? `${outlined}tick ${world.tick} · ${world.time.toFixed(2)} s`,
    min,
    max,
    items: [
      ...backs,
      ...fronts,
      ...(overlays.tree ? treeBoxes(world.kernel.broadPhase.trees) : []).map(boxItem),
      ...boxes.map(boxItem),
      ...(overlays.joints ? jointsOf(world, bodies) : []),
      ...(overlays.touches ? touchItems(bodies) : []),
      ...(overlays.ways ? bodies.flatMap((body) => wayOf(body, world.unit)) : []),
      ...(overlays.velocities ? velocityItems<Point>(bodies, ({ centre, velocity }) => along(centre, velocity)) : []),
      ...trails.flatMap(trailItems),
      ...rays.flatMap(rayItems),
      ...(overlays.loads ? loadsOf(world) : []),
      ...labels.flat(),
    ],
    legend: legendOf(world.layers, shown, {
      rays: rays.length > 0,
      joints: world.joints().length > 0,
      trails: trails.length > 0,
      overlays,
    }),
  }
}

/** Part of a view by which bodies may lie outside it and still be shown: they are drawn between two ticks. */
const VIEW_MARGIN = 0.1

/** The bodies that reach into a view, by age; and those that no query finds, for they are switched off. */
function bodiesIn<K extends Kinds>(world: World2<K>, { min, max }: { min: Point; max: Point }): Body2<K>[] {
  const width = (1 + VIEW_MARGIN) * (max.x - min.x)
  const height = (1 + VIEW_MARGIN) * (max.y - min.y)
  const at = { x: (min.x + max.x) / 2, y: (min.y + max.y) / 2 }
  const found = new Set<Body2<K>>()
  world.overlap.each({ shape: box(width, height), at }, ({ body }) => void found.add(body), { sensors: true })
  for (const body of world.bodies()) {
    if (!body.enabled || body.colliders.some(({ enabled }) => !enabled)) found.add(body)
  }
  return [...found].sort((a, b) => a.serial - b.serial)
}

/** The bounds of a collider to be drawn; nothing for one without end. */
function boundsOf<K extends Kinds>(collider: Collider2<K>): ShownBox[] {
  const { min, max } = collider.bounds!
  return Number.isFinite(min.x) ? [boundsBox([min.x, min.y, max.x, max.y])] : []
}

function boxItem({ box: [left, bottom, right, top], colour }: ShownBox): RoundItem {
  const points = [
    { x: left, y: bottom },
    { x: right, y: bottom },
    { x: right, y: top },
    { x: left, y: top },
  ]
  return { kind: 'round', points, radius: 0, colour, fill: 'ghost', lit: false }
}

function along(at: Point, velocity: Point): Point {
  return { x: at.x + AHEAD * velocity.x, y: at.y + AHEAD * velocity.y }
}

function wayOf<K extends Kinds>(body: Body2<K>, unit: number): DrawItem[] {
  if (body.type === 'static') return []
  const { at: from } = body.poseAt(0, { at: { x: 0, y: 0 }, angle: 0 })
  return wayItems<Point>({ ...from }, body.at, Math.hypot(body.at.x - from.x, body.at.y - from.y), unit)
}

function loadsOf<K extends Kinds>(world: World2<K>): DrawItem[] {
  return world.joints().map(({ anchors: { a }, force }) => {
    return { kind: 'label', min: a, max: a, inner: null, text: loadText(force), colour: LOAD }
  })
}

/** The core points of a piece of a collider in the world. */
function outline<K extends Kinds>(
  collider: Collider2<K>,
  block: Float64Array,
  pose: { at: Point; angle: number },
): Point[] {
  return corePoints(block).map((point) => inWorld(collider, point, pose))
}

/** A point about a collider's shape, in the world. */
function inWorld<K extends Kinds>(collider: Collider2<K>, point: Point, pose: { at: Point; angle: number }): Point {
  const { at, angle } = collider
  const x = at.x + Math.cos(angle) * point.x - Math.sin(angle) * point.y
  const y = at.y + Math.sin(angle) * point.x + Math.cos(angle) * point.y
  const cos = Math.cos(pose.angle)
  const sin = Math.sin(pose.angle)
  return { x: pose.at.x + cos * x - sin * y, y: pose.at.y + sin * x + cos * y }
}

/** A halfspace as a box that reaches over all that is to be seen. */
function planeItem<K extends Kinds>({ collider, piece, pose, look }: ShownPlane<K>, box: MutableBox): RoundItem {
  const [offset, nx, ny] = piece.block.subarray(HEAD)
  const reach = 4 * (box.max.x - box.min.x + box.max.y - box.min.y + 1)
  const corner = (along: number, height: number): Point =>
    inWorld(collider, { x: nx * (offset + height) - ny * along, y: ny * (offset + height) + nx * along }, pose)
  const points = [corner(reach, 0), corner(-reach, 0), corner(-reach, -reach), corner(reach, -reach)]
  return { kind: 'round', points: points.reverse(), radius: 0, ...look }
}

interface ShownPlane<K extends Kinds> {
  readonly collider: Collider2<K>
  readonly piece: Piece
  readonly pose: { at: Point; angle: number }
  readonly look: Pick<RoundItem, 'colour' | 'fill' | 'lit'>
  readonly items: DrawItem[]
}

function rayItems<K extends Kinds>(ray: ShownRay2<K>): DrawItem[] {
  const end = ray.hit?.point ?? ray.to
  const line: DrawItem = { kind: 'line', from: ray.from, to: end, colour: RAY, width: 1.5, dashed: false }
  const rest: DrawItem = { kind: 'line', from: end, to: ray.to, colour: RAY, width: 1, dashed: true }
  const start: DrawItem = { kind: 'mark', at: ray.from, sign: 'dot', colour: RAY, size: 5 }
  if (ray.hit === null) return [start, line]
  return [
    start,
    line,
    rest,
    { kind: 'arrow', at: ray.hit.point, direction: ray.hit.normal, colour: HIT, length: 26 },
    { kind: 'mark', at: ray.hit.point, sign: 'ring', colour: HIT, size: 9 },
  ]
}

/** Lengths of the arm of an arc of limits, at most, times the unit. */
const ARC = 0.9

const PLANE_VECTORS = {
  plus: (p: Point, v: Point, k: number): Point => ({ x: p.x + k * v.x, y: p.y + k * v.y }),
  from: (p: Point, q: Point): Point => ({ x: q.x - p.x, y: q.y - p.y }),
  length: ({ x, y }: Point): number => Math.hypot(x, y),
  across: ({ x, y }: Point): Point => {
    const length = Math.hypot(x, y) || 1
    return { x: -y / length, y: x / length }
  },
}

function jointsOf<K extends Kinds>(world: World2<K>, bodies: readonly Body2<K>[]): DrawItem[] {
  const shown = new Set(bodies)
  const seen = world.joints().filter(({ a, b }) => shown.has(a) || (b !== null && shown.has(b)))
  const living = seen.flatMap((joint) => {
    const { a, b, anchors } = joint
    const movable = (b === null ? [a] : [a, b]).filter((body) => body.type !== 'static')
    const items = jointItems(
      jointLook(joint),
      PLANE_VECTORS,
      movable.map((body) => body.centre),
    )
    if (joint.type !== 'hinge' || joint.limits === null) return items
    // From how its second body (the first, in the world) stood at joining.
    const last = b ?? a
    const way = PLANE_VECTORS.from(anchors.a, last.centre)
    const length = Math.min(PLANE_VECTORS.length(way), ARC * world.unit)
    const facing = Math.atan2(way.y, way.x) - joint.angle
    const turned = (angle: number): Point => ({
      x: length * Math.cos(facing + angle),
      y: length * Math.sin(facing + angle),
    })
    return [...items, ...arcItems(anchors.a, joint.limits, turned, PLANE_VECTORS)]
  })
  const ends = world
    .events()
    .flatMap((event) => (event.joint !== null && event.cause === 'broken' ? brokenItems(event.joint.anchors) : []))
  return [...living, ...ends]
}

function touchItems<K extends Kinds>(bodies: readonly Body2<K>[]): DrawItem[] {
  return touchesOf(bodies).flatMap(({ point, normal, length }): DrawItem[] => [
    { kind: 'arrow', at: point, direction: normal, colour: TOUCH, length },
    { kind: 'mark', at: point, sign: 'cross', colour: TOUCH, size: 10 },
  ])
}

interface MutableBox {
  min: { x: number; y: number }
  max: { x: number; y: number }
}

function emptyBox(): MutableBox {
  return { min: { x: Infinity, y: Infinity }, max: { x: -Infinity, y: -Infinity } }
}

function area(box: MutableBox): number {
  return (box.max.x - box.min.x) * (box.max.y - box.min.y)
}

function grow(box: MutableBox, point: Point, radius: number): void {
  box.min.x = Math.min(box.min.x, point.x - radius)
  box.min.y = Math.min(box.min.y, point.y - radius)
  box.max.x = Math.max(box.max.x, point.x + radius)
  box.max.y = Math.max(box.max.y, point.y + radius)
}
