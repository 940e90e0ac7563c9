/** A world of 3D as a draw list: solids plain, sensors hatched, what is off as a ghost, rays with point and normal. */
import type { Body3, Collider3, Halfspace, RayHit3, Shape3, Vec3, World3 } from '../3d/index.ts'
import { rotationTowards } from '../3d/index.ts'
import type { Kinds } from '../core/index.ts'
import { type Frame, frameOf, placed, placedPoint, within } from './frame.ts'
import { arcItems, brokenItems, jointItems, jointLook } from './joints.ts'
import type { DrawItem3, DrawList3, SpaceLine } from './list3d.ts'
import {
  enteredSensors,
  type Look,
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
import { type Solid, solidsOf } from './solids.ts'

/** Corners of a shape's triangles up to which a name is put beside the surface rather than its bounds. */
const MOST_POINTS = 5000

/** A ray to be shown, and what it meets. */
export interface ShownRay3<K extends Kinds> {
  /** Stands beside it. */
  readonly name: string
  /** Where it begins. */
  readonly from: Vec3
  /** Where it would end. */
  readonly to: Vec3
  /** What it meets; null for nothing. */
  readonly hit: RayHit3<K> | null
}

/** What is drawn of a world besides its bodies. */
export interface DrawWorldOptions3<K extends Kinds> {
  /** Stands above the picture. Default none. */
  title?: string | undefined
  /** Default: tick and time. */
  caption?: string | undefined
  /** Rays to be drawn, with what they meet. Default none. */
  rays?: readonly ShownRay3<K>[] | undefined
  /** Ways of bodies that travel, with what they met. Default none. */
  trails?: readonly ShownTrail<Vec3>[] | undefined
  /** Names beside the bodies. Default true. */
  labels?: boolean | undefined
  /** A body to be drawn stronger, as the one under the pointer. */
  highlight?: Body3<K> | null | undefined
  /** Between which ticks, 0 (the one before the last) to 1 (the last). Default 1. */
  alpha?: number | undefined
  /** Which bodies to show, as those that move; default all. */
  where?: ((body: Body3<K>) => boolean) | undefined
  /** Whose colliders to show; default those of all layers. */
  layers?: readonly K['layer'][] | undefined
  /** What to show besides the bodies; default touches and joints. */
  show?: Overlays | undefined
}

/** The world as it stands after its last step (or between two, see `alpha`). Project it for a picture, or take its segments. */
export function drawWorld3<K extends Kinds>(world: World3<K>, options: DrawWorldOptions3<K> = {}): DrawList3 {
  const { alpha = 1, where, highlight = null } = options
  const all = world.bodies()
  const bodies = where === undefined ? all : all.filter(where)
  const entered = enteredSensors<Collider3<K>>(all)
  const overlays = overlaysOf(options.show)
  const layerBits = options.layers === undefined ? -1 : maskOf(world.layers, options.layers)
  const order = nameOrder(bodies, highlight)
  const boxes: ShownBox[] = []
  const items: DrawItem3[] = []
  const labels: DrawItem3[][] = [[], [], []]
  const planes: { shape: Halfspace; frame: Frame; look: Look }[] = []
  const box = new Box()
  const shown: Shown = new Map()
  for (const body of bodies) {
    const pose = body.poseAt(alpha, { at: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } })
    const outer = frameOf(pose.at, pose.rotation)
    const own: Vec3[] = []
    for (const collider of body.colliders) {
      if ((collider.layerBits & layerBits) === 0 && layerBits !== -1) continue
      const look = lookOf(world.layers, collider, entered.has(collider) || body === highlight)
      if (overlays.asleep && body.asleep) look.colour = asleepColour(look.colour)
      if (overlays.bounds) boxes.push(...boundsOf(collider))
      const frame = within(outer, frameOf(collider.at, collider.rotation))
      noteLayers(world.layers, collider, shown)
      if (collider.shape.kind === 'halfspace') planes.push({ shape: collider.shape, frame, look })
      else {
        for (const corner of cornersOf(collider.shape, frame)) box.grow(corner)
        own.push(...surfaceOf(collider.shape, frame))
        for (const solid of solidsOf(collider.shape)) items.push({ kind: 'solid', solid, frame, ...look })
      }
    }
    if (own.length > 0 && options.labels !== false && body.name !== null) {
      const colour = body === highlight ? TEXT : FAINT_TEXT
      labels[order.get(body)!].push({ kind: 'label', points: own, text: body.name, colour })
    }
  }
  if (box.isEmpty()) for (const sign of [-1, 1]) box.grow({ x: sign, y: sign, z: sign })
  for (const { shape, frame, look } of planes) {
    items.push({ kind: 'solid', solid: patch(shape, frame, box), frame: frameOf({ x: 0, y: 0, z: 0 }), ...look })
  }
  const rays = options.rays ?? []
  const trails = options.trails ?? []
  return {
    title: options.title ?? '',
    caption: options.caption ?? `tick ${world.tick} · ${world.time.toFixed(2)} s`,
    min: box.min,
    max: box.max,
    items: [
      ...items,
      ...(overlays.tree ? treeBoxes(world.kernel.broadPhase.trees) : []).flatMap(boxLines),
      ...boxes.flatMap(boxLines),
      ...(overlays.joints ? jointsOf(world, bodies) : []),
      ...(overlays.touches ? touchItems(bodies) : []),
      ...(overlays.ways ? bodies.flatMap((body) => wayOf(body, world.unit)) : []),
      ...(overlays.velocities ? velocityItems<Vec3>(bodies, ({ centre, velocity }) => along(centre, velocity)) : []),
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

/** The bounds of a collider to be drawn; nothing for one without end. */
function boundsOf<K extends Kinds>(collider: Collider3<K>): ShownBox[] {
  const { min, max } = collider.bounds!
  return Number.isFinite(min.x) ? [boundsBox([min.x, min.y, min.z, max.x, max.y, max.z])] : []
}

/** The twelve edges of a box. */
function boxLines({ box, colour }: ShownBox): SpaceLine[] {
  const corner = (i: number): Vec3 => ({
    x: box[(i & 1) === 0 ? 0 : 3],
    y: box[(i & 2) === 0 ? 1 : 4],
    z: box[(i & 4) === 0 ? 2 : 5],
  })
  const edges = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) =>
    [1, 2, 4].filter((bit) => (i & bit) === 0).map((bit) => [i, i | bit]),
  )
  return edges.map(([i, j]) => ({ kind: 'line', from: corner(i), to: corner(j), colour, width: 1, dashed: false }))
}

function along(at: Vec3, velocity: Vec3): Vec3 {
  return SPACE_VECTORS.plus(at, velocity, AHEAD)
}

function wayOf<K extends Kinds>(body: Body3<K>, unit: number): DrawItem3[] {
  if (body.type === 'static') return []
  const { at: from } = body.poseAt(0, { at: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } })
  return wayItems<Vec3>({ ...from }, body.at, SPACE_VECTORS.length(SPACE_VECTORS.from(from, body.at)), unit)
}

