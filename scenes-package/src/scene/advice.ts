/** Mistakes that can be seen in the numbers of a scene file alone: degrees, pixels, a watch that tells too much, a way that is not followed. */
import type { Problem } from './problems.ts'
import type { Scene, SceneBody, SceneCollider } from './schema.ts'

type Path = readonly PropertyKey[]
/** Takes down what was found. */
export type Tell = (level: Problem['level'], code: string, path: Path, message: string, cure: string) => void

const TURN = 2 * Math.PI
/** Bodies from which on a watch on all of them costs. */
const MANY = 100
/** Metres above which everything is large. */
const LARGE = 20
/** Boxes of one size, side by side, from which on tiles would serve. */
const ROW = 16

/** All of them. */
export function advise(scene: Scene, tell: Tell): void {
  angles(scene, tell)
  sizes(scene, tell)
  durings(scene, tell)
  ways(scene, tell)
  if (scene.dimension === '2d') rows(scene, tell)
}

/** Angles beyond a turn: degrees, most likely. In paths they are turns. */
function angles(scene: Scene, tell: Tell): void {
  const angle = (value: unknown, path: Path): void => {
    const radians = typeof value === 'number' ? value : (value as { angle?: number } | undefined)?.angle
    if (radians === undefined || Math.abs(radians) <= TURN) return
    const meant = Number(((radians * Math.PI) / 180).toFixed(4))
    const found = `${radians} radians are ${(radians / TURN).toFixed(1)} turns: angles are in radians`
    tell('hint', 'degrees', path, found, `if degrees were meant, write ${meant}`)
  }
  const turned = (owner: object, path: Path): void => {
    const { angle: flat, rotation } = owner as { angle?: unknown; rotation?: unknown }
    angle(flat, [...path, 'angle'])
    if (!Array.isArray(rotation)) angle(rotation, [...path, 'rotation', 'angle'])
  }
  for (const [index, body] of scene.bodies.entries()) {
    turned(body, ['bodies', index])
    for (const [at, collider] of (body.colliders ?? []).entries()) turned(collider, ['bodies', index, 'colliders', at])
  }
  for (const [index, action] of (scene.actions ?? []).entries()) {
    if (action.do === 'teleport' || action.do === 'carve') turned(action, ['actions', index])
  }
}

/** Full sizes of a shape, those that are there to see; none for what has no end. */
function extents(shape: SceneCollider['shape']): number[] {
  switch (shape.kind) {
    case 'circle':
    case 'sphere':
    case 'capsule':
    case 'cylinder':
    case 'cone':
      return [2 * shape.radius]
    case 'box':
      return 'width' in shape ? [shape.width, shape.height] : [shape.x, shape.y, shape.z]
    case 'polygon':
    case 'hull': {
      const points: readonly (readonly number[])[] = shape.points
      return points[0].map((_, axis) => {
        const [low, high] = points.reduce(
          ([a, b], { [axis]: at }) => [Math.min(a, at), Math.max(b, at)],
          [Infinity, -Infinity],
        )
        return high - low
      })
    }
    default:
      return []
  }
}

/** Everything is large: lengths in pixels, most likely. */
function sizes(scene: Scene, tell: Tell): void {
  if (scene.unit !== undefined) return
  const all = scene.bodies.flatMap(({ colliders = [] }) => colliders.map(({ shape }) => Math.min(...extents(shape))))
  const known = all.filter(Number.isFinite)
  if (known.length < 2 || known.length < all.length / 2) return
  const least = known.reduce((a, b) => Math.min(a, b))
  if (least < LARGE) return
  tell(
    'hint',
    'no-unit',
    [],
    `the smallest shape is ${Number(least.toPrecision(3))} m across: gravity, tolerances and sleep are made for metres`,
    `if these are pixels, say how many make a metre: "unit": 50`,
  )
}

/** A watch that tells of every pair in every tick. */
function durings(scene: Scene, tell: Tell): void {
  if (scene.bodies.length < MANY) return
  for (const [index, watch] of (scene.watches ?? []).entries()) {
    if (watch.a !== '*' || watch.b !== '*' || !watch.kinds?.includes('during')) continue
    const found = `tells in every tick of every pair that meets, of ${scene.bodies.length} bodies`
    tell('hint', 'all-during', ['watches', index, 'kinds'], found, "name the sides, or leave 'during' out")
  }
}

/** Fast dynamic bodies whose way is not followed. */
function ways(scene: Scene, tell: Tell): void {
  for (const [index, body] of scene.bodies.entries()) {
    if (body.type !== 'dynamic' || body.sweep !== 'off' || body.velocity === undefined) continue
    const size = smallest(body)
    const way = Math.hypot(...body.velocity) / (scene.rate ?? 60)
    if (way <= size) continue
    const found = `goes ${Number(way.toPrecision(3))} m a tick and is ${Number(size.toPrecision(3))} m across: it can go through what is thin`
    tell('hint', 'no-sweep', ['bodies', index, 'sweep'], found, `leave 'sweep' out, or write "statics"`)
  }
}

function smallest({ colliders = [] }: SceneBody): number {
  const sizes = (colliders as readonly SceneCollider[]).flatMap(({ shape }) => extents(shape))
  return sizes.length === 0 ? Infinity : Math.min(...sizes)
}

/** Static boxes of one size side by side: a level that was built box by box. */
function rows(scene: Scene, tell: Tell): void {
  const groups = new Map<
    string,
    { index: number; places: Set<string>; width: number; height: number; all: [number, number][] }
  >()
  for (const [index, body] of scene.bodies.entries()) {
    if (body.type !== 'static' || body.colliders?.length !== 1) continue
    const [{ shape, layer, at = [0, 0] }] = body.colliders
    if (shape.kind !== 'box' || !('width' in shape) || (body as { angle?: number }).angle) continue
    const { width, height } = shape
    const place: [number, number] = [(body.at?.[0] ?? 0) + at[0], (body.at?.[1] ?? 0) + at[1]]
    const key = JSON.stringify([width, height, layer])
    const group = groups.get(key) ?? { index, places: new Set<string>(), width, height, all: [] }
    groups.set(key, group)
    group.all.push(place)
    group.places.add(placeKey(place[0], place[1]))
  }
  for (const { index, places, width, height, all } of groups.values()) {
    const beside = all.filter(([x, y]) =>
      [
        [width, 0],
        [-width, 0],
        [0, height],
        [0, -height],
      ].some(([dx, dy]) => places.has(placeKey(x + dx, y + dy))),
    )
    if (beside.length < ROW) continue
    const found = `begins a level of ${beside.length} boxes of one size, side by side: as many bodies`
    tell(
      'hint',
      'box-by-box',
      ['bodies', index],
      found,
      "one collider of 'tiles' does the same, without a seam, and can be carved",
    )
  }
}

const placeKey = (x: number, y: number): string => `${Math.round(x * 1000)},${Math.round(y * 1000)}`
