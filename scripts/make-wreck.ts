/** Makes the demo scene of bodies that fall in 3D: `npm run wreck` writes scenes/wreck.json. */
import { writeFileSync } from 'node:fs'

const COLUMNS = 37
const HALF = (COLUMNS - 1) / 2
/** Where the pit is, how wide and how deep. */
const PIT = { x: 9, z: 7, radius: 5, depth: 2.6 }

const rounded = (value: number): number => Number(value.toFixed(3)) + 0

/** The height of the sea bed: low dunes, a pit, and a rim at the border. */
function bedAt(x: number, z: number): number {
  const dunes = 0.28 * Math.sin(0.42 * x + 0.5) * Math.cos(0.33 * z) + 0.1 * Math.sin(0.9 * z - 0.5 * x)
  const part = Math.min(1, Math.hypot(x - PIT.x, z - PIT.z) / PIT.radius)
  const pit = PIT.depth * (1 + Math.cos(Math.PI * part)) * 0.5
  const border = Math.max(0, Math.hypot(x, z) / HALF - 0.8)
  return rounded(dunes - pit + 22 * border * border)
}

const heights = Array.from({ length: COLUMNS * COLUMNS }, (_, i) =>
  bedAt((i % COLUMNS) - HALF, Math.floor(i / COLUMNS) - HALF),
)

type Triple = readonly [number, number, number]
const box = (x: number, y: number, z: number) => ({ kind: 'box', x, y, z })
const about = (axis: Triple, angle: number) => ({ axis, angle })

/** How the wreck lies: its open end to the east and down. */
const LEAN = -0.42
const WRECK: Triple = [-9.5, 2.9, -3]
/** A point about the wreck, in the world. */
function inWreck([x, y, z]: Triple): Triple {
  const [c, s] = [Math.cos(LEAN), Math.sin(LEAN)]
  return [rounded(WRECK[0] + c * x - s * y), rounded(WRECK[1] + s * x + c * y), rounded(WRECK[2] + z)]
}

const plate = (shape: object, at: Triple) => ({ shape, layer: 'wreck', at, friction: 0.15 })
const wreck = {
  name: 'wreck',
  type: 'static',
  at: WRECK,
  rotation: about([0, 0, 1], LEAN),
  colliders: [
    plate(box(8, 0.3, 4.6), [0, -1.5, 0]),
    plate(box(8, 2, 0.25), [0, -0.4, 2.2]),
    plate(box(6, 1.6, 0.25), [-1, -0.6, -2.2]),
    plate(box(0.3, 3.4, 4.6), [-4, 0.1, 0]),
    plate(box(2.2, 0.25, 4.6), [-2.9, 1.7, 0]),
    {
      shape: { kind: 'cylinder', height: 4.6, radius: 0.22 },
      layer: 'wreck',
      at: [-0.6, 1.75, 0],
      rotation: about([1, 0, 0], Math.PI / 2),
      friction: 0.15,
    },
  ],
}
const gate = {
  name: 'gate',
  type: 'static',
  at: inWreck([2.2, -0.6, 0]),
  rotation: about([0, 0, 1], LEAN),
  colliders: [{ shape: box(0.2, 1.7, 4.2), layer: 'wreck' }],
}

const bodies: object[] = [
  {
    name: 'sea bed',
    type: 'static',
    colliders: [
      {
        shape: { kind: 'heightfield', columns: COLUMNS, rows: COLUMNS, heights, cell: 1 },
        layer: 'rock',
        friction: 0.7,
      },
    ],
  },
  wreck,
  gate,
]

const SIZES: readonly Triple[] = [
  [1, 1, 1],
  [1.3, 0.8, 0.9],
  [0.8, 0.8, 1.2],
]
for (let i = 0; i < 9; i++) {
  const [x, y, z] = SIZES[i % 3]
  bodies.push({
    name: `crate ${i + 1}`,
    type: 'dynamic',
    at: inWreck([1.2 - 1.5 * Math.floor(i / 3), -0.7 + 0.06 * (i % 3), 1.35 * ((i % 3) - 1)]),
    rotation: about([0, 0, 1], LEAN),
    damping: 0.05,
    colliders: [{ shape: box(x, y, z), layer: 'crate', density: 40, friction: 0.35, tags: ['cargo'] }],
  })
}
for (let i = 0; i < 3; i++) {
  bodies.push({
    name: `drum ${i + 1}`,
    type: 'dynamic',
    at: inWreck([-1.2 - 0.9 * (i % 2), 0.5, 1.2 * (i - 1)]),
    damping: 0.05,
    colliders: [
      {
        shape: { kind: 'cylinder', height: 1, radius: 0.38 },
        layer: 'crate',
        density: 30,
        friction: 0.4,
        tags: ['cargo'],
      },
    ],
  })
}

