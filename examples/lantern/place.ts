/** A level as a world: rock, water that flows, air, and the things that move by themselves. */
import {
  type BodyOf,
  box,
  capsule,
  circle,
  createWorld,
  defineLayers,
  ofType,
  polygon,
  tiles,
  type Vec2,
} from 'keen-sentry/2d'
import type { Area, Level } from './levels.ts'

// tour: layers
const layers = defineLayers(['rock', 'craft', 'cargo', 'debris', 'charge', 'gate', 'jelly', 'pearl', 'zone'], {
  pairs: [
    ['zone', '*', 'sense'],
    ['zone', 'zone', 'pass'],
    ['pearl', '*', 'pass'],
    ['pearl', 'craft', 'sense'],
    ['jelly', '*', 'pass'],
    ['jelly', 'craft', 'sense'],
    ['gate', 'rock', 'pass'],
    ['charge', 'craft', 'pass'],
  ],
})
// end

/** How much of gravity is left under water, and how much water slows down. */
const SINKS = 0.25
const DRAG = 0.8
/** Radians to which a pendulum swings. */
const SWING = 0.38

const CORNERS = [
  { x: 0, y: 0 },
  { x: 1, y: 0 },
  { x: 1, y: 1 },
  { x: 0, y: 1 },
]
/** Rock in three of the four corners of a cell. */
const without = (corner: number) => ({ shape: CORNERS.filter((_, i) => i !== corner), firm: true })

/** What a body is: what the tour says of it, and what the picture shows. */
export type Thing =
  | 'rock'
  | 'craft'
  | 'lantern'
  | 'crate'
  | 'debris'
  | 'charge'
  | 'gate'
  | 'door'
  | 'plate'
  | 'pendulum'
  | 'jelly'
  | 'pearl'
  | 'air'
  | 'current'
  | 'goal'
  | 'hint'

export type Place = ReturnType<typeof openPlace>
export type GameWorld = ReturnType<typeof newWorld>
export type GameBody = BodyOf<GameWorld>
export type GameJoint = ReturnType<GameWorld['join']>

/** What is known of a body besides. */
interface Data {
  thing: Thing
  /** What the radio says, and what it says on a screen without keys. */
  text?: string
  touch?: string
  /** How a current pushes, in metres a second squared. */
  push?: Vec2
}

const newWorld = () => createWorld({ layers, data: ofType<Data>() })

