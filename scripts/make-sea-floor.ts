/** Makes the demo scene of 3D and its model: `npm run sea-floor` writes scenes/sea-floor.json and scenes/sea-rocks.glb. */
import { writeFileSync } from 'node:fs'
import { Document, WebIO } from '@gltf-transform/core'
import { standAt } from '../examples/seafloor/standing.ts'
import { createWorld, defineLayers, heightfield, type Vec3 } from '../src/3d/index.ts'

const COLUMNS = 41
const CELL = 1.6
const HALF = ((COLUMNS - 1) * CELL) / 2

/** The height of the floor at a place: dunes, and a rim that rises at the border. */
function floorAt(x: number, z: number): number {
  const dunes = 1.1 * Math.sin(0.17 * x + 0.6) * Math.cos(0.14 * z - 0.3) + 0.45 * Math.sin(0.33 * x + 0.27 * z)
  const ripples = 0.12 * Math.sin(0.9 * z - 0.6 * x) + 0.1 * Math.cos(1.1 * x + 0.4 * z)
  const border = Math.max(0, Math.hypot(x, z) / HALF - 0.78)
  return dunes + ripples + 14 * border * border
}

const rounded = (value: number, digits = 2): number => Number(value.toFixed(digits)) + 0
const heights = Array.from({ length: COLUMNS * COLUMNS }, (_, i) => {
  const x = (i % COLUMNS) * CELL - HALF
  const z = Math.floor(i / COLUMNS) * CELL - HALF
  return rounded(floorAt(x, z))
})

/** A number between -1 and 1 that is always the same for the same three: rough rock. */
function rough(a: number, b: number, c: number): number {
  const wave = Math.sin(12.9898 * a + 78.233 * b + 37.719 * c) * 43758.5453
  return 2 * (wave - Math.floor(wave)) - 1
}

interface Triangles {
  readonly positions: number[]
  readonly indices: number[]
}

/** An arch of rock: half a ring, thick at its feet, its surface rough. About the middle between its feet. */
function arch(radius: number, thick: number, seed: number): Triangles {
  const along = 22
  const around = 9
  const positions: number[] = []
  const indices: number[] = []
  for (let i = 0; i <= along; i++) {
    // From below the floor on the one side to below it on the other.
    const angle = Math.PI * (i / along) * 1.24 - 0.12 * Math.PI
    const foot = Math.abs(Math.cos(angle))
    for (let k = 0; k < around; k++) {
      const turn = (2 * Math.PI * k) / around
      const r = thick * (0.75 + 0.5 * foot) * (1 + 0.16 * rough(i, k, seed))
      const out = radius + r * Math.cos(turn)
      positions.push(out * Math.cos(angle), out * Math.sin(angle) * 0.9, r * Math.sin(turn) * 1.2)
    }
  }
  for (let i = 0; i < along; i++) {
    for (let k = 0; k < around; k++) {
      const a = i * around + k
      const b = i * around + ((k + 1) % around)
      indices.push(a, a + around, b, b, a + around, b + around)
    }
  }
  return { positions, indices }
}

/** A boulder: a ball with dents. Its hull is what is wanted. */
function boulder(radius: number, seed: number): Triangles {
  const rings = 6
  const around = 10
  const positions: number[] = [0, -radius, 0]
  const indices: number[] = []
  for (let i = 1; i < rings; i++) {
    for (let k = 0; k < around; k++) {
      const down = (Math.PI * i) / rings
      const turn = (2 * Math.PI * k) / around
      const r = radius * (1 + 0.2 * rough(i, k, seed))
      positions.push(
        r * Math.sin(down) * Math.cos(turn),
        -r * Math.cos(down) * 0.8,
        r * Math.sin(down) * Math.sin(turn),
      )
    }
  }
  positions.push(0, 0.8 * radius, 0)
  const top = positions.length / 3 - 1
  for (let k = 0; k < around; k++) {
    const next = (k + 1) % around
    indices.push(0, 1 + k, 1 + next, top, top - around + next, top - around + k)
    for (let i = 0; i < rings - 2; i++) {
      const low = 1 + i * around
      const high = low + around
      indices.push(low + k, high + k, low + next, low + next, high + k, high + next)
    }
  }
  return { positions, indices }
}

