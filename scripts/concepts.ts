/**
 * Draws the figures of the guide, one for each concept, from small worlds that are stepped for it: `npm run figures`.
 * What a figure says with a number is what the world said.
 */
import { writeFileSync } from 'node:fs'
import {
  type Body2,
  box,
  capsule,
  circle,
  createWorld,
  defineLayers,
  polygon,
  tiles,
  type Vec2,
  type World2,
} from 'keen-sentry/2d'
import {
  type DrawItem,
  type DrawList,
  drawWorld2,
  type Overlays,
  questionItems2,
  type ShownTrail,
  toSvg,
} from 'keen-sentry/draw'

const WIDTH = 680
const INK = '#b9cede'
const LAYERS = ['rock', 'craft', 'crate', 'zone', 'ghost'] as const
const layers = defineLayers([...LAYERS], {
  pairs: [
    ['zone', '*', 'sense'],
    ['ghost', '*', 'pass'],
  ],
})
const newWorld = (gravity = 0, history = 0) => createWorld({ layers, gravity: { x: 0, y: gravity }, history })

/** The parts of a capsule craft with its cabin. */
const craftColliders = [
  { shape: capsule({ x: -0.7, y: 0 }, { x: 0.7, y: 0 }, 0.45), layer: 'craft' as const },
  { shape: box(0.7, 0.5), at: { x: 0, y: 0.6 }, layer: 'craft' as const },
]

/** Words at a place. */
const words = (text: string, at: Vec2): DrawItem => ({
  kind: 'label',
  min: at,
  max: at,
  inner: null,
  text,
  colour: INK,
})
const line = (from: Vec2, to: Vec2, dashed = false): DrawItem => ({
  kind: 'line',
  from,
  to,
  colour: INK,
  width: 1.6,
  dashed,
})
const dot = (at: Vec2): DrawItem => ({ kind: 'mark', at, sign: 'dot', colour: INK, size: 8 })
const arrow = (at: Vec2, direction: Vec2, length = 30): DrawItem => ({
  kind: 'arrow',
  at,
  direction,
  colour: INK,
  length,
})

function figure(name: string, height: number, list: DrawList, more: readonly DrawItem[] = []): void {
  const items = [...list.items, ...more]
  writeFileSync(
    `docs/figures/${name}.svg`,
    toSvg({ ...list, items, caption: '', legend: [], grid: false }, { width: WIDTH, height }),
  )
}

interface Shown {
  readonly show?: Overlays
  readonly labels?: boolean
  readonly where?: (body: Body2) => boolean
  readonly trails?: readonly ShownTrail<Vec2>[]
}
const drawn = (world: World2, title: string, min: Vec2, max: Vec2, more: Shown = {}): DrawList =>
  drawWorld2(world, { title, view: { min, max }, ...more })

function responses(): void {
  const world = newWorld(-9.8)
  world.add({ type: 'static', name: 'rock', at: { x: 2, y: 0 }, colliders: [{ shape: box(3, 1), layer: 'rock' }] })
  world.add({ type: 'dynamic', name: 'crate', at: { x: 2, y: 1 }, colliders: [{ shape: box(1, 1), layer: 'crate' }] })
  world.add({ type: 'static', name: 'zone', at: { x: 7, y: 0.7 }, colliders: [{ shape: box(3, 2.2), layer: 'zone' }] })
  world.add({ type: 'kinematic', name: 'craft', at: { x: 7.2, y: 0.6 }, colliders: craftColliders })
  world.add({
    type: 'static',
    name: 'pillar',
    at: { x: 12, y: 0.7 },
    colliders: [{ shape: box(1, 2.4), layer: 'rock' }],
  })
  world.add({
    type: 'kinematic',
    name: 'ghost',
    at: { x: 12.4, y: 0.8 },
    colliders: [{ shape: circle(0.8), layer: 'ghost' }],
  })
  world.watch('craft', 'zone')
  for (let i = 0; i < 5; i++) world.step()
  figure('responses', 260, drawn(world, 'Three responses', { x: -1.4, y: -1.9 }, { x: 15.4, y: 2.6 }), [
    words('solid: they press; reported', { x: 2, y: -1.2 }),
    words('sense: reported', { x: 7, y: -1.2 }),
    words('pass: nothing', { x: 12, y: -1.2 }),
  ])
}

