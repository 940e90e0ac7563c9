/** Makes the scene of the sluice, `npm run sluice`: every type of joint at work, in the mine below Lantern Reef. */
import { writeFileSync } from 'node:fs'

type Json = Record<string, unknown>
const bodies: Json[] = []
const joints: Json[] = []
const round = (value: number): number => Math.round(value * 1000) / 1000
const at = (x: number, y: number): [number, number] => [round(x), round(y)]

function box(
  name: string,
  type: string,
  x: number,
  y: number,
  width: number,
  height: number,
  layer: string,
  more: Json = {},
  own: Json = {},
): void {
  bodies.push({
    name,
    type,
    at: at(x, y),
    ...more,
    colliders: [{ shape: { kind: 'box', width, height }, layer, ...own }],
  })
}

box('mine floor', 'static', 16, -0.5, 34, 1, 'rock')
box('west wall', 'static', -0.5, 8, 1, 18, 'rock')
box('east wall', 'static', 32.5, 8, 1, 18, 'rock')
box('roof', 'static', 16, 17.5, 34, 1, 'rock')

// The sluice gate on its hinge, with a motor that is strong enough, and boulders behind it.
box('gate post', 'static', 6, 8.5, 0.6, 3, 'rock')
bodies.push({
  name: 'chute',
  type: 'static',
  at: at(2.9, 5.2),
  angle: -0.25,
  colliders: [{ shape: { kind: 'box', width: 6.6, height: 0.4 }, layer: 'rock', friction: 0.2 }],
})
box('gate', 'dynamic', 6, 5.9, 0.3, 2, 'machine', { spinDamping: 0.5 }, { density: 20 })
joints.push({
  type: 'hinge',
  name: 'gate hinge',
  a: 'gate post',
  b: 'gate',
  at: at(6, 6.9),
  limits: { min: -0.05, max: 1.9 },
  motor: { speed: 0, torque: 900 },
})
for (let i = 0; i < 6; i++) {
  const [x, y] = [1 + 0.9 * (i % 4), 7.45 + 0.9 * Math.floor(i / 4)]
  bodies.push({
    name: `boulder ${i + 1}`,
    type: 'dynamic',
    at: at(x, y),
    spinDamping: 0.3,
    colliders: [{ shape: { kind: 'circle', radius: 0.38 }, layer: 'stone', density: 12 }],
  })
}

// A hanging walkway of planks between two points, hung so that it sags.
const planks = 12
const hung = Array.from({ length: planks + 1 }, (_, i) => {
  const part = i / planks
  return [6.7 + 9 * part, 3.7 - 0.3 * part - 5.2 * part * (1 - part)] as const
})
for (let i = 0; i < planks; i++) {
  const [x0, y0] = hung[i]
  const [x1, y1] = hung[i + 1]
  const turn = { angle: round(Math.atan2(y1 - y0, x1 - x0)), spinDamping: 1, damping: 0.2 }
  const long = round(Math.hypot(x1 - x0, y1 - y0))
  box(`plank ${i + 1}`, 'dynamic', (x0 + x1) / 2, (y0 + y1) / 2, long, 0.14, 'machine', turn, {
    density: 20,
    friction: 0.9,
  })
  joints.push({
    type: 'hinge',
    name: `walkway ${i + 1}`,
    a: `plank ${i + 1}`,
    ...(i > 0 && { b: `plank ${i}` }),
    at: at(x0, y0),
  })
}
joints.push({ type: 'hinge', name: `walkway ${planks + 1}`, a: `plank ${planks}`, at: at(...hung[planks]) })

// An ore trolley on sprung wheels, driven by its hind wheel.
box('trolley', 'dynamic', 18, 1.15, 2.2, 0.5, 'machine', {}, { density: 30 })
for (const [name, x] of [
  ['hind wheel', 17.3],
  ['fore wheel', 18.7],
] as const) {
  bodies.push({
    name,
    type: 'dynamic',
    at: at(x, 0.45),
    colliders: [{ shape: { kind: 'circle', radius: 0.4 }, layer: 'machine', density: 30, friction: 1 }],
  })
  joints.push({
    type: 'axle',
    name: `axle of the ${name}`,
    a: 'trolley',
    b: name,
    at: at(x, 0.45),
    axis: [0, 1],
    frequency: 5,
    damping: 0.7,
    limits: { min: -0.15, max: 0.25 },
  })
}

