/** Makes the demo scene of tiles: `npm run mine` writes scenes/mine.json. */
import { writeFileSync } from 'node:fs'

const WIDTH = 200
const HEIGHT = 120

/** The same numbers each time. */
function numbers(seed: number): () => number {
  let state = seed
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return state / 4294967296
  }
}

const random = numbers(2026)
/** A wavy edge: noise of three waves. */
const waves = Array.from({ length: 24 }, () => [random() * 6.283, 0.15 + 0.25 * random(), 0.15 + 0.25 * random()])
function noise(x: number, y: number): number {
  let sum = 0
  for (const [phase, u, v] of waves) sum += Math.sin(phase + u * x + v * y)
  return sum / Math.sqrt(waves.length)
}

/** Rock is 1; y runs up from the lower left. */
const rock = Array.from({ length: HEIGHT }, () => new Uint8Array(WIDTH).fill(1))

/** A chamber: an ellipse with a wavy edge. */
function chamber(x: number, y: number, rx: number, ry: number, wild = 0.16): void {
  for (let v = 1; v < HEIGHT - 1; v++) {
    for (let u = 1; u < WIDTH - 1; u++) {
      const [dx, dy] = [(u + 0.5 - x) / rx, (v + 0.5 - y) / ry]
      if (dx * dx + dy * dy < 1 + wild * noise(u, v)) rock[v][u] = 0
    }
  }
}

/** A tunnel between two places, as wide as that. */
function tunnel(ax: number, ay: number, bx: number, by: number, wide: number): void {
  const steps = Math.ceil(Math.hypot(bx - ax, by - ay))
  for (let i = 0; i <= steps; i++) {
    const part = i / steps
    chamber(ax + (bx - ax) * part, ay + (by - ay) * part, wide, wide, 0.12)
  }
}

// The upper gallery, the great cavern below it, the slide to the sump; a side gallery under a roof that hangs on a pillar.
chamber(45, 96, 30, 11)
chamber(48, 58, 34, 15)
tunnel(88, 45, 130, 25, 6)
chamber(150, 24, 34, 15)
chamber(150, 84, 32, 16)
tunnel(118, 88, 96, 92, 4)
tunnel(92, 93, 74, 96, 5)

/** A box of rock, or of none. */
function fill(x: number, y: number, width: number, height: number, what: 0 | 1): void {
  for (let v = y; v < y + height; v++) for (let u = x; u < x + width; u++) rock[v][u] = what
}
// The roof of the side gallery: a slab on a pillar.
fill(140, 88, 22, 5, 1)
fill(149, 68, 3, 20, 1)
// Floors that are level enough to stand on.
fill(30, 82, 34, 4, 1)
fill(30, 86, 34, 6, 0)
// The floor of the great cavern leads down to the tunnel, by a third; a plug of rock shuts that.
const [SLIDE, SLIDE_END, SLIDE_TOP] = [12, 126, 62]
const PLUG = 86
const slideAt = (u: number): number => SLIDE_TOP - 1 - Math.floor((u - SLIDE) / 3)
for (let u = SLIDE; u < SLIDE_END; u++) {
  for (let v = slideAt(u) - 20; v <= slideAt(u); v++) rock[v][u] = 1
  for (let v = slideAt(u) + 1; v < slideAt(u) + 10; v++) rock[v][u] = u < 20 ? rock[v][u] : 0
}
fill(PLUG, 34, 4, 18, 1)

// What stands alone, or is a hole of one cell, goes.
for (let pass = 0; pass < 3; pass++) {
  for (let v = 1; v < HEIGHT - 1; v++) {
    for (let u = 1; u < WIDTH - 1; u++) {
      const around = rock[v - 1][u] + rock[v + 1][u] + rock[v][u - 1] + rock[v][u + 1]
      if (around <= 1) rock[v][u] = 0
      if (around >= 3) rock[v][u] = 1
    }
  }
}

const at = (x: number, y: number): number => rock[y]?.[x] ?? 1
/** Pockets of ore: x, y, size. */
const ore = [
  [14, 34, 7],
  [60, 22, 9],
  [104, 62, 8],
  [176, 60, 8],
  [112, 108, 7],
  [24, 110, 5],
]
const rows: string[] = []
for (let v = HEIGHT - 1; v >= 0; v--) {
  let row = ''
  for (let u = 0; u < WIDTH; u++) {
    const border = u === 0 || v === 0 || u === WIDTH - 1 || v === HEIGHT - 1
    const slides =
      u >= SLIDE &&
      u < SLIDE_END &&
      v === slideAt(u) &&
      at(u, v) === 1 &&
      (at(u, v + 1) === 0 || (u >= PLUG && u < PLUG + 4))
    const onSlide = u >= SLIDE && u < SLIDE_END && v === slideAt(u) + 1
    if (border) row += 'X'
    else if (slides) row += 'abc'[(u - SLIDE) % 3]
    else if (rock[v][u] === 0) {
      // A slope where two neighbours meet, on the floor and under the roof.
      const [left, right, below, above] = [at(u - 1, v), at(u + 1, v), at(u, v - 1), at(u, v + 1)]
      if (below && right && !left && !above) row += '/'
      else if (below && left && !right && !above && !onSlide) row += '\\'
      else if (above && right && !left && !below) row += 'q'
      else if (above && left && !right && !below) row += 'p'
      // Water in the sump.
      else if (u > 112 && v < 16) row += '~'
      else row += '.'
    } else
      row += ore.some(([x, y, size]) => ((u - x) / size) ** 2 + ((v - y) / (0.6 * size)) ** 2 < 1 + 0.3 * noise(u, v))
        ? '%'
        : '#'
  }
  rows.push(row)
}