function bodies(): void {
  const world = newWorld()
  const add = (name: string, x: number, angle: number) =>
    world.add({
      type: 'kinematic',
      name,
      at: { x, y: 0 },
      angle,
      colliders: [...craftColliders, { shape: circle(0.3), at: { x: -1.3, y: 0 }, layer: 'craft' }],
    })
  const one = add('one body', 0, 0)
  const two = add('its pose moves all three', 5, 0.6)
  world.step()
  const origins = [one, two].flatMap((body: Body2): DrawItem[] => [
    dot(body.at),
    arrow(body.at, { x: Math.cos(body.angle), y: Math.sin(body.angle) }, 40),
  ])
  figure(
    'bodies',
    260,
    drawn(
      world,
      'A body: a pose, and colliders that move with it',
      { x: -2.4, y: -1.7 },
      { x: 7.4, y: 1.9 },
      { show: { bounds: true } },
    ),
    origins,
  )
}

function watches(): void {
  const world = newWorld()
  const zone = world.add({
    type: 'static',
    name: 'zone',
    at: { x: 6, y: 0 },
    colliders: [{ shape: box(5, 3), layer: 'zone' }],
  })
  const craft = world.add({
    type: 'kinematic',
    name: 'craft',
    at: { x: 0, y: -0.2 },
    velocity: { x: 6, y: 0 },
    colliders: craftColliders,
  })
  const moments: { x: number; said: string }[] = []
  world.watch(craft, zone, {
    begin: (event) => moments.push({ x: craft.at.x, said: `begin at ${event.time.toFixed(2)} s` }),
    end: (event) => moments.push({ x: craft.at.x, said: `end, after ${event.dwell.toFixed(2)} s` }),
  })
  while (craft.at.x < 12) world.step()
  const shadows = newWorld()
  for (const { x } of moments) shadows.add({ type: 'kinematic', at: { x, y: -0.2 }, colliders: craftColliders })
  const list = drawn(
    world,
    'A watch: begin with the first shape, end with the last',
    { x: -1.6, y: -2.6 },
    { x: 13.6, y: 1.9 },
    { where: (body) => body === zone },
  )
  const more = drawn(shadows, '', { x: 0, y: 0 }, { x: 1, y: 1 }).items
  figure('watches', 290, list, [
    ...more,
    ...moments.map(({ x, said }) => words(said, { x, y: -1.9 })),
    words('during, in every tick', { x: 6, y: -1.9 }),
  ])
}

function crossed(): void {
  const world = newWorld()
  const zone = world.add({
    type: 'static',
    name: 'a thin zone',
    at: { x: 5, y: 0 },
    colliders: [{ shape: box(0.6, 2.6), layer: 'zone' }],
  })
  world.add({
    type: 'static',
    name: 'a thin wall',
    at: { x: 8.4, y: 0 },
    colliders: [{ shape: box(0.15, 2.6), layer: 'rock' }],
  })
  const shot = world.add({
    type: 'kinematic',
    name: 'shot',
    at: { x: 0, y: 0 },
    velocity: { x: 660, y: 0 },
    colliders: [{ shape: circle(0.3), layer: 'craft' }],
  })
  const said: DrawItem[] = []
  const at = (when: number) => 11 * when
  world.watch(shot, zone, {
    begin: ({ when }) =>
      said.push(words(`begin, when ${when.toFixed(2)}`, { x: at(when) - 0.9, y: -1.9 }), dot({ x: at(when), y: 0 })),
    end: ({ when }) =>
      said.push(words(`end, when ${when.toFixed(2)}`, { x: at(when) + 0.5, y: -2.5 }), dot({ x: at(when), y: 0 })),
  })
  world.watch(shot, 'rock', {
    begin: ({ when, points }) =>
      said.push(words(`begin, when ${when.toFixed(2)}`, { x: 8.9, y: -1.9 }), dot({ x: points[0].x, y: 0 })),
  })
  world.step()
  figure(
    'crossed',
    290,
    drawn(world, 'One tick at 660 m/s', { x: -0.8, y: -3 }, { x: 12, y: 1.9 }, { show: { ways: true } }),
    said,
  )
}

function contacts(): void {
  const world = newWorld(-9.8)
  world.add({ type: 'static', name: 'rock', at: { x: 4, y: -0.5 }, colliders: [{ shape: box(9, 1), layer: 'rock' }] })
  for (const [x, y, size] of [
    [1.5, 0.5, 1],
    [1.5, 1.5, 1],
    [1.5, 2.4, 0.8],
    [5, 0.6, 1.2],
    [6.4, 0.6, 1.2],
    [5.7, 1.7, 1],
  ]) {
    world.add({ type: 'dynamic', at: { x, y }, colliders: [{ shape: box(size, size), layer: 'crate', density: 2 }] })
  }
  for (let i = 0; i < 50; i++) world.step()
  figure(
    'contacts',
    300,
    drawn(
      world,
      'Where they touch: the longer, the harder they press',
      { x: -1.2, y: -1.2 },
      { x: 9.2, y: 3.2 },
      { labels: false },
    ),
  )
}