function loadsOf<K extends Kinds>(world: World3<K>): DrawItem3[] {
  return world.joints().map(({ anchors: { a }, force }) => {
    return { kind: 'label', points: [a], text: loadText(force), colour: LOAD }
  })
}

class Box {
  readonly min = { x: Infinity, y: Infinity, z: Infinity }
  readonly max = { x: -Infinity, y: -Infinity, z: -Infinity }

  isEmpty(): boolean {
    return this.min.x > this.max.x
  }

  grow({ x, y, z }: Vec3): void {
    const { min, max } = this
    min.x = Math.min(min.x, x)
    min.y = Math.min(min.y, y)
    min.z = Math.min(min.z, z)
    max.x = Math.max(max.x, x)
    max.y = Math.max(max.y, y)
    max.z = Math.max(max.z, z)
  }
}

/** Points round a shape: those of its surface as it is drawn, or, where they are very many, the corners of its bounds. */
function surfaceOf(shape: Shape3, frame: Frame): Vec3[] {
  const solids = solidsOf(shape)
  if (solids.reduce((sum, { corners }) => sum + corners.length / 3, 0) > MOST_POINTS) return cornersOf(shape, frame)
  return solids.flatMap(({ corners }) => {
    const all = placed(corners, frame)
    return Array.from({ length: all.length / 3 }, (_, i) => ({ x: all[3 * i], y: all[3 * i + 1], z: all[3 * i + 2] }))
  })
}

/** The corners of a shape's bounds, turned as it is. */
function cornersOf({ bounds: { min, max } }: Shape3, frame: Frame): Vec3[] {
  return Array.from({ length: 8 }, (_, i) =>
    placedPoint(
      {
        x: (i & 1) === 0 ? min.x : max.x,
        y: (i & 2) === 0 ? min.y : max.y,
        z: (i & 4) === 0 ? min.z : max.z,
      },
      frame,
    ),
  )
}

/** The part of a halfspace's surface that lies under what there is to see, as a net of squares. */
function patch({ normal, offset }: Halfspace, frame: Frame, { min, max }: Box): Solid {
  const CELLS = 12
  const outward = placed(Float64Array.of(normal.x, normal.y, normal.z), Float64Array.of(0, 0, 0, ...frame.subarray(3)))
  const foot = placedPoint({ x: normal.x * offset, y: normal.y * offset, z: normal.z * offset }, frame)
  const middle = { x: (min.x + max.x) / 2, y: (min.y + max.y) / 2, z: (min.z + max.z) / 2 }
  const above = (middle.x - foot.x) * outward[0] + (middle.y - foot.y) * outward[1] + (middle.z - foot.z) * outward[2]
  const centre = {
    x: middle.x - above * outward[0],
    y: middle.y - above * outward[1],
    z: middle.z - above * outward[2],
  }
  // Its own frame: z out of the surface.
  const axes = frameOf(centre, rotationTowards({ x: -outward[0], y: -outward[1], z: -outward[2] }))
  const reach = 0.6 * Math.max(max.x - min.x, max.y - min.y, max.z - min.z)
  const at = (i: number, k: number): number[] => [(2 * i * reach) / CELLS - reach, (2 * k * reach) / CELLS - reach, 0]
  const corners: number[] = []
  for (let i = 0; i < CELLS; i++) {
    for (let k = 0; k < CELLS; k++) {
      corners.push(...at(i, k), ...at(i + 1, k), ...at(i + 1, k + 1), ...at(i, k), ...at(i + 1, k + 1), ...at(i, k + 1))
    }
  }
  const count = corners.length / 9
  // The diagonals are no lines; every other edge is one, and its own neighbour, for the net has no rim.
  const lines = Uint8Array.from({ length: 3 * count }, (_, edge) => (edge % 6 === 2 || edge % 6 === 3 ? 0 : 1))
  const neighbours = Int32Array.from(lines, (line, edge) => Math.floor(edge / 3) ^ (line === 1 ? 0 : 1))
  return { corners: placed(Float64Array.from(corners), axes), neighbours, lines, closed: false }
}

