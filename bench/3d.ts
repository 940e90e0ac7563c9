/**
 * The wing for space against general-purpose packages: `npm run bench:3d`, or with the words mesh, bodies, casts, moving, pairs, workers,
 * allocation for some of it. Prints Markdown; the last tables are kept in docs/benchmarks.md. Everything is a ratio within one run.
 */
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads'
import bunny from 'bunny'
import Flatbush from 'flatbush'
import { BufferAttribute, BufferGeometry, DoubleSide, Mesh, MeshBasicMaterial, Raycaster, Vector3 } from 'three'
import { Tree as Tree2 } from '../src/2d/tree/tree.ts'
import {
  box,
  capsule,
  castHit,
  createWorld,
  defineLayers,
  hull,
  type Mesh as KeenMesh,
  mesh,
  nearestHit,
  overlapHit,
  rayHit,
  rayResults,
  type Shape3,
  sharedMesh,
  shareMesh,
  sphere,
} from '../src/3d/index.ts'
import { gap, HERE } from '../src/3d/narrow/gap.ts'
import { GAP_SIZE } from '../src/3d/narrow/records.ts'
import { placed } from '../src/3d/shapes/place.ts'
import { simdRays } from '../src/3d/simd/index.ts'
import { Tree as Tree3 } from '../src/3d/tree/tree.ts'
import { POSE_SIZE, writePose } from '../src/3d/vector.ts'
import { IntList } from '../src/core/state/table.ts'
import { Random } from '../test/helpers/random.ts'
import { each, head, measure, row, times } from './measure.ts'

const layers = defineLayers(['rock', 'rare'])
const only = process.argv.slice(2)
const wanted = (name: string): boolean => only.length === 0 || only.includes(name)

interface Triangles {
  positions: number[]
  indices: number[]
}

/** The scanned mesh of the package, its faces split in four so many times. */
function scanned(splits: number): Triangles {
  const positions = bunny.positions.flat()
  let indices = bunny.cells.flat()
  for (let split = 0; split < splits; split++) {
    const middles = new Map<number, number>()
    const middle = (a: number, b: number): number => {
      const key = Math.min(a, b) * 1e6 + Math.max(a, b)
      const known = middles.get(key)
      if (known !== undefined) return known
      for (let i = 0; i < 3; i++) positions.push((positions[3 * a + i] + positions[3 * b + i]) / 2)
      middles.set(key, positions.length / 3 - 1)
      return positions.length / 3 - 1
    }
    const finer: number[] = []
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = indices.slice(i, i + 3)
      const [ab, bc, ca] = [middle(a, b), middle(b, c), middle(c, a)]
      finer.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca)
    }
    indices = finer
  }
  return { positions, indices }
}

/** Rays from a ball around a shape towards places near its middle: about nine of ten hit. */
function raysAround(shape: Shape3, count: number): Float64Array {
  const random = new Random(7)
  const { min, max } = shape.bounds
  const middle = [(min.x + max.x) / 2, (min.y + max.y) / 2, (min.z + max.z) / 2]
  const reach = 0.8 * Math.hypot(max.x - min.x, max.y - min.y, max.z - min.z)
  const rays = new Float64Array(6 * count)
  for (let i = 0; i < count; i++) {
    const v = [random.between(-1, 1), random.between(-1, 1), random.between(-1, 1)]
    const length = Math.hypot(v[0], v[1], v[2])
    for (let k = 0; k < 3; k++) {
      rays[6 * i + k] = middle[k] + (v[k] / length) * reach
      rays[6 * i + 3 + k] = middle[k] - (v[k] / length) * reach + random.between(-0.25, 0.25) * reach
    }
  }
  return rays
}

function worldOf(shape: Shape3) {
  const world = createWorld({ layers })
  world.add({ type: 'static', colliders: [{ shape, layer: 'rock' }] })
  return world
}

