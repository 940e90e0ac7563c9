/** A rover's hull on four ray springs over dunes: it settles, drives and climbs; with less damping it bounces for longer. */
import {
  type Body3,
  box,
  createWorld,
  defineLayers,
  heightfield,
  rotated,
  type Vec3,
  type World3,
} from 'keen-sentry/3d'

const layers = defineLayers(['rock', 'rover'])
const columns = 41
const heights = Array.from({ length: columns * columns }, (_, i) => {
  const [x, z] = [(i % columns) - 20, Math.floor(i / columns) - 20]
  return 0.35 * Math.sin(0.5 * x) * Math.cos(0.4 * z)
})

/** Where the legs are on the hull, and how long they are with nothing on them. */
const MOUNTS = [-1, 1].flatMap((x) => [-1, 1].map((z) => ({ x: 0.8 * x, y: -0.2, z: 1.1 * z })))
const LENGTH = 0.9

interface Springs {
  /** Newtons a metre. */
  readonly stiffness: number
  /** Newtons at a metre a second. */
  readonly damping: number
}

const dot = (a: Vec3, b: Vec3): number => a.x * b.x + a.y * b.y + a.z * b.z
const scaled = (v: Vec3, by: number): Vec3 => ({ x: v.x * by, y: v.y * by, z: v.z * by })
const sum = (...parts: Vec3[]): Vec3 =>
  parts.reduce((a, b) => ({ x: a.x + b.x, y: a.y + b.y, z: a.z + b.z }), { x: 0, y: 0, z: 0 })

/** Before each step: what the four legs do. Returns how many stand on the ground. */
function ride(world: World3, rover: Body3, { stiffness, damping }: Springs, throttle: number): number {
  const down = rotated(rover.rotation, { x: 0, y: -1, z: 0 })
  const right = rotated(rover.rotation, { x: 1, y: 0, z: 0 })
  let standing = 0
  for (const mount of MOUNTS) {
    const from = sum(rover.at, rotated(rover.rotation, mount))
    const hit = world.raycast.first({ from, by: scaled(down, LENGTH) }, { except: rover })
    if (hit === null) continue
    standing++
    const velocity = rover.velocityAt(from)
    // The spring, and what slows it; a leg never pulls.
    const push = Math.max(0, stiffness * (LENGTH - hit.distance) + damping * dot(velocity, down))
    // Along the ground: the motor forwards, and a grip that lets nothing slide aside.
    const ahead = rotated(rover.rotation, { x: 0, y: 0, z: -1 })
    const along = sum(ahead, scaled(hit.normal, -dot(ahead, hit.normal)))
    const grip = scaled(right, -60 * dot(velocity, right))
    rover.applyForce(sum(scaled(down, -push), scaled(along, throttle), grip), from)
  }
  return standing
}

function drive(springs: Springs) {
  const world = createWorld({ layers })
  const ground = heightfield({ columns, rows: columns, heights, cell: 1 })
  world.add({ type: 'static', colliders: [{ shape: ground, layer: 'rock' }] })
  const rover = world.add({
    type: 'dynamic',
    at: { x: 0, y: 2.2, z: 8 },
    sleeps: false,
    colliders: [{ shape: box(1.6, 0.4, 2.4), layer: 'rover', density: 30 }],
  })
  let struck = 0
  world.watch(rover, 'rock', { begin: () => struck++ })
  // It comes down from a metre: how often does it rise again?
  let rises = 0
  let rising = false
  for (let tick = 0; tick < 240; tick++) {
    ride(world, rover, springs, 0)
    world.step()
    if (!rising && rover.velocity.y > 0.05) rises++
    rising = rover.velocity.y > 0.05
  }
  const stood = rover.at
  let steepest = 0
  for (let tick = 0; tick < 300; tick++) {
    ride(world, rover, springs, 18)
    world.step()
    steepest = Math.max(steepest, Math.acos(rotated(rover.rotation, { x: 0, y: 1, z: 0 }).y))
  }
  const way = Math.hypot(rover.at.x - stood.x, rover.at.z - stood.z)
  return { rises, height: stood.y, way, steepest, struck }
}

for (const damping of [160, 60, 30]) {
  const { rises, height, way, steepest, struck } = drive({ stiffness: 900, damping })
  console.log(
    `damping ${damping}: rises ${rises} times, stands at ${height.toFixed(2)} m, drives ${way.toFixed(1)} m, leans by ${((steepest * 180) / Math.PI).toFixed(0)} degrees, ${struck === 0 ? 'never touches the ground' : `touches the ground ${struck} times`}`,
  )
}
