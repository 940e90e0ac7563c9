/**
 * The query layer against brute force and against general-purpose boxes: `npm run bench`. Prints Markdown; the last
 * table is kept in docs/benchmarks.md. Everything is a ratio within one run.
 */
import Flatbush from 'flatbush'
import RBush from 'rbush'
import { box, circle, createWorld, defineLayers, rayHit, rayResults } from '../src/2d/index.ts'
import { Tree } from '../src/2d/tree/tree.ts'
import { IntList } from '../src/core/state/table.ts'
import { depthOf } from '../src/core/tree/boxes.ts'
import { Random } from '../test/helpers/random.ts'
import { each, head, measure, row, times } from './measure.ts'

const layers = defineLayers(['rock', 'rare', 'craft'])
const only = process.argv.slice(2)
const wanted = (name: string): boolean => only.length === 0 || only.includes(name)

/** Circles and boxes, one on every 16 square metres, covering about a tenth of the ground. */
function field(count: number) {
  const random = new Random(count)
  const side = Math.sqrt(16 * count)
  const world = createWorld({ layers })
  const shapes = new Float64Array(5 * count)
  for (let i = 0; i < count; i++) {
    const x = random.between(0, side)
    const y = random.between(0, side)
    const round = i % 2 === 0
    const [w, h] = round ? [random.between(0.4, 1), 0] : [random.between(0.8, 2), random.between(0.8, 2)]
    shapes.set([round ? 1 : 0, x, y, w, h], 5 * i)
    const shape = round ? circle(w) : box(w, h)
    world.add({ type: 'static', at: { x, y }, colliders: [{ shape, layer: random.chance(0.01) ? 'rare' : 'rock' }] })
  }
  const rays = new Float64Array(4 * 1000)
  for (let i = 0; i < rays.length; i++) rays[i] = random.between(0, side)
  return { world, shapes, rays, side, random }
}

/** The nearest hit by asking every shape: a plain loop over flat numbers. */
function bruteRay(shapes: Float64Array, ox: number, oy: number, dx: number, dy: number): number {
  let best = 2
  const square = dx * dx + dy * dy
  const ix = 1 / dx
  const iy = 1 / dy
  for (let i = 0; i < shapes.length; i += 5) {
    if (shapes[i] === 1) {
      const fx = ox - shapes[i + 1]
      const fy = oy - shapes[i + 2]
      const r = shapes[i + 3]
      const b = fx * dx + fy * dy
      const c = fx * fx + fy * fy - r * r
      if (c < 0) return 0
      const disc = b * b - square * c
      if (b >= 0 || disc < 0) continue
      const t = (-b - Math.sqrt(disc)) / square
      if (t < best) best = t
    } else {
      const hw = shapes[i + 3] / 2
      const hh = shapes[i + 4] / 2
      const t1 = (shapes[i + 1] - hw - ox) * ix
      const t2 = (shapes[i + 1] + hw - ox) * ix
      const t3 = (shapes[i + 2] - hh - oy) * iy
      const t4 = (shapes[i + 2] + hh - oy) * iy
      const enter = Math.max(Math.min(t1, t2), Math.min(t3, t4), 0)
      const leave = Math.min(Math.max(t1, t2), Math.max(t3, t4))
      if (enter <= leave && enter < best) best = enter
    }
  }
  return best
}

/** Rays take so little that a round of 1,000 would be over before the clock can tell. */
const REPEATS = 4

function repeated(run: () => number): number {
  let sum = 0
  for (let i = 0; i < REPEATS; i++) sum += run()
  return sum
}