function joints(): void {
  const world = newWorld(-9.8)
  const post = (x: number) =>
    world.add({ type: 'static', at: { x, y: 3.4 }, colliders: [{ shape: box(0.5, 0.3), layer: 'rock' }] })
  const load = (
    name: string | null,
    x: number,
    y: number,
    shape = box(0.7, 0.7) as ReturnType<typeof box> | ReturnType<typeof circle>,
  ) =>
    world.add({
      type: 'dynamic',
      ...(name === null ? {} : { name }),
      at: { x, y },
      colliders: [{ shape, layer: 'crate' }],
    })
  const at = (x: number, y: number) => ({ x, y })
  world.join({ type: 'hinge', a: post(0), b: load('hinge', 0.9, 2.4), at: at(0, 3.3), limits: { min: -1, max: 1 } })
  world.join({
    type: 'distance',
    a: post(2.6),
    b: load('rope', 2.6, 1.2),
    atA: at(2.6, 3.2),
    atB: at(2.6, 1.5),
    min: 0,
    max: 1.7,
  })
  world.join({
    type: 'spring',
    a: post(4.8),
    b: load('spring', 4.8, 1.4),
    atA: at(4.8, 3.2),
    atB: at(4.8, 1.7),
    length: 1.2,
    frequency: 1.5,
    damping: 0.6,
  })
  const rail = post(7.2)
  world.join({
    type: 'slide',
    a: rail,
    b: load('slide', 7.2, 2),
    at: at(7.2, 2),
    axis: at(1, 0),
    limits: { min: -0.9, max: 0.9 },
    motor: { speed: 0, force: 100 },
  })
  const hull = world.add({
    type: 'static',
    at: { x: 10.2, y: 2.4 },
    colliders: [{ shape: box(2.2, 0.6), layer: 'rock' }],
  })
  for (const x of [9.5, 10.9]) {
    world.join({
      type: 'axle',
      a: hull,
      b: load(x < 10 ? 'axle' : null, x, 1.5, circle(0.4)),
      at: at(x, 1.5),
      axis: at(0, 1),
      frequency: 4,
      damping: 0.8,
      limits: { min: -0.3, max: 0.3 },
    })
  }
  world.join({ type: 'fixed', a: post(13), b: load('fixed', 13, 2.5), at: at(13, 3) })
  const held = load('carry', 15.2, 1.6)
  world.join({ type: 'carry', a: held, at: held.at, target: at(15.2, 2.6), force: 60 })
  for (let i = 0; i < 90; i++) world.step()
  figure('joints', 280, drawn(world, 'Joints', { x: -1, y: 0 }, { x: 16.6, y: 4 }))
}

function travel(): void {
  const world = newWorld()
  const rock = (name: string | null, at: Vec2, shape: ReturnType<typeof box> | ReturnType<typeof polygon>) =>
    world.add({ type: 'static', ...(name === null ? {} : { name }), at, colliders: [{ shape, layer: 'rock' }] })
  rock('floor', { x: 6, y: -0.4 }, box(14, 0.8))
  rock(
    'slope',
    { x: 3, y: 0 },
    polygon([
      { x: 0, y: 0 },
      { x: 3, y: 0 },
      { x: 3, y: 1 },
    ]),
  )
  rock('ledge', { x: 7.6, y: 0.5 }, box(3.2, 1))
  rock('step', { x: 9.1, y: 1.1 }, box(1.2, 0.25))
  rock('cliff', { x: 11.2, y: 1.8 }, box(1, 3.6))
  const walker = world.add({
    type: 'kinematic',
    name: 'walker',
    at: { x: 0, y: 0.75 },
    colliders: [{ shape: capsule({ x: 0, y: -0.35 }, { x: 0, y: 0.35 }, 0.4), layer: 'craft' }],
  })
  const points = [walker.at]
  const hits: { point: Vec2; normal: Vec2 }[] = []
  let falling = 0
  for (let i = 0; i < 260; i++) {
    falling -= 9.8 / 60
    const out = walker.travel(
      { x: 4.5 / 60, y: falling / 60 },
      { onHit: 'slide', up: { x: 0, y: 1 }, steepest: 0.8, stepHeight: 0.35, snap: 0.2 },
    )
    if (out.ground !== null) falling = 0
    world.step()
    points.push(walker.at)
    if (i % 24 === 0 && out.hits.length > 0) hits.push({ point: out.hits[0].point, normal: out.hits[0].normal })
  }
  figure(
    'travel',
    320,
    drawn(
      world,
      'travel: floor, slope, step, and up to the cliff',
      { x: -1, y: -1 },
      { x: 12.4, y: 4.4 },
      { trails: [{ points, hits }] },
    ),
  )
}