// Pebbles on the rim of the pit.
for (let i = 0; i < 14; i++) {
  const turn = 1.9 + (2.6 * i) / 13
  const far = PIT.radius * (0.78 + 0.08 * (i % 3))
  const [x, z] = [rounded(PIT.x + far * Math.cos(turn)), rounded(PIT.z + far * Math.sin(turn))]
  const radius = 0.22 + 0.06 * (i % 4)
  bodies.push({
    name: `pebble ${i + 1}`,
    type: 'dynamic',
    at: [x, rounded(bedAt(x, z) + radius + 1.2 + 0.3 * (i % 5)), z],
    damping: 0.1,
    spinDamping: 0.1,
    colliders: [{ shape: { kind: 'sphere', radius }, layer: 'stone', density: 60, friction: 0.6 }],
  })
}

// A stack of boxes, and the charge behind it.
const STACK = { x: 3, z: -9 }
for (let row = 0; row < 4; row++) {
  for (let i = 0; i < 4 - row; i++) {
    const x = STACK.x + (i - (3 - row) / 2) * 1.06
    bodies.push({
      name: `box ${row + 1}.${i + 1}`,
      type: 'dynamic',
      at: [rounded(x), rounded(0.5 + row * 0.9), STACK.z],
      damping: 0.05,
      colliders: [{ shape: box(1, 0.9, 1), layer: 'crate', density: 25, friction: 0.6 }],
    })
  }
}
bodies.push(
  {
    name: 'slab',
    type: 'static',
    at: [STACK.x, -0.2, STACK.z],
    colliders: [{ shape: box(6, 0.5, 3), layer: 'rock', friction: 0.7 }],
  },
  {
    name: 'charge',
    type: 'static',
    at: [STACK.x + 0.3, 0.45, STACK.z - 1.3],
    colliders: [{ shape: { kind: 'sphere', radius: 0.25 }, layer: 'charge' }],
  },
  {
    name: 'pod',
    type: 'dynamic',
    at: [-1, 13, 7],
    rotation: about([0, 0, 1], 0.5),
    spin: [0.4, 0, 0.9],
    colliders: [
      {
        shape: { kind: 'capsule', a: [-0.9, 0, 0], b: [0.9, 0, 0], radius: 0.55 },
        layer: 'craft',
        density: 55,
        restitution: 0.2,
      },
      {
        shape: { kind: 'cone', height: 0.9, radius: 0.45 },
        at: [-1.6, 0, 0],
        rotation: about([0, 0, 1], Math.PI / 2),
        layer: 'craft',
        density: 20,
      },
    ],
  },
  {
    name: 'pit',
    type: 'static',
    at: [PIT.x, bedAt(PIT.x, PIT.z) + 0.2, PIT.z],
    colliders: [{ shape: { kind: 'sphere', radius: 1.9 }, layer: 'zone' }],
  },
)

const scene = {
  $schema: '../schema/scene.schema.json',
  format: 'keen-sentry-scene',
  version: 1,
  name: 'Lantern Reef: the wreck',
  about:
    'A broken hull lies on the sea bed. Its gate gives way, and the cargo slides out and piles up; pebbles roll down into a pit; a pod comes down; a charge bursts a stack.',
  dimension: '3d',
  rate: 60,
  ticks: 780,
  gravity: [0, -4, 0],
  view: { eye: [13, 13, 23], target: [-0.3, -1.2, 0.6], angle: 0.74 },
  layers: {
    names: ['rock', 'wreck', 'crate', 'stone', 'craft', 'charge', 'zone'],
    otherwise: 'solid',
    pairs: [
      ['zone', '*', 'sense'],
      ['zone', 'rock', 'pass'],
      ['charge', '*', 'pass'],
    ],
  },
  tags: ['cargo'],
  bodies,
  actions: [
    { time: 0.8, do: 'remove', body: 'gate' },
    { time: 7, do: 'blast', body: 'charge', reach: 6, strength: 160, cover: ['rock'] },
    { time: 7.02, do: 'remove', body: 'charge' },
  ],
  rays: [],
  watches: [
    {
      name: 'spill',
      a: { tag: 'cargo' },
      b: { body: 'wreck' },
      kinds: ['end'],
      once: false,
      say: { end: '{a} slides out of the wreck' },
    },
    {
      name: 'pod',
      a: { body: 'pod' },
      b: '*',
      over: { impulse: 60 },
      kinds: ['impact'],
      say: { impact: 'the pod strikes {b}: {impulse} Ns at {speed} m/s' },
    },
    { name: 'pit', a: 'stone', b: 'zone', kinds: ['begin'], say: { begin: '{a} rolls into the pit' } },
    {
      name: 'thud',
      a: 'crate',
      b: ['rock', 'crate'],
      over: { speed: 3.5 },
      kinds: ['impact'],
      say: { impact: '{a} slams into {b} at {speed} m/s' },
    },
  ],
}
writeFileSync('scenes/wreck.json', `${JSON.stringify(scene)}\n`)