// A mooring chain from the roof with a lantern at its end, kept from swinging far by a spring.
const links = 10
for (let i = 0; i < links; i++) {
  box(`link ${i + 1}`, 'dynamic', 20, 16.8 - 0.4 * i, 0.12, 0.4, 'chain', { spinDamping: 0.4 }, { density: 40 })
  joints.push({
    type: 'hinge',
    name: `chain ${i + 1}`,
    a: `link ${i + 1}`,
    ...(i > 0 && { b: `link ${i}` }),
    at: at(20, 17 - 0.4 * i),
  })
}
bodies.push({
  name: 'lantern',
  type: 'dynamic',
  at: at(20, 12.5),
  velocity: [5, 0],
  colliders: [{ shape: { kind: 'circle', radius: 0.5 }, layer: 'machine', density: 60 }],
})
joints.push({ type: 'hinge', name: 'shackle', a: 'lantern', b: `link ${links}`, at: at(20, 13) })
joints.push({ type: 'spring', name: 'stay', a: 'lantern', atB: at(25, 12.5), length: 5, frequency: 0.4, damping: 0.2 })

// A winch whose rope is too weak for the second load.
box('winch', 'static', 28, 16, 1.2, 0.8, 'rock')
box('load', 'dynamic', 28, 8, 1.2, 1.2, 'crate', {}, { density: 50 })
joints.push({
  type: 'distance',
  name: 'winch rope',
  a: 'winch',
  b: 'load',
  atA: at(28, 15.6),
  atB: at(28, 8.6),
  min: 0,
  max: 7,
  breaks: { force: 1600 },
  say: 'The winch rope breaks, under {force} N.',
})
box('second load', 'dynamic', 28.1, 11, 0.9, 0.9, 'crate', {}, { density: 60 })

// A claw that carries a crate across, and a lift on a slide.
box('carried crate', 'dynamic', 23, 0.45, 0.9, 0.9, 'crate', {}, { density: 20 })
joints.push({
  type: 'carry',
  name: 'claw',
  a: 'carried crate',
  at: at(23, 0.9),
  target: at(23, 0.9),
  force: 900,
  frequency: 2,
  damping: 1,
})
box('lift', 'dynamic', 30, 1, 2, 0.3, 'machine', {}, { density: 30, friction: 0.9 })
joints.push({
  type: 'slide',
  name: 'lift guide',
  a: 'lift',
  at: at(30, 1),
  axis: [0, 1],
  limits: { min: -0.8, max: 5 },
  motor: { speed: 0, force: 2000 },
})
// A bracket that is welded to the wall.
box('bracket', 'dynamic', 31.1, 6.4, 1.8, 0.25, 'machine', {}, { density: 20 })
joints.push({
  type: 'fixed',
  name: 'weld',
  a: 'bracket',
  b: 'east wall',
  at: at(32, 6.4),
  breaks: { force: 2500, torque: 900 },
  say: 'The weld of the bracket gives way, under {torque} Nm.',
})

const scene = {
  $schema: '../schema/scene.schema.json',
  format: 'keen-sentry-scene',
  version: 1,
  name: 'Lantern Reef: the sluice',
  about:
    'In the mine below the reef a gate opens on its hinge, boulders roll over a hanging walkway, a trolley drives on sprung wheels, a claw carries a crate to a lift, and a rope and a weld break.',
  dimension: '2d',
  rate: 60,
  ticks: 900,
  view: { min: [-1, -1], max: [33, 18] },
  layers: {
    names: ['rock', 'machine', 'chain', 'stone', 'crate'],
    otherwise: 'solid',
    pairs: [['chain', '*', 'pass']],
  },
  bodies,
  joints,
  actions: [
    { time: 1.5, do: 'motor', joint: 'gate hinge', motor: { speed: 1.2, torque: 900 } },
    { time: 2, do: 'motor', joint: 'axle of the hind wheel', motor: { speed: -6, torque: 120 } },
    { time: 3, do: 'aim', joint: 'claw', target: [25, 6] },
    { time: 5, do: 'aim', joint: 'claw', target: [30, 3] },
    { time: 7, do: 'release', joint: 'claw' },
    { time: 8, do: 'motor', joint: 'lift guide', motor: { speed: 1.5, force: 2000 } },
  ],
  watches: [
    {
      name: 'loads',
      a: { body: 'second load' },
      b: { body: 'load' },
      kinds: ['begin', 'end'],
      once: true,
      say: { begin: 'The second load comes down on the first.', end: 'The second load rolls off the first.' },
    },
    {
      name: 'walkway',
      a: 'stone',
      b: 'machine',
      over: { impulse: 12 },
      kinds: ['impact'],
      say: { impact: 'The {a} strikes the {b}, {impulse} Ns.' },
    },
    {
      name: 'crate',
      a: { body: 'carried crate' },
      b: { body: 'lift' },
      kinds: ['begin'],
      say: { begin: 'The crate is set down on the lift.' },
    },
    {
      name: 'bracket',
      a: { body: 'carried crate' },
      b: { body: 'bracket' },
      kinds: ['begin'],
      say: { begin: 'The lift presses the crate against the bracket.' },
    },
  ],
}
writeFileSync('scenes/sluice.json', `${JSON.stringify(scene, null, 2)}\n`)