function rayItems<K extends Kinds>(ray: ShownRay3<K>): DrawItem3[] {
  const end = ray.hit?.point ?? ray.to
  const start: DrawItem3 = { kind: 'mark', at: ray.from, sign: 'dot', colour: RAY, size: 5 }
  const line: DrawItem3 = { kind: 'line', from: ray.from, to: end, colour: RAY, width: 1.8, dashed: false }
  if (ray.hit === null) return [start, line]
  return [
    start,
    line,
    { kind: 'line', from: end, to: ray.to, colour: RAY, width: 1, dashed: true },
    { kind: 'arrow', at: ray.hit.point, direction: ray.hit.normal, colour: HIT, length: 26 },
    { kind: 'mark', at: ray.hit.point, sign: 'ring', colour: HIT, size: 9 },
  ]
}

/** Lengths of the arm of an arc of limits, at most, times the unit. */
const ARC = 0.9

const SPACE_VECTORS = {
  plus: (p: Vec3, v: Vec3, k: number): Vec3 => ({ x: p.x + k * v.x, y: p.y + k * v.y, z: p.z + k * v.z }),
  from: (p: Vec3, q: Vec3): Vec3 => ({ x: q.x - p.x, y: q.y - p.y, z: q.z - p.z }),
  length: ({ x, y, z }: Vec3): number => Math.hypot(x, y, z),
  across: ({ x, y, z }: Vec3): Vec3 => {
    const level = Math.hypot(x, z)
    // Level, so that it is seen from the side; along x where it stands upright.
    return level > 1e-9 * Math.abs(y) ? { x: -z / level, y: 0, z: x / level } : { x: 1, y: 0, z: 0 }
  },
}

function jointsOf<K extends Kinds>(world: World3<K>, bodies: readonly Body3<K>[]): DrawItem3[] {
  const shown = new Set(bodies)
  const living = world
    .joints()
    .filter(({ a, b }) => shown.has(a) || (b !== null && shown.has(b)))
    .flatMap((joint) => {
      const { a, b, anchors } = joint
      const movable = (b === null ? [a] : [a, b]).filter((body) => body.type !== 'static')
      const items = jointItems(
        jointLook(joint),
        SPACE_VECTORS,
        movable.map((body) => body.centre),
      )
      if (joint.type !== 'hinge' || joint.limits === null) return items
      // From how its second body (the first, in the world) stood at joining, across the axis.
      const { axis } = anchors
      const way = SPACE_VECTORS.from(anchors.a, (b ?? a).centre)
      const along = way.x * axis.x + way.y * axis.y + way.z * axis.z
      const radial = SPACE_VECTORS.plus(way, axis, -along)
      const length = SPACE_VECTORS.length(radial)
      if (length === 0) return items
      const one = SPACE_VECTORS.plus({ x: 0, y: 0, z: 0 }, radial, Math.min(length, ARC * world.unit) / length)
      const other = cross(axis, one)
      const turned = (angle: number): Vec3 => {
        const at = angle - joint.angle
        return SPACE_VECTORS.plus(SPACE_VECTORS.plus({ x: 0, y: 0, z: 0 }, one, Math.cos(at)), other, Math.sin(at))
      }
      return [...items, ...arcItems(anchors.a, joint.limits, turned, SPACE_VECTORS)]
    })
  const ends = world
    .events()
    .flatMap((event) => (event.joint !== null && event.cause === 'broken' ? brokenItems(event.joint.anchors) : []))
  return [...living, ...ends]
}

const cross = (a: Vec3, b: Vec3): Vec3 => ({
  x: a.y * b.z - a.z * b.y,
  y: a.z * b.x - a.x * b.z,
  z: a.x * b.y - a.y * b.x,
})

function touchItems<K extends Kinds>(bodies: readonly Body3<K>[]): DrawItem3[] {
  return touchesOf(bodies).flatMap(({ point, normal, length }): DrawItem3[] => [
    { kind: 'arrow', at: point, direction: normal, colour: TOUCH, length },
    { kind: 'mark', at: point, sign: 'cross', colour: TOUCH, size: 10 },
  ])
}