function meshBench(): void {
  head(
    'closest-hit rays on a mesh',
    'triangles',
    'build',
    'batch',
    "batch / three's ray caster",
    "first with out / three's ray caster",
  )
  for (const splits of [0, 2]) {
    const soup = scanned(splits)
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(new Float32Array(soup.positions), 3))
    geometry.setIndex(soup.indices)
    const object = new Mesh(geometry, new MeshBasicMaterial({ side: DoubleSide }))
    object.updateMatrixWorld()
    const caster = new Raycaster()
    const [from, along] = [new Vector3(), new Vector3()]
    for (const build of ['quality', 'fast'] as const) {
      const shape = mesh({ ...soup, build })
      const world = worldOf(shape)
      const count = 2000
      const rays = raysAround(shape, count)
      const out = rayResults(count)
      const hit = rayHit()
      const ray = { from: { x: 0, y: 0, z: 0 }, to: { x: 0, y: 0, z: 0 } }
      const few = splits === 0 ? 8 : 1
      let next = 0
      const measured = measure(
        [
          { name: 'batch', run: () => world.raycast.batch(rays, out) },
          {
            name: 'first',
            run() {
              let sum = 0
              for (let i = 0; i < count; i++) {
                const at = 6 * i
                ray.from.x = rays[at]
                ray.from.y = rays[at + 1]
                ray.from.z = rays[at + 2]
                ray.to.x = rays[at + 3]
                ray.to.y = rays[at + 4]
                ray.to.z = rays[at + 5]
                sum += world.raycast.first(ray, undefined, hit as never) === null ? 0 : 1
              }
              return sum
            },
          },
          {
            name: 'three',
            run() {
              let sum = 0
              for (let i = 0; i < few; i++, next = (next + 1) % count) {
                const at = 6 * next
                from.set(rays[at], rays[at + 1], rays[at + 2])
                along.set(rays[at + 3] - rays[at], rays[at + 4] - rays[at + 1], rays[at + 5] - rays[at + 2])
                caster.far = along.length()
                caster.set(from, along.normalize())
                sum += caster.intersectObject(object).length > 0 ? 1 : 0
              }
              return sum
            },
          },
        ],
        120,
      )
      const perRay = count / few
      row(
        'rays',
        shape.triangles,
        build,
        each(measured.seconds[0] / count),
        times(measured.ratio(2, 0) * perRay),
        times(measured.ratio(2, 1) * perRay),
      )
    }
  }
  head('building the tree of a mesh', 'triangles', 'flatbush of as many boxes / quality', 'flatbush / fast', 'fast')
  for (const splits of [0, 2]) {
    const soup = scanned(splits)
    const count = soup.indices.length / 3
    const made = (build: 'quality' | 'fast') => (): number => mesh({ ...soup, build }).triangles
    const measured = measure(
      [
        { name: 'quality', run: made('quality') },
        { name: 'fast', run: made('fast') },
        {
          name: 'flatbush',
          run() {
            const flat = new Flatbush(count)
            const p = soup.positions
            for (let i = 0; i < 3 * count; i += 3) {
              const [a, b, c] = [3 * soup.indices[i], 3 * soup.indices[i + 1], 3 * soup.indices[i + 2]]
              flat.add(
                Math.min(p[a], p[b], p[c]),
                Math.min(p[a + 1], p[b + 1], p[c + 1]),
                Math.max(p[a], p[b], p[c]),
                Math.max(p[a + 1], p[b + 1], p[c + 1]),
              )
            }
            flat.finish()
            return count
          },
        },
      ],
      splits === 0 ? 30 : 8,
    )
    row('whole mesh', count, times(measured.ratio(2, 0)), times(measured.ratio(2, 1)), each(measured.seconds[1]))
  }
}

/** Balls, boxes and capsules anywhere, as dense at every count. */
function worldOfMany(count: number) {
  const random = new Random(4)
  const side = (80 * count) ** (1 / 3)
  const place = (): number => random.between(-side / 2, side / 2)
  const world = createWorld({ layers })
  const shapes = [sphere(0.5), box(1, 1, 1), capsule({ x: -0.5, y: 0, z: 0 }, { x: 0.5, y: 0.2, z: 0.1 }, 0.4)]
  for (let i = 0; i < count; i++) {
    const at = { x: place(), y: place(), z: place() }
    world.add({ type: 'static', at, colliders: [{ shape: shapes[i % 3], layer: i % 50 === 0 ? 'rare' : 'rock' }] })
  }
  world.step()
  return { world, side }
}