function rayBench(): void {
  head('rays, closest hit', 'shapes', 'batch', 'batch / brute', 'first with out', 'first / brute', 'first, new object')
  for (const count of [1000, 10_000, 100_000]) {
    const { world, shapes, rays } = field(count)
    const n = rays.length / 4
    const few = Math.max(2, Math.floor(2e5 / count))
    let next = 0
    const out = rayResults(n)
    const hit = rayHit()
    const ray = { from: { x: 0, y: 0 }, to: { x: 0, y: 0 } }
    const one = (i: number, into: unknown): number => {
      ray.from.x = rays[4 * i]
      ray.from.y = rays[4 * i + 1]
      ray.to.x = rays[4 * i + 2]
      ray.to.y = rays[4 * i + 3]
      return world.raycast.first(ray, undefined, into as never)?.fraction ?? 0
    }
    const measured = measure([
      {
        name: 'brute',
        run() {
          let sum = 0
          for (let i = 0; i < few; i++) {
            const k = 4 * next
            next = (next + 1) % n
            sum += bruteRay(shapes, rays[k], rays[k + 1], rays[k + 2] - rays[k], rays[k + 3] - rays[k + 1])
          }
          return sum
        },
      },
      { name: 'batch', run: () => repeated(() => world.raycast.batch(rays, out)) },
      {
        name: 'first',
        run: () =>
          repeated(() => {
            let sum = 0
            for (let i = 0; i < n; i++) sum += one(i, hit)
            return sum
          }),
      },
      {
        name: 'fresh',
        run: () =>
          repeated(() => {
            let sum = 0
            for (let i = 0; i < n; i++) sum += one(i, undefined)
            return sum
          }),
      },
    ])
    row(
      '',
      count,
      each(measured.seconds[1] / (REPEATS * n)),
      times((measured.ratio(0, 1) * REPEATS * n) / few),
      each(measured.seconds[2] / (REPEATS * n)),
      times((measured.ratio(0, 2) * REPEATS * n) / few),
      times((measured.ratio(0, 3) * REPEATS * n) / few),
    )
  }
}

function boxBench(): void {
  head(
    'box query, about 10 results',
    'shapes',
    'tree.search / flatbush.search',
    'overlap.each, exact / flatbush.search',
  )
  for (const count of [10_000, 100_000]) {
    const { world, shapes, side, random } = field(count)
    const tree = new Tree()
    const list = new IntList()
    const boxes = new Float64Array(4 * count)
    const flat = new Flatbush(count)
    for (let i = 0; i < count; i++) {
      const [round, x, y, w, h] = shapes.subarray(5 * i, 5 * i + 5)
      const hw = round === 1 ? w : w / 2
      const hh = round === 1 ? w : h / 2
      boxes.set([x - hw, y - hh, x + hw, y + hh], 4 * i)
      flat.add(x - hw, y - hh, x + hw, y + hh)
      list.push(i)
    }
    flat.finish()
    tree.build(list, boxes, () => 1)
    const n = 1000
    const asked = new Float64Array(4 * n)
    const size = 11.2
    for (let i = 0; i < n; i++) {
      const x = random.between(0, side - size)
      const y = random.between(0, side - size)
      asked.set([x, y, x + size, y + size], 4 * i)
    }
    const found = new IntList()
    const stack = new IntList()
    const shape = box(size, size)
    const at = { x: 0, y: 0 }
    const place = { shape, at }
    let counter = 0
    const visit = (): void => {
      counter++
    }
    const measured = measure([
      {
        name: 'flatbush',
        run() {
          let sum = 0
          for (let i = 0; i < n; i++)
            sum += flat.search(asked[4 * i], asked[4 * i + 1], asked[4 * i + 2], asked[4 * i + 3]).length
          return sum
        },
      },
      {
        name: 'search',
        run() {
          let sum = 0
          for (let i = 0; i < n; i++) {
            found.clear()
            tree.search(asked, 4 * i, -1, found, stack)
            sum += found.length
          }
          return sum
        },
      },
      {
        name: 'overlap',
        run() {
          counter = 0
          for (let i = 0; i < n; i++) {
            at.x = asked[4 * i] + size / 2
            at.y = asked[4 * i + 1] + size / 2
            world.overlap.each(place, visit)
          }
          return counter
        },
      },
    ])
    row(`${(counter / n).toFixed(1)} results`, count, times(measured.ratio(0, 1)), times(measured.ratio(0, 2)))
  }
}