async function writeRocks(): Promise<void> {
  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene('sea rocks')
  document.getRoot().setDefaultScene(scene)
  const put = (name: string, { positions, indices }: Triangles, [x, z]: [number, number], turn: number): void => {
    const primitive = document
      .createPrimitive()
      .setAttribute(
        'POSITION',
        document.createAccessor().setType('VEC3').setArray(Float32Array.from(positions)).setBuffer(buffer),
      )
      .setIndices(document.createAccessor().setType('SCALAR').setArray(Uint16Array.from(indices)).setBuffer(buffer))
    const node = document
      .createNode(name)
      .setMesh(document.createMesh(name).addPrimitive(primitive))
      .setTranslation([x, rounded(floorAt(x, z)), z])
      .setRotation([0, rounded(Math.sin(turn / 2), 6), 0, rounded(Math.cos(turn / 2), 6)])
    scene.addChild(node)
  }
  put('arch west', arch(4.6, 1, 1), [-6, 4], -0.78)
  put('arch east', arch(5.4, 1.25, 2), [14, -10], -0.82)
  put('boulder grey', boulder(2.1, 3), [-15, -6], 0.3)
  put('boulder split', boulder(1.6, 4), [4, 9], 1.2)
  put('boulder low', boulder(2.6, 5), [5, -17], 2)
  put('boulder far', boulder(1.8, 6), [19, 8], 0)
  writeFileSync('scenes/sea-rocks.glb', await new WebIO().writeBinary(document))
}

const ROUTE: readonly [number, number][] = [
  [-22, 19],
  [-16, 15],
  [-11, 9],
  [-6, 4],
  [-1, -1],
  [5, -4],
  [10, -6.5],
  [14, -10],
  [18, -14],
  [21, -18],
]
const PACE = 3.2
const EVERY = 0.25

/** A smooth way through the route (Catmull and Rom, 1974), at a steady pace on its own ground. */
function crawl(): { points: object[]; seconds: number } {
  const world = createWorld({ layers: defineLayers(['floor']) })
  world.add({
    type: 'static',
    colliders: [{ shape: heightfield({ columns: COLUMNS, rows: COLUMNS, heights, cell: CELL }), layer: 'floor' }],
  })
  const way: { x: number; z: number }[] = []
  for (let i = 0; i + 1 < ROUTE.length; i++) {
    const [p, a, b, n] = [-1, 0, 1, 2].map((k) => ROUTE[Math.min(ROUTE.length - 1, Math.max(0, i + k))])
    for (let step = 0; step < 40; step++) {
      const t = step / 40
      const blend = (axis: 0 | 1): number =>
        0.5 *
        (2 * a[axis] +
          (b[axis] - p[axis]) * t +
          (2 * p[axis] - 5 * a[axis] + 4 * b[axis] - n[axis]) * t * t +
          (3 * a[axis] - p[axis] - 3 * b[axis] + n[axis]) * t * t * t)
      way.push({ x: blend(0), z: blend(1) })
    }
  }
  const points: object[] = []
  let gone = 0
  let next = 0
  for (let i = 1; i < way.length; i++) {
    const from = way[i - 1]
    const heading = { x: way[i].x - from.x, z: way[i].z - from.z }
    if (gone >= next) {
      const place: Vec3 = { x: from.x, y: floorAt(from.x, from.z), z: from.z }
      const standing = standAt((start, end) => world.raycast.first({ from: start, to: end }), place, heading)!
      const { at, rotation } = standing
      points.push({
        time: rounded(1 + gone / PACE, 3),
        at: [rounded(at.x, 3), rounded(at.y, 3), rounded(at.z, 3)],
        rotation: [rotation.x, rotation.y, rotation.z, rotation.w].map((value) => rounded(value, 5)),
      })
      next += EVERY * PACE
    }
    gone += Math.hypot(heading.x, heading.z)
  }
  return { points, seconds: 1 + gone / PACE }
}