function grid(): void {
  const world = newWorld(-9.8)
  const cave = world.add({
    type: 'static',
    name: 'one shape of tiles',
    colliders: [
      {
        layer: 'rock',
        shape: tiles({
          rows: [
            '#................#',
            '#......#####.....#',
            '#........#.......#',
            '#........#....####',
            '#\\.......#...#####',
            '##################',
          ],
          kinds: {
            '#': {},
            '\\': {
              shape: [
                { x: 0, y: 0 },
                { x: 1, y: 0 },
                { x: 0, y: 1 },
              ],
            },
          },
        }),
      },
    ],
  })
  const { pieces } = cave.colliders[0].carve({ shape: circle(0.8), at: { x: 9.5, y: 2.2 }, cutOff: 40 })
  for (const { shape, at, angle } of pieces) {
    world.add({ type: 'dynamic', name: 'cut off', at, angle, colliders: [{ shape, layer: 'crate' }] })
  }
  for (let i = 0; i < 25; i++) world.step()
  figure(
    'tiles',
    340,
    drawn(
      world,
      'A grid of tiles is one solid; what a charge cuts off falls',
      { x: -0.6, y: -0.6 },
      { x: 18.6, y: 6.6 },
    ),
  )
}

function ledge(): void {
  const world = newWorld(-9.8)
  world.add({
    type: 'static',
    name: 'ledge',
    at: { x: 4, y: 1.5 },
    colliders: [{ shape: box(8, 0.25), layer: 'rock' }],
  })
  world.add({
    type: 'static',
    name: 'floor',
    at: { x: 4, y: -1.2 },
    colliders: [{ shape: box(9, 0.4), layer: 'rock' }],
  })
  world.decide('craft', 'rock', (pair) => (pair.approach.y > 0 ? 'pass' : 'solid'))
  const ways: DrawItem[] = []
  for (const [x, y, up] of [
    [2, -0.5, 9],
    [6, 3, 0],
  ]) {
    world.add({
      type: 'dynamic',
      name: up > 0 ? 'from below' : 'from above',
      at: { x, y },
      velocity: { x: 0, y: up },
      colliders: [{ shape: circle(0.45), layer: 'craft' }],
    })
    ways.push(
      arrow({ x: x + 0.9, y: up > 0 ? 0.2 : 2.2 }, { x: 0, y: up > 0 ? 1 : -1 }, 44),
      words(up > 0 ? 'pass' : 'solid', { x: x + 1.5, y: up > 0 ? 0.5 : 2.6 }),
    )
  }
  for (let i = 0; i < 34; i++) world.step()
  figure(
    'decide',
    300,
    drawn(world, 'A decide hook: the same two, and another answer', { x: -1, y: -1.6 }, { x: 9, y: 4.2 }),
    ways,
  )
}