function movingBench(): void {
  head(
    'moving boxes, update and all overlapping pairs',
    'boxes',
    'tick',
    'flatbush rebuild and search / ours',
    'rbush remove, insert, search / ours',
    'pairs',
  )
  for (const [count, ticks, rounds] of [
    [10_000, 5, 30],
    [100_000, 1, 10],
  ] as const) {
    const random = new Random(5)
    const side = Math.sqrt(16 * count)
    const boxes = new Float64Array(4 * count)
    const speed = new Float64Array(2 * count)
    for (let i = 0; i < count; i++) {
      const x = random.between(0, side)
      const y = random.between(0, side)
      boxes.set([x, y, x + random.between(0.8, 2), y + random.between(0.8, 2)], 4 * i)
      speed.set([random.between(-3, 3) / 60, random.between(-3, 3) / 60], 2 * i)
    }
    // Each way moves boxes of its own, from the same start, so that none sees what the others did in between.
    const mover = (data: Float64Array, speed: Float64Array) => (): void => {
      for (let i = 0; i < count; i++) {
        for (let axis = 0; axis < 2; axis++) {
          const at = 4 * i + axis
          if ((data[at] < 0 && speed[2 * i + axis] < 0) || (data[at + 2] > side && speed[2 * i + axis] > 0))
            speed[2 * i + axis] *= -1
          data[at] += speed[2 * i + axis]
          data[at + 2] += speed[2 * i + axis]
        }
      }
    }
    const [mine, flats, singles] = [boxes.slice(), boxes.slice(), boxes.slice()]
    const [moveMine, moveFlats, moveSingles] = [mine, flats, singles].map((data) => mover(data, speed.slice()))
    const moving = new MovingBoxes(mine, count)
    const trees = new RBush<{ minX: number; minY: number; maxX: number; maxY: number; id: number }>()
    const items = Array.from({ length: count }, (_, id) => ({
      minX: boxes[4 * id],
      minY: boxes[4 * id + 1],
      maxX: boxes[4 * id + 2],
      maxY: boxes[4 * id + 3],
      id,
    }))
    trees.load(items)
    let pairs = 0
    const measured = measure(
      [
        {
          name: 'ours',
          run() {
            for (let tick = 0; tick < ticks; tick++) {
              moveMine()
              pairs = moving.tick()
            }
            return pairs
          },
        },
        {
          name: 'flatbush',
          run() {
            let sum = 0
            for (let tick = 0; tick < ticks; tick++) {
              moveFlats()
              const flat = new Flatbush(count)
              for (let i = 0; i < count; i++)
                flat.add(flats[4 * i], flats[4 * i + 1], flats[4 * i + 2], flats[4 * i + 3])
              flat.finish()
              for (let i = 0; i < count; i++) {
                sum += flat.search(
                  flats[4 * i],
                  flats[4 * i + 1],
                  flats[4 * i + 2],
                  flats[4 * i + 3],
                  (other) => other > i,
                ).length
              }
            }
            return sum
          },
        },
        {
          name: 'rbush',
          run() {
            let sum = 0
            moveSingles()
            for (let i = 0; i < count; i++) {
              trees.remove(items[i])
              items[i].minX = singles[4 * i]
              items[i].minY = singles[4 * i + 1]
              items[i].maxX = singles[4 * i + 2]
              items[i].maxY = singles[4 * i + 3]
              trees.insert(items[i])
            }
            for (let i = 0; i < count; i++) for (const other of trees.search(items[i])) if (other.id > i) sum++
            return sum
          },
        },
      ],
      rounds,
    )
    const ours = measured.seconds[0]
    row('', count, each(ours / ticks), times(measured.ratio(1, 0)), times(measured.ratio(2, 0) * ticks), pairs)
    if (count > 10_000) continue
    const before = ours / ticks
    const more = only.includes('quick') ? 1500 : 10_000
    for (let tick = 0; tick < more; tick++) {
      moveMine()
      moving.tick()
    }
    const later = measure(
      [
        {
          name: 'later',
          run() {
            for (let tick = 0; tick < ticks; tick++) {
              moveMine()
              moving.tick()
            }
            return 1
          },
        },
      ],
      rounds,
    )
    const depth = depthOf(moving.tree)
    row(
      `after ${more} ticks more: ${times(later.seconds[0] / ticks / before)} of the time, depth ${depth}`,
      count,
      each(later.seconds[0] / ticks),
      '',
      '',
      '',
    )
  }
}

