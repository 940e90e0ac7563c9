/**
 * A tick of watched moving boxes, every pair exact, begins and ends told, against a box index that is thrown away and built anew; and of
 * moving boxes that nobody watches; and of what stands still: `npm run bench:pairs`. Prints Markdown.
 */
import Flatbush from 'flatbush'
import RBush from 'rbush'
import { box, createWorld, defineLayers } from '../src/2d/index.ts'
import * as three from '../src/3d/index.ts'
import { Random } from '../test/helpers/random.ts'
import { each, head, measure, row, times } from './measure.ts'

const layers = defineLayers(['craft', 'rock'], { pairs: [['craft', 'craft', 'sense']] })

/** Boxes of 0.8 to 2 metres, one on every 4/3 of a square metre (each meets six), that turn back at the edge; as bounds, and what moves these. */
function swarm(count: number) {
  const random = new Random(5)
  const side = Math.sqrt((4 * count) / 3)
  const boxes = new Float64Array(4 * count)
  const speed = new Float64Array(2 * count)
  for (let i = 0; i < count; i++) {
    const x = random.between(0, side)
    const y = random.between(0, side)
    boxes.set([x, y, x + random.between(0.8, 2), y + random.between(0.8, 2)], 4 * i)
    speed.set([random.between(-3, 3), random.between(-3, 3)], 2 * i)
  }
  const turns = (i: number, axis: number, low: number, high: number): boolean => {
    const at = 2 * i + axis
    return (low < 0 && speed[at] < 0) || (high > side && speed[at] > 0)
  }
  return { boxes, speed, turns, side }
}

/** A world of them; in 3D they are as deep as they are wide, and fly in a cube. */
function world2(count: number, watched: boolean) {
  const { boxes, speed, turns } = swarm(count)
  const world = createWorld({ layers })
  const bodies = Array.from({ length: count }, (_, i) => {
    const [x0, y0, x1, y1] = boxes.subarray(4 * i, 4 * i + 4)
    return world.add({
      type: 'kinematic',
      at: { x: (x0 + x1) / 2, y: (y0 + y1) / 2 },
      velocity: { x: speed[2 * i], y: speed[2 * i + 1] },
      colliders: [{ shape: box(x1 - x0, y1 - y0), layer: 'craft' }],
    })
  })
  let told = 0
  const count1 = (): void => {
    told++
  }
  if (watched) world.watch('craft', 'craft', { begin: count1, end: count1 })
  let tick = 0
  const run = (): number => {
    // Looked at now and then: reading every place in every tick would be a benchmark of that.
    if (tick++ % 16 === 0) {
      for (let i = 0; i < count; i++) {
        const body = bodies[i]
        const { x, y } = body.at
        const tx = turns(i, 0, x, x)
        const ty = turns(i, 1, y, y)
        if (!tx && !ty) continue
        if (tx) speed[2 * i] *= -1
        if (ty) speed[2 * i + 1] *= -1
        body.velocity = { x: speed[2 * i], y: speed[2 * i + 1] }
      }
    }
    world.step()
    return told
  }
  return { world, run }
}

function world3(count: number, watched: boolean) {
  const random = new Random(6)
  const side = Math.cbrt(4 * count)
  const flying = three.defineLayers(['craft', 'rock'], { pairs: [['craft', 'craft', 'sense']] })
  const world = three.createWorld({ layers: flying })
  const place = () => ({ x: random.between(0, side), y: random.between(0, side), z: random.between(0, side) })
  const way = () => ({ x: random.between(-3, 3), y: random.between(-3, 3), z: random.between(-3, 3) })
  const size = () => random.between(0.8, 2)
  const bodies = Array.from({ length: count }, () =>
    world.add({
      type: 'kinematic',
      at: place(),
      velocity: way(),
      colliders: [{ shape: three.box(size(), size(), size()), layer: 'craft' }],
    }),
  )
  let told = 0
  const count1 = (): void => {
    told++
  }
  if (watched) world.watch('craft', 'craft', { begin: count1, end: count1 })
  let tick = 0
  const run = (): number => {
    if (++tick % 120 === 0) {
      for (const body of bodies) {
        const { x, y, z } = body.velocity
        body.velocity = { x: -x, y: -y, z: -z }
      }
    }
    world.step()
    return told
  }
  return { world, run }
}