const above = (x: number, z: number, height: number): [number, number, number] => [
  x,
  rounded(floorAt(x, z) + height),
  z,
]
const { points, seconds } = crawl()
const pod = { kind: 'capsule', a: [-0.5, 0, 0], b: [0.5, 0, 0], radius: 0.45 }
const LEGS = [-1.5, 0, 1.5].flatMap((z) => [-1.1, 1.1].map((x) => [x, z] as const))
const LEG_NAMES = ['front left', 'front right', 'middle left', 'middle right', 'rear left', 'rear right']

const scene = {
  $schema: '../schema/scene.schema.json',
  format: 'keen-sentry-scene',
  version: 1,
  name: 'Sea floor',
  about:
    'East of Lantern Reef a crawler walks on six legs from beacon to beacon, under two arches of rock, while pods drift and a courier darts through a gate.',
  dimension: '3d',
  rate: 60,
  ticks: 60 * Math.ceil(seconds + 1),
  view: { eye: [-20, 20, 36], target: [-0.5, -1.5, 0.5], angle: 0.66 },
  layers: {
    names: ['floor', 'rock', 'crawler', 'pod', 'zone', 'courier'],
    otherwise: 'solid',
    pairs: [
      ['zone', '*', 'sense'],
      ['zone', 'zone', 'pass'],
      ['crawler', 'floor', 'pass'],
      ['courier', 'pod', 'pass'],
    ],
  },
  tags: ['player', 'lamp'],
  bodies: [
    {
      name: 'sea floor',
      type: 'static',
      colliders: [
        { shape: { kind: 'heightfield', columns: COLUMNS, rows: COLUMNS, heights, cell: CELL }, layer: 'floor' },
      ],
    },
    {
      name: 'rocks',
      type: 'static',
      model: {
        file: 'sea-rocks.glb',
        nodes: [
          { name: 'arch *', shape: 'mesh', layer: 'rock' },
          { name: 'boulder *', shape: 'hull', layer: 'rock' },
        ],
      },
    },
    {
      name: 'first beacon',
      type: 'static',
      at: above(-15, 13, 1.2),
      colliders: [{ shape: { kind: 'sphere', radius: 3.2 }, layer: 'zone', tags: ['lamp'] }],
    },
    {
      name: 'second beacon',
      type: 'static',
      at: above(5, -4, 1.5),
      colliders: [{ shape: { kind: 'cylinder', height: 5, radius: 3.2 }, layer: 'zone', tags: ['lamp'] }],
    },
    {
      name: 'dock',
      type: 'static',
      at: above(21, -18, 1.5),
      rotation: { axis: [0, 1, 0], angle: 0.9 },
      colliders: [{ shape: { kind: 'box', x: 8, y: 5, z: 6 }, layer: 'zone' }],
    },
    {
      name: 'gate',
      type: 'static',
      at: above(-2, 16, 3),
      rotation: { axis: [0, 1, 0], angle: 0.35 },
      colliders: [
        { shape: { kind: 'box', x: 0.05, y: 4, z: 5 }, layer: 'zone' },
        { shape: { kind: 'cylinder', height: 7, radius: 0.25 }, layer: 'rock', at: [0, -0.5, 2.8] },
        { shape: { kind: 'cylinder', height: 7, radius: 0.25 }, layer: 'rock', at: [0, -0.5, -2.8] },
      ],
    },
    {
      name: 'crawler',
      type: 'kinematic',
      colliders: [
        { shape: { kind: 'box', x: 1.8, y: 0.8, z: 3.4, radius: 0.2 }, layer: 'crawler', tags: ['player'] },
        { shape: { kind: 'sphere', radius: 0.6 }, layer: 'crawler', at: [0, 0.6, -0.8], tags: ['player'] },
        {
          shape: { kind: 'cone', height: 0.9, radius: 0.35 },
          layer: 'crawler',
          at: [0, 0.75, 1.1],
          tags: ['player', 'lamp'],
        },
      ],
      path: { points },
    },
    {
      name: 'red pod',
      type: 'kinematic',
      colliders: [{ shape: pod, layer: 'pod' }],
      path: {
        loop: true,
        points: [
          { time: 0, at: above(4, 13, 2.4), rotation: [0, 0, 0, 1] },
          { time: 6, at: above(-8, 18, 2.6), rotation: { axis: [0, 1, 0], angle: 1.6 } },
          { time: 8, at: above(-7, 20, 2.8), rotation: { axis: [0, 1, 0], angle: 3 } },
          { time: 14, at: above(4, 13, 2.4), rotation: [0, 0, 0, 1] },
        ],
      },
    },
    {
      name: 'blue pod',
      type: 'kinematic',
      at: above(5.5, -5.5, 2.2),
      spin: [0, 0.8, 0],
      velocity: [0, 0.05, 0],
      colliders: [{ shape: pod, layer: 'pod' }],
    },
    {
      name: 'green pod',
      type: 'kinematic',
      at: above(20, -16.5, 2.6),
      spin: [0.3, 0.5, 0],
      colliders: [
        {
          shape: { kind: 'compound', parts: [{ shape: pod }, { shape: { kind: 'box', x: 0.3, y: 1.4, z: 0.3 } }] },
          layer: 'pod',
        },
      ],
    },
    {
      name: 'courier',
      type: 'kinematic',
      path: {
        loop: true,
        points: [
          { time: 0, at: above(-20, 22, 5) },
          { time: 6, at: above(-18, 21.5, 4.6) },
          { time: 6.15, at: above(14, 12, 3.2) },
          { time: 10, at: above(16, 20, 6) },
          { time: 12, at: above(-20, 22, 5) },
        ],
      },
      colliders: [
        {
          shape: {
            kind: 'hull',
            points: [
              [0.9, 0, 0],
              [-0.5, 0.3, 0.35],
              [-0.5, 0.3, -0.35],
              [-0.5, -0.3, 0.35],
              [-0.5, -0.3, -0.35],
            ],
          },
          layer: 'courier',
        },
      ],
    },
  ],
  actions: [
    { time: 9.5, do: 'teleport', body: 'blue pod', at: above(12, 2, 2) },
    { time: 16, do: 'disable', body: 'second beacon' },
    { time: 21, do: 'remove', body: 'green pod' },
  ],
  rays: [
    ...LEGS.map(([x, z], i) => ({
      name: `leg ${LEG_NAMES[i]}`,
      body: 'crawler',
      from: [x, 0.2, z],
      to: [x, -2.5, z],
      filter: { layers: ['floor', 'rock'] },
    })),
    { name: 'lamp', body: 'crawler', from: [0, 1, -1.2], to: [0, 0.4, -14], filter: { layers: ['rock', 'pod'] } },
  ],
  watches: [
    {
      name: 'light',
      a: 'crawler',
      b: { tag: 'lamp' },
      say: { begin: '{a} comes into the light of the {b}', end: '{a} has left the light of the {b} after {dwell} s' },
    },
    {
      name: 'dock',
      a: 'crawler',
      b: { body: 'dock' },
      say: { begin: '{a} is at the {b}', end: '{a} leaves the {b}' },
    },
    {
      name: 'drift',
      a: 'pod',
      b: 'zone',
      say: { begin: '{a} lies within the {b}', end: '{a} is out of the {b}' },
    },
    {
      name: 'gate',
      a: 'courier',
      b: { body: 'gate' },
      say: { begin: '{a} darts through the {b}', end: '{a} is through the {b}' },
    },
    {
      name: 'rock',
      a: ['crawler', 'pod', 'courier'],
      b: 'rock',
      say: { begin: '{a} scrapes the {b}', end: '{a} is clear of the {b}' },
    },
  ],
}

await writeRocks()
writeFileSync('scenes/sea-floor.json', `${JSON.stringify(scene)}\n`)