/** A tile that is so high on the left and on the right. */
function slope(left: number, right: number): [number, number][] {
  const top: [number, number][] = right > 0 ? [[1, right]] : []
  return [[0, 0], [1, 0], ...top, [0, left]]
}

type Json = Record<string, unknown>
const bodies: Json[] = [
  {
    name: 'mine',
    type: 'static',
    colliders: [
      {
        layer: 'rock',
        friction: 0.5,
        density: 2.5,
        shape: {
          kind: 'tiles',
          cell: 1,
          rows,
          kinds: {
            '#': {},
            '%': { layer: 'ore', friction: 0.9 },
            X: { firm: true },
            '/': {
              shape: [
                [0, 0],
                [1, 0],
                [1, 1],
              ],
            },
            '\\': {
              shape: [
                [0, 0],
                [1, 0],
                [0, 1],
              ],
            },
            q: {
              shape: [
                [0, 1],
                [1, 0],
                [1, 1],
              ],
            },
            p: {
              shape: [
                [0, 0],
                [1, 1],
                [0, 1],
              ],
            },
            // A slope of a third, over three tiles.
            a: { shape: slope(1, 2 / 3) },
            b: { shape: slope(2 / 3, 1 / 3) },
            c: { shape: slope(1 / 3, 0) },
            '~': { layer: 'water', response: 'sense' },
          },
        },
      },
    ],
  },
]
const ball = (name: string, x: number, y: number, radius: number): Json => ({
  name,
  type: 'dynamic',
  at: [x, y],
  colliders: [{ shape: { kind: 'circle', radius }, layer: 'boulder', density: 2.4, friction: 0.25, restitution: 0.15 }],
})
for (let i = 0; i < 14; i++)
  bodies.push(ball(`boulder ${i + 1}`, 34.5 + 2.1 * i, 87.05 + (i % 3) * 0.3, 0.8 + 0.07 * (i % 4)))
for (let i = 0; i < 5; i++) {
  bodies.push({
    name: `crate ${i + 1}`,
    type: 'dynamic',
    at: [38.7 + 4.2 * i, 90.4],
    colliders: [
      { shape: { kind: 'box', width: 1.6, height: 1.6, radius: 0.1 }, layer: 'crate', density: 0.8, friction: 0.1 },
    ],
  })
}
bodies.push({
  name: 'lantern',
  type: 'dynamic',
  at: [155, 95.6],
  colliders: [{ shape: { kind: 'box', width: 1.4, height: 2 }, layer: 'crate', density: 1.5 }],
})

const blast = (time: number, x: number, y: number, radius: number, more: Json = {}): Json => ({
  time,
  do: 'carve',
  body: 'mine',
  shape: { kind: 'circle', radius },
  at: [x, y],
  ...more,
})
const scene = {
  $schema: '../schema/scene.schema.json',
  format: 'keen-sentry-scene',
  version: 1,
  name: 'The mine',
  about:
    'A flooded mine of 200 by 120 tiles. Charges blast the floor of a gallery: boulders fall into the cavern below and roll down a slide into the sump. Others cut a pillar, and the roof that stood on it comes down.',
  dimension: '2d',
  ticks: 1500,
  layers: {
    names: ['rock', 'ore', 'boulder', 'crate', 'water'],
    otherwise: 'solid',
    pairs: [['water', '*', 'sense']],
  },
  bodies,
  actions: [
    blast(1.5, 38, 81, 6.5),
    blast(2.2, 56, 81, 6.5),
    blast(2.4, 44, 75, 5),
    blast(2.6, 54, 75, 5),
    blast(5, 150.5, 76, 4.5, { cutOff: 400, layer: 'crate' }),
    {
      time: 9,
      do: 'carve',
      body: 'mine',
      shape: {
        kind: 'polygon',
        points: [
          [0, -0.2],
          [4, -1.5],
          [4, 14],
          [0, 14],
        ],
      },
      at: [PLUG, 38],
    },
    blast(12, 150, 8, 5),
  ],
  watches: [
    {
      name: 'sump',
      a: ['boulder', 'crate'],
      b: 'water',
      say: { begin: '{a} splashes into the sump', end: '{a} comes out of the water after {dwell} s' },
    },
    {
      name: 'falls',
      a: ['boulder', 'crate'],
      b: 'rock',
      over: { impulse: 160 },
      kinds: ['impact'],
      say: { impact: '{a} strikes the rock with {impulse} newton seconds, at {speed} m/s' },
    },
    {
      name: 'hits',
      a: 'boulder',
      b: 'crate',
      over: { speed: 3 },
      kinds: ['impact'],
      say: { impact: '{a} hits {b} at {speed} m/s' },
    },
  ],
}
writeFileSync(new URL('../scenes/mine.json', import.meta.url), `${JSON.stringify(scene, null, 1)}\n`)