export function openPlace(level: Level) {
  const world = newWorld()
  const counts = new Map<string, number>()
  /** Names of bodies are unique: the first of a name has none but that. */
  const named = (name: string): string => {
    const count = (counts.get(name) ?? 0) + 1
    counts.set(name, count)
    return count === 1 ? name : `${name} ${count}`
  }

  // tour: rock
  const rock = world.add({
    type: 'static',
    name: 'rock',
    data: { thing: 'rock' },
    colliders: [
      {
        layer: 'rock',
        shape: tiles({
          rows: level.rows,
          kinds: { '#': { firm: true }, '%': {}, '/': without(3), '\\': without(2), '(': without(1), ')': without(0) },
        }),
      },
    ],
  })
  // end

  const zone = (thing: Thing, name: string, { x, y, width, height }: Area, more: Partial<Data> = {}) =>
    world.add({
      type: 'static',
      name: named(name),
      data: { thing, ...more },
      at: { x: x + width / 2, y: y + height / 2 },
      colliders: [{ shape: box(width, height), layer: 'zone' }],
    })
  const pockets = level.pockets.map((area) => zone('air', 'air pocket', area))
  const goal = zone('goal', level.docks ? 'dock' : 'socket', level.goal)
  for (const area of level.currents) zone('current', 'current', area, { push: area.push })
  for (const { text, touch, ...area } of level.hints) {
    zone('hint', 'hint', area, touch === undefined ? { text } : { text, touch })
  }

  // tour: cargo
  const cargo = (thing: Thing, name: string, at: Vec2) =>
    world.add({
      type: 'dynamic',
      name: named(name),
      data: { thing },
      at,
      gravityScale: SINKS,
      damping: DRAG,
      spinDamping: 2,
      colliders: [
        { shape: thing === 'lantern' ? circle(0.45) : box(0.9, 0.9), layer: 'cargo', density: 9, friction: 0.6 },
      ],
    })
  // end
  const lantern = cargo('lantern', 'lantern', level.lantern)
  for (const at of level.crates) cargo('crate', 'crate', at)

  // tour: pearl
  for (const at of level.pearls) {
    world.add({
      type: 'static',
      name: named('pearl'),
      data: { thing: 'pearl' },
      at,
      colliders: [{ shape: circle(0.3), layer: 'pearl' }],
    })
  }
  // end

  // tour: gate
  for (const { at, length } of level.gates) {
    const gate = world.add({
      type: 'dynamic',
      name: named('gate'),
      data: { thing: 'gate' },
      at: { x: at.x, y: at.y - length / 2 },
      gravityScale: SINKS,
      spinDamping: 0.6,
      colliders: [{ shape: box(0.4, length), layer: 'gate', density: 12 }],
    })
    world.join({ type: 'hinge', a: rock, b: gate, at, name: 'gate', limits: { min: -1.4, max: 1.4 } })
  }
  // end

  // tour: door
  for (const { at, height, plate } of level.doors) {
    const door = world.add({
      type: 'dynamic',
      name: named('door'),
      data: { thing: 'door' },
      at,
      colliders: [{ shape: box(0.7, height), layer: 'gate', density: 20 }],
    })
    const slide = world.join({
      type: 'slide',
      a: rock,
      b: door,
      at,
      axis: { x: 0, y: 1 },
      name: 'door',
      limits: { min: 0, max: height - 0.3 },
      motor: { speed: -1, force: 2000 },
    })
    const pad = zone('plate', 'plate', { ...plate, height: plate.height + 0.4 })
    world.watch('cargo', pad, {
      begin: () => {
        slide.motor = { speed: 1.2, force: 2000 }
      },
      end: () => {
        slide.motor = { speed: -1, force: 2000 }
      },
    })
  }
  // end

  // tour: pendulum
  const pendulums = level.pendulums.map(({ at, length, radius }) => {
    const out = SWING
    const ball = world.add({
      type: 'dynamic',
      name: named('pendulum'),
      data: { thing: 'pendulum' },
      at: { x: at.x + length * Math.sin(out), y: at.y - length * Math.cos(out) },
      gravityScale: 0.5,
      colliders: [{ shape: circle(radius), layer: 'gate', density: 40 }],
    })
    world.join({ type: 'distance', a: rock, b: ball, atA: at, atB: ball.at, min: length, max: length, name: 'chain' })
    return { ball, height: ball.at.y }
  })
  // end

  // tour: jelly
  const jellies = level.jellies.map(({ at, way }) => ({
    body: world.add({
      type: 'kinematic',
      name: named('jelly'),
      data: { thing: 'jelly' },
      at,
      colliders: [{ shape: capsule({ x: 0, y: 0.2 }, { x: 0, y: -0.5 }, 0.45), layer: 'jelly' }],
    }),
    at,
    way,
  }))
  // end

  return {
    world,
    level,
    rock,
    ground: rock.colliders[0],
    lantern,
    goal,
    pockets,
    /** Before each tick: what moves by itself. */
    prepare(): void {
      const { time } = world
      // tour: jelly
      for (const [i, { body, at, way }] of jellies.entries()) {
        const part = Math.sin(0.7 * time + 2 * i)
        body.arriveAt({ x: at.x + way.x * part, y: at.y + way.y * part })
      }
      // end
      // tour: pendulum
      // Set going again where it has lost energy.
      for (const { ball, height } of pendulums) {
        const { x, y } = ball.velocity
        const fall = -world.gravity.y * ball.gravityScale
        if (x * x + y * y < 2 * fall * (height - ball.at.y)) ball.applyForce({ x: Math.sign(x || 1) * ball.mass, y: 0 })
      }
      // end
    },
    /** Rock that hangs on nothing any more. */
    fall(piece: ReturnType<(typeof rock.colliders)[0]['carve']>['pieces'][number]): void {
      const { shape, at, angle } = piece
      world.add({
        type: 'dynamic',
        name: named('rubble'),
        data: { thing: 'debris' },
        at,
        angle,
        gravityScale: 2 * SINKS,
        damping: DRAG,
        colliders: [{ shape, layer: 'debris', density: 4 }],
      })
    },
    /** A charge that sinks. */
    drop(at: Vec2, velocity: Vec2): GameBody {
      return world.add({
        type: 'dynamic',
        name: named('charge'),
        data: { thing: 'charge' },
        at,
        velocity,
        gravityScale: 2 * SINKS,
        damping: DRAG,
        spinDamping: 3,
        colliders: [{ shape: circle(0.25), layer: 'charge', density: 3, friction: 0.9 }],
      })
    },
    /** The craft: a hull, a cabin and a keel. */
    launch(): GameBody {
      // tour: craft
      return world.add({
        type: 'dynamic',
        name: 'lantern craft',
        data: { thing: 'craft' },
        at: level.start,
        mass: 60,
        gravityScale: 0,
        damping: 1.6,
        colliders: [
          { shape: capsule({ x: -0.75, y: 0 }, { x: 0.75, y: 0 }, 0.5), layer: 'craft', friction: 0.2 },
          { shape: circle(0.42), at: { x: 0, y: 0.45 }, layer: 'craft', friction: 0.2 },
          {
            shape: polygon([
              { x: -0.5, y: -0.65 },
              { x: 0.5, y: -0.65 },
              { x: 0.3, y: -0.4 },
              { x: -0.3, y: -0.4 },
            ]),
            layer: 'craft',
            friction: 0.2,
          },
        ],
      })
      // end
    },
  }
}