function bodiesBench(): void {
  head('closest-hit rays among bodies that stand', 'bodies', 'batch', 'batch / by SIMD', 'the rare layer / by SIMD')
  for (const count of [1000, 10_000, 100_000]) {
    const { world, side } = worldOfMany(count)
    const { world: fast } = worldOfMany(count)
    if (!simdRays(fast)) throw new Error('this engine has no SIMD')
    const random = new Random(6)
    const rays = Float64Array.from({ length: 6 * 2000 }, () => random.between(-0.8 * side, 0.8 * side))
    const out = rayResults(2000)
    const rare = { layers: ['rare'] } as const
    const measured = measure(
      [
        { name: 'plain', run: () => world.raycast.batch(rays, out) },
        { name: 'simd', run: () => fast.raycast.batch(rays, out) },
        { name: 'plain, rare', run: () => world.raycast.batch(rays, out, rare) },
        { name: 'simd, rare', run: () => fast.raycast.batch(rays, out, rare) },
      ],
      40,
    )
    row('rays', count, each(measured.seconds[0] / 2000), times(measured.ratio(0, 1)), times(measured.ratio(2, 3)))
  }
}

function castsBench(): void {
  const shapes = {
    ball: sphere(0.5),
    capsule: capsule({ x: 0, y: -0.4, z: 0 }, { x: 0, y: 0.4, z: 0 }, 0.3),
    box: box(0.6, 0.6, 0.6),
  }
  head('shape casts against a mesh, from around it', 'triangles', ...Object.keys(shapes))
  for (const splits of [0, 2]) {
    const shape = mesh(scanned(splits))
    const world = worldOf(shape)
    const rays = raysAround(shape, 200)
    const hit = castHit()
    const at = (i: number) => ({ x: rays[i], y: rays[i + 1], z: rays[i + 2] })
    const measured = measure(
      Object.entries(shapes).map(([name, moving]) => ({
        name,
        run() {
          let hits = 0
          for (let i = 0; i < rays.length; i += 6) {
            const motion = { shape: moving, from: at(i), to: at(i + 3) }
            if (world.shapecast.first(motion, undefined, hit as never) !== null) hits++
          }
          return hits
        },
      })),
      20,
    )
    row('a cast', shape.triangles, ...measured.seconds.map((seconds) => each(seconds / 200)))
  }
}

/** Boxes that drift in a tree, with wide bounds, and all pairs that overlap each tick; written once for both trees. */
function drifting(count: number, axes: 2 | 3): () => number {
  const random = new Random(5)
  const side = (4 ** axes * count) ** (1 / axes)
  const width = 2 * axes
  const boxes = new Float64Array(width * count)
  const wide = new Float64Array(width * count)
  const speed = new Float64Array(axes * count)
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < axes; k++) {
      boxes[width * i + k] = random.between(0, side)
      boxes[width * i + axes + k] = boxes[width * i + k] + random.between(0.8, 2)
      speed[axes * i + k] = random.between(-3, 3) / 60
    }
  }
  const margin = 0.3
  const widen = (i: number): void => {
    for (let k = 0; k < axes; k++) {
      wide[width * i + k] = boxes[width * i + k] - margin
      wide[width * i + axes + k] = boxes[width * i + axes + k] + margin
    }
  }
  const tree = axes === 2 ? new Tree2() : new Tree3()
  const all = new IntList()
  for (let i = 0; i < count; i++) {
    widen(i)
    all.push(i)
  }
  tree.build(all, wide, () => 1)
  const [found, stack] = [new IntList(), new IntList()]
  return () => {
    let pairs = 0
    for (let i = 0; i < count; i++) {
      let left = false
      for (let k = 0; k < axes; k++) {
        const low = width * i + k
        const high = low + axes
        if ((boxes[low] < 0 && speed[axes * i + k] < 0) || (boxes[high] > side && speed[axes * i + k] > 0)) {
          speed[axes * i + k] *= -1
        }
        boxes[low] += speed[axes * i + k]
        boxes[high] += speed[axes * i + k]
        if (boxes[low] < wide[low] || boxes[high] > wide[high]) left = true
      }
      if (!left) continue
      widen(i)
      tree.move(i, wide, width * i)
    }
    for (let i = 0; i < count; i++) {
      found.clear()
      tree.search(boxes, width * i, -1, found, stack)
      pairs += found.length
    }
    return pairs
  }
}