/** What the world does for its movers, on boxes alone: fat bounds in a tree, and pairs that persist. */
class MovingBoxes {
  readonly tree = new Tree()
  private readonly boxes: Float64Array
  private readonly fat: Float64Array
  private readonly count: number
  private readonly all = new IntList()
  private readonly left = new IntList()
  private readonly found = new IntList()
  private readonly stack = new IntList()
  private pairs = new IntList()
  private kept = new IntList()
  private readonly moved: Uint8Array

  constructor(boxes: Float64Array, count: number) {
    this.boxes = boxes
    this.count = count
    this.fat = new Float64Array(4 * count)
    this.moved = new Uint8Array(count)
    for (let i = 0; i < count; i++) {
      this.fatten(i)
      this.all.push(i)
      this.left.push(i)
    }
    this.tree.build(this.all, this.fat, () => 1)
    this.moved.fill(1)
  }

  private fatten(i: number): void {
    const { boxes, fat } = this
    const at = 4 * i
    const margin = 0.1 * (boxes[at + 2] - boxes[at] + boxes[at + 3] - boxes[at + 1])
    fat[at] = boxes[at] - margin
    fat[at + 1] = boxes[at + 1] - margin
    fat[at + 2] = boxes[at + 2] + margin
    fat[at + 3] = boxes[at + 3] + margin
  }

  tick(): number {
    const { boxes, fat, left, moved, tree, found, stack } = this
    for (let i = 0; i < this.count; i++) {
      const at = 4 * i
      if (
        boxes[at] >= fat[at] &&
        boxes[at + 1] >= fat[at + 1] &&
        boxes[at + 2] <= fat[at + 2] &&
        boxes[at + 3] <= fat[at + 3]
      )
        continue
      this.fatten(i)
      tree.move(i, fat, at)
      moved[i] = 1
      left.push(i)
    }
    if (tree.worn) tree.build(this.all, fat, () => 1)
    // Pairs of those that left are found anew; the others are kept.
    const { pairs, kept } = this
    kept.clear()
    let meeting = 0
    for (let k = 0; k < pairs.length; k += 2) {
      const a = pairs.data[k]
      const b = pairs.data[k + 1]
      if (moved[a] !== 0 || moved[b] !== 0) continue
      kept.push(a)
      kept.push(b)
      if (this.meet(a, b)) meeting++
    }
    for (let k = 0; k < left.length; k++) {
      const a = left.data[k]
      found.clear()
      tree.search(fat, 4 * a, -1, found, stack)
      for (let m = 0; m < found.length; m++) {
        const b = found.data[m]
        if (b === a || (moved[b] !== 0 && b < a)) continue
        kept.push(a)
        kept.push(b)
        if (this.meet(a, b)) meeting++
      }
    }
    for (let k = 0; k < left.length; k++) moved[left.data[k]] = 0
    left.clear()
    this.pairs = kept
    this.kept = pairs
    return meeting
  }

  private meet(a: number, b: number): boolean {
    const { boxes } = this
    const p = 4 * a
    const q = 4 * b
    return (
      boxes[p] <= boxes[q + 2] &&
      boxes[q] <= boxes[p + 2] &&
      boxes[p + 1] <= boxes[q + 3] &&
      boxes[q + 1] <= boxes[p + 3]
    )
  }
}

function maskBench(): void {
  head('a mask that matches 1 %', 'shapes', 'where callback / layers')
  const { world, rays } = field(10_000)
  const n = 300
  const ray = (i: number) => ({
    from: { x: rays[4 * i], y: rays[4 * i + 1] },
    to: { x: rays[4 * i + 2], y: rays[4 * i + 3] },
  })
  const asked = Array.from({ length: n }, (_, i) => ray(i))
  const measured = measure([
    {
      name: 'mask',
      run: () => asked.reduce((sum, each) => sum + (world.raycast.first(each, { layers: 'rare' })?.fraction ?? 0), 0),
    },
    {
      name: 'where',
      run: () =>
        asked.reduce(
          (sum, each) =>
            sum + (world.raycast.first(each, { where: (collider) => collider.layer === 'rare' })?.fraction ?? 0),
          0,
        ),
    },
  ])
  row('rays, closest hit', 10_000, times(measured.ratio(1, 0)))
}

if (wanted('rays')) rayBench()
if (wanted('boxes')) boxBench()
if (wanted('mask')) maskBench()
if (wanted('moving')) movingBench()