/** Bounds moved, a flatbush built of them, and every box searched for. */
function flatbush(count: number) {
  const { boxes, speed, turns } = swarm(count)
  return (): number => {
    let pairs = 0
    const index = new Flatbush(count)
    for (let i = 0; i < count; i++) {
      moveBox(boxes, speed, turns, i)
      index.add(boxes[4 * i], boxes[4 * i + 1], boxes[4 * i + 2], boxes[4 * i + 3])
    }
    index.finish()
    for (let i = 0; i < count; i++)
      pairs += index.search(boxes[4 * i], boxes[4 * i + 1], boxes[4 * i + 2], boxes[4 * i + 3]).length
    return pairs
  }
}

/** As many items of an rbush, taken out and put in again where they are now, and every box searched for. */
function rbush(count: number) {
  const { boxes, speed, turns } = swarm(count)
  const tree = new RBush<{ minX: number; minY: number; maxX: number; maxY: number }>()
  const items = Array.from({ length: count }, (_, i) => ({
    minX: boxes[4 * i],
    minY: boxes[4 * i + 1],
    maxX: boxes[4 * i + 2],
    maxY: boxes[4 * i + 3],
  }))
  tree.load(items)
  return (): number => {
    let pairs = 0
    for (let i = 0; i < count; i++) {
      moveBox(boxes, speed, turns, i)
      const item = items[i]
      tree.remove(item)
      item.minX = boxes[4 * i]
      item.minY = boxes[4 * i + 1]
      item.maxX = boxes[4 * i + 2]
      item.maxY = boxes[4 * i + 3]
      tree.insert(item)
    }
    for (const item of items) pairs += tree.search(item).length
    return pairs
  }
}

function moveBox(
  boxes: Float64Array,
  speed: Float64Array,
  turns: (i: number, axis: number, low: number, high: number) => boolean,
  i: number,
): void {
  for (let axis = 0; axis < 2; axis++) {
    const at = 4 * i + axis
    if (turns(i, axis, boxes[at], boxes[at + 2])) speed[2 * i + axis] *= -1
    boxes[at] += speed[2 * i + axis] / 60
    boxes[at + 2] += speed[2 * i + axis] / 60
  }
}

/** Statics that stand in rows, and one body that moves among them. */
function standing(count: number) {
  const world = createWorld({ layers })
  const side = Math.ceil(Math.sqrt(count))
  const shape = box(1, 1)
  const start = performance.now()
  for (let i = 0; i < count; i++)
    world.add({
      type: 'static',
      at: { x: 2 * (i % side), y: 2 * Math.floor(i / side) },
      colliders: [{ shape, layer: 'rock' }],
    })
  world.watch('craft', 'rock')
  world.step()
  return { world, seconds: (performance.now() - start) / 1000 }
}

const sizes = process.argv.includes('--short') ? [10_000] : [10_000, 100_000]
head('watched moving boxes', 'boxes', 'tick', 'flatbush anew / ours', 'rbush moved / ours', 'nobody watches / ours')
for (const count of sizes) {
  const watched = world2(count, true)
  const silent = world2(count, false)
  const measured = measure(
    [
      { name: 'ours', run: watched.run },
      { name: 'flatbush', run: flatbush(count) },
      { name: 'rbush', run: rbush(count) },
      { name: 'silent', run: silent.run },
    ],
    count > 10_000 ? 8 : 60,
  )
  const { seconds, ratio } = measured
  row('2D', count, each(seconds[0]), times(ratio(1, 0)), times(ratio(2, 0)), times(ratio(3, 0)))
}
{
  const watched = world3(10_000, true)
  const silent = world3(10_000, false)
  const { seconds, ratio } = measure(
    [
      { name: 'ours', run: watched.run },
      { name: 'silent', run: silent.run },
    ],
    40,
  )
  row('3D', 10_000, each(seconds[0]), '', '', times(ratio(1, 0)))
}

head('what stands still', 'statics', 'put in and built', 'a tick in which nothing moves')
function step(world: { step(): void }): number {
  world.step()
  return 0
}

const counts = process.argv.includes('--short') ? [2_000, 200_000] : [2_000, 200_000, 1_000_000]
for (const count of counts) {
  const { world, seconds } = standing(count)
  const measured = measure([{ name: 'tick', run: () => step(world) }], 50)
  row('2D', count, `${seconds.toFixed(2)} s`, each(measured.seconds[0]))
}