function movingBench(): void {
  head('moving boxes, update and all overlapping pairs', 'boxes', 'tick in 3D', 'in 3D / in 2D')
  for (const count of [10_000, 100_000]) {
    const [flat, deep] = [drifting(count, 2), drifting(count, 3)]
    const measured = measure(
      [
        { name: 'plane', run: flat },
        { name: 'space', run: deep },
      ],
      count === 10_000 ? 60 : 12,
    )
    row('tick', count, each(measured.seconds[1]), times(measured.ratio(1, 0)))
  }
}

/** Blocks of a shape at random poses, and rounds of the gap of neighbours in that list. */
function gaps(make: (random: Random) => Shape3): () => number {
  const random = new Random(11)
  const pose = new Float64Array(POSE_SIZE)
  const blocks = Array.from({ length: 400 }, () => {
    const at = { x: random.between(-2, 2), y: random.between(-2, 2), z: random.between(-2, 2) }
    const part = (): number => random.between(-1, 1)
    writePose(at, { x: part(), y: part(), z: part(), w: part() }, 'a pose', pose)
    return placed(make(random).pieces[0].block, pose)
  })
  const out = new Float64Array(GAP_SIZE)
  return () => {
    let sum = 0
    for (let i = 1; i < blocks.length; i++) {
      gap(blocks[i - 1], 0, blocks[i], 0, HERE, out)
      sum += out[0]
    }
    return sum
  }
}

function pairsBench(): void {
  head(
    'signed distance of two shapes at random places, one pair in four to one in ten overlapping',
    'pairs a second',
    'time / that of boxes',
  )
  const onBall = (count: number) => (random: Random) =>
    hull(
      Array.from({ length: count }, () => {
        const v = [random.between(-1, 1), random.between(-1, 1), random.between(-1, 1)]
        const length = Math.hypot(v[0], v[1], v[2])
        return { x: v[0] / length, y: v[1] / length, z: v[2] / length }
      }),
    )
  const ways: [string, () => number][] = [
    ['box, box', gaps((random) => box(random.between(0.5, 2), random.between(0.5, 2), random.between(0.5, 2)))],
    ['hulls of 8 points', gaps(onBall(8))],
    ['hulls of 32 points', gaps(onBall(32))],
    ['hulls of 128 points', gaps(onBall(128))],
  ]
  const measured = measure(
    ways.map(([name, run]) => ({ name, run })),
    60,
  )
  ways.forEach(([name], i) => {
    row(name, Math.round(399 / measured.seconds[i]).toLocaleString('en'), times(measured.ratio(i, 0)))
  })
}

/** Rays a second of a worker's own, over `seconds`. */
function spin(shape: KeenMesh, seconds: number): number {
  const world = worldOf(shape)
  const rays = raysAround(shape, 2000)
  const out = rayResults(2000)
  for (let i = 0; i < 20; i++) world.raycast.batch(rays, out)
  const start = performance.now()
  let count = 0
  while (performance.now() - start < 1000 * seconds) {
    world.raycast.batch(rays, out)
    count += 2000
  }
  return count / ((performance.now() - start) / 1000)
}

interface Job {
  memory: SharedArrayBuffer | null
  seconds: number
}

/** Runs a job in so many workers at once; the sum of what they did a second. */
async function together(workers: number, job: Job): Promise<number> {
  // A worker must be taught TypeScript before it can load this file.
  const start =
    "const { file } = require('node:worker_threads').workerData;" +
    "import('tsx/esm/api').then(({ register }) => { register(); return import(file) })"
  const data = { ...job, file: import.meta.url }
  const runs = Array.from(
    { length: workers },
    () =>
      new Promise<number>((resolve, reject) => {
        const worker = new Worker(start, { workerData: data, eval: true, execArgv: [] })
        worker.once('message', resolve)
        worker.once('error', reject)
      }),
  )
  return (await Promise.all(runs)).reduce((sum, each) => sum + each, 0)
}