function questions(): void {
  const world = newWorld()
  const rock = (at: Vec2, shape: ReturnType<typeof box> | ReturnType<typeof circle>, angle = 0) =>
    world.add({ type: 'static', at, angle, colliders: [{ shape, layer: 'rock' }] })
  const items: DrawItem[] = []
  rock({ x: 2.6, y: 0.4 }, box(0.8, 2), 0.3)
  const from = { x: 0, y: 0 }
  const to = { x: 4, y: 0.6 }
  items.push(
    ...questionItems2({ kind: 'ray', from, to }, world.raycast.all({ from, to })),
    words('raycast', { x: 2, y: -1.6 }),
  )
  rock({ x: 8.4, y: 0.6 }, circle(0.8))
  const cast = { shape: box(0.9, 0.6), from: { x: 5.6, y: -0.4 }, to: { x: 9.6, y: 0.4 } }
  items.push(
    ...questionItems2({ kind: 'shape', ...cast, angle: 0, turn: 0 }, world.shapecast.all(cast)),
    words('shapecast', { x: 7.6, y: -1.6 }),
  )
  rock({ x: 12, y: 0.5 }, box(1.2, 1.2), 0.5)
  const disc = { shape: circle(0.9), at: { x: 12.6, y: -0.2 } }
  items.push(
    ...questionItems2({ kind: 'overlap', ...disc, angle: 0 }, world.overlap.all({ ...disc, depth: true })),
    words('overlap', { x: 12.3, y: -1.6 }),
  )
  rock({ x: 16.6, y: 0.6 }, box(1, 1.4), -0.3)
  const point = { x: 15, y: -0.3 }
  items.push(
    ...questionItems2({ kind: 'nearest', shape: null, at: point, angle: 0 }, world.nearest.all({ point, reach: 3 })),
    words('nearest', { x: 16, y: -1.6 }),
  )
  figure(
    'queries',
    270,
    drawn(world, 'Four questions, each with a point and a normal', { x: -0.8, y: -2 }, { x: 18, y: 2 }),
    items,
  )
}

function past(): void {
  const world = newWorld(0, 30)
  const target = world.add({
    type: 'kinematic',
    name: 'target now',
    at: { x: 6, y: -1.4 },
    velocity: { x: 0, y: 9 },
    colliders: [{ shape: circle(0.5), layer: 'craft' }],
  })
  for (let i = 0; i < 20; i++) world.step()
  const shot = { from: { x: 0, y: 0 }, to: { x: 9, y: 0 } }
  const back = 9
  const hit = world.past(back).raycast.first(shot)
  const then = { x: target.at.x, y: target.at.y - (9 * back) / 60 }
  figure(
    'past',
    260,
    drawn(world, `A shot as the shooter saw it: the world ${back} ticks ago`, { x: -0.8, y: -1.6 }, { x: 10, y: 3 }),
    [
      { kind: 'round', points: [then], radius: 0.5, colour: INK, fill: 'ghost', lit: false },
      words(`${back} ticks ago`, { x: then.x + 1.6, y: then.y }),
      ...questionItems2({ kind: 'ray', ...shot }, hit === null ? [] : [hit]),
    ],
  )
}

/** A line of ticks with marks above and below. */
function timeline(name: string, title: string, count: number, more: readonly DrawItem[]): void {
  const items: DrawItem[] = [line({ x: 0, y: 0 }, { x: count, y: 0 })]
  for (let i = 0; i <= count; i++) items.push(line({ x: i, y: -0.12 }, { x: i, y: 0.12 }))
  const list = { title, caption: '', min: { x: -0.6, y: -1.9 }, max: { x: count + 0.6, y: 2.4 }, items, legend: [] }
  figure(name, 290, list, more)
}

function time(): void {
  const frames = [0, 1.4, 2.7, 4.2, 6.6, 8.1, 9.3]
  timeline('time', 'A fixed clock: frames of any length, ticks of one', 10, [
    words('ticks', { x: -0.2, y: -0.7 }),
    words('frames', { x: 0, y: 1.4 }),
    ...frames.flatMap((at): DrawItem[] => [line({ x: at, y: 0.3 }, { x: at, y: 1 }), dot({ x: at, y: 1 })]),
    words('alpha 0.6', { x: 6.3, y: -0.9 }),
    line({ x: 6, y: -0.35 }, { x: 6.6, y: -0.35 }),
    words('this one makes two ticks', { x: 6.6, y: 1.4 }),
  ])
}

function back(): void {
  timeline('going-back', 'A snapshot, a restore, and the same steps again', 10, [
    dot({ x: 3, y: 0 }),
    words('snapshot', { x: 3, y: 0.7 }),
    line({ x: 8, y: 0.2 }, { x: 8, y: 1.1 }, true),
    line({ x: 8, y: 1.1 }, { x: 3, y: 1.1 }, true),
    arrow({ x: 3.4, y: 1.1 }, { x: -1, y: 0 }, 20),
    words('restore', { x: 5.6, y: 1.4 }),
    line({ x: 3, y: -0.6 }, { x: 10, y: -0.6 }),
    words('the same steps: the same bits, the same events', { x: 6.5, y: -1.1 }),
  ])
}

export function concepts(): void {
  for (const draw of [
    responses,
    bodies,
    watches,
    crossed,
    contacts,
    joints,
    travel,
    grid,
    ledge,
    questions,
    past,
    time,
    back,
  ])
    draw()
}