async function workersBench(): Promise<void> {
  head('workers over one shared mesh of 58,784 triangles', 'two workers / one', 'a plain loop in two / in one')
  const memory = shareMesh(mesh({ ...scanned(2), shared: true }))
  const plain = { memory: null, seconds: 1.5 }
  const job = { memory, seconds: 2.5 }
  const free = (await together(2, plain)) / (await together(1, plain))
  const ratio = (await together(2, job)) / (await together(1, job))
  const note = free < 1.7 ? ' (a second core is not free: no verdict)' : ''
  row('rays a second', times(ratio) + note, times(free))
}

/** What the second core gives to work that shares nothing. */
function loop(seconds: number): number {
  const start = performance.now()
  let [count, sum] = [0, 0]
  while (performance.now() - start < 1000 * seconds) {
    for (let i = 0; i < 10_000; i++) sum += Math.sqrt(i + sum)
    count++
  }
  return Number.isFinite(sum) ? count / seconds : 0
}

function allocationBench(): void {
  const collect = (globalThis as { gc?: () => void }).gc
  if (collect === undefined) throw new Error('run it with node --expose-gc, as `npm run bench:3d` does')
  head('bytes allocated a call', 'bytes')
  const shape = mesh(scanned(0))
  const world = worldOf(shape)
  const random = new Random(9)
  for (let i = 0; i < 500; i++) {
    const at = { x: random.between(-20, 20), y: random.between(-20, 20), z: random.between(-20, 20) }
    world.add({ type: 'kinematic', at, colliders: [{ shape: box(1, 1, 1), layer: 'rock' }] })
  }
  const rays = raysAround(shape, 1000)
  const out = rayResults(1000)
  const hit = rayHit()
  const ray = { from: { x: 20.1, y: 20.2, z: 20.3 }, to: { x: 0.1, y: 5.2, z: 0.3 } }
  const [met, over, near] = [castHit(), overlapHit(), nearestHit()]
  const motion = { shape: capsule({ x: 0, y: -1, z: 0 }, { x: 0, y: 1, z: 0 }, 0.5), ...ray }
  const turning = { ...motion, turn: { x: 0, y: 1, z: 2 } }
  const place = { shape: sphere(3), at: ray.to }
  const deep = { ...place, depth: true }
  const ways: [string, () => unknown][] = [
    ['`raycast.batch` of 1,000 rays', () => world.raycast.batch(rays, out)],
    ['`raycast.first` with an `out`', () => world.raycast.first(ray, undefined, hit as never)],
    ['`shapecast.first` with an `out`, straight', () => world.shapecast.first(motion, undefined, met as never)],
    ['`shapecast.first` with an `out`, turning', () => world.shapecast.first(turning, undefined, met as never)],
    ['`overlap.first` with an `out`, of five', () => world.overlap.first(place, undefined, over as never)],
    ['`overlap.first` with an `out` and the depth', () => world.overlap.first(deep, undefined, over as never)],
    ['`nearest.first` with an `out`', () => world.nearest.first(place, undefined, near as never)],
  ]
  for (const [name, call] of ways) {
    const calls = 2000
    for (let i = 0; i < calls; i++) call()
    let least = Number.POSITIVE_INFINITY
    for (let round = 0; round < 7; round++) {
      collect()
      const before = process.memoryUsage().heapUsed
      for (let i = 0; i < calls; i++) call()
      least = Math.min(least, process.memoryUsage().heapUsed - before)
    }
    row(name, (Math.max(0, least) / calls).toFixed(1))
  }
}

if (isMainThread) {
  if (wanted('mesh')) meshBench()
  if (wanted('bodies')) bodiesBench()
  if (wanted('casts')) castsBench()
  if (wanted('moving')) movingBench()
  if (wanted('pairs')) pairsBench()
  if (wanted('allocation')) allocationBench()
  if (wanted('workers')) await workersBench()
} else {
  const { memory, seconds } = workerData as Job
  parentPort!.postMessage(memory === null ? loop(seconds) : spin(sharedMesh(memory), seconds))
}
