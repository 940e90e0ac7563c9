/** A rover on four ray springs over dunes: how stiff they are and how much they damp is for the sliders to say. */
import { fixedClock } from 'keen-sentry'
import { type Body3, box, compound, createWorld, defineLayers, heightfield, rotated, type Vec3 } from 'keen-sentry/3d'
import { CylinderGeometry, Mesh, MeshLambertMaterial, Vector3 } from 'three'
import { TimePlot } from '../shared/gauges.ts'
import { Names } from '../shared/names3.ts'
import { element } from '../shared/page.ts'
import { View } from '../shared/view3.ts'
import { type Leg, ride } from './springs.ts'

const COLUMNS = 121
const MIDDLE = (COLUMNS - 1) / 2
/** Dunes, a flat place to begin on, and a rim that keeps the rover in. */
const heights = Array.from({ length: COLUMNS * COLUMNS }, (_, i) => {
  const [x, z] = [(i % COLUMNS) - MIDDLE, Math.floor(i / COLUMNS) - MIDDLE]
  const far = Math.hypot(x, z)
  const dunes = 0.5 * Math.sin(0.35 * x) * Math.cos(0.28 * z) + 0.16 * Math.sin(1.3 * x + 0.4 * z) * Math.sin(0.9 * z)
  return dunes * Math.min(1, Math.max(0, (far - 4) / 6)) + 0.02 * Math.max(0, far - 46) ** 2
})

const layers = defineLayers(['rock', 'rover'])
const world = createWorld({ layers })
world.add({
  type: 'static',
  name: 'dunes',
  colliders: [{ shape: heightfield({ columns: COLUMNS, rows: COLUMNS, heights, cell: 1 }), layer: 'rock' }],
})
const shape = compound([{ shape: box(1.6, 0.35, 2.6) }, { shape: box(1.1, 0.5, 1), at: { x: 0, y: 0.4, z: -0.2 } }])
const rover = world.add({
  type: 'dynamic',
  name: 'rover',
  at: { x: 0, y: 2.5, z: 0 },
  sleeps: false,
  spinDamping: 0.4,
  colliders: [{ shape, layer: 'rover', density: 30, friction: 0.4 }],
})
let struck = 0
world.watch(rover, 'rock', { begin: () => element('struck').replaceChildren(String(++struck)) })

const canvas = element<HTMLCanvasElement>('view')
const view = new View<typeof world extends { bodies(): Body3<infer K>[] } ? K : never>(canvas)
view.fill(world)
const names = new Names(canvas, view.camera)
const RADIUS = 0.32
const wheels = Array.from({ length: 4 }, () => {
  const geometry = new CylinderGeometry(RADIUS, RADIUS, 0.24, 20)
  geometry.rotateZ(Math.PI / 2)
  const wheel = new Mesh(geometry, new MeshLambertMaterial({ color: 0x26323d }))
  view.scene.add(wheel)
  return wheel
})

const slider = (id: string): HTMLInputElement => element<HTMLInputElement>(id)
const loads = new TimePlot(
  'loads',
  ['#6cc4f5', '#ffb545', '#43cf9f', '#f491bd'].map((stroke) => ({ stroke })),
)
const lift = new TimePlot('height', [{ stroke: '#ece27a' }])
const clock = fixedClock(world.rate)
const keys = new Set<string>()
let legs: readonly Leg[] = []
let steering = 0
let last = 0

/** How hard the keys or buttons press a way: -1, 0 or 1. */
const pressed = (more: string, less: string): number => Number(keys.has(more)) - Number(keys.has(less))

function step(): void {
  // The front wheels turn towards what is asked, and not at once.
  steering += Math.max(-0.04, Math.min(0.04, 0.5 * pressed('ArrowLeft', 'ArrowRight') - steering))
  legs = ride(world, rover, {
    stiffness: Number(slider('stiffness').value),
    damping: Number(slider('damping').value),
    throttle: 70 * pressed('ArrowUp', 'ArrowDown'),
    steering,
  })
  world.step()
  loads.push(world.time, ...legs.map(({ push }) => push))
  lift.push(world.time, rover.at.y)
}

/** Sets it down again, upright, from a metre and a half above where it is. */
function drop(): void {
  const ahead = rotated(rover.rotation, { x: 0, y: 0, z: -1 })
  const half = Math.atan2(-ahead.x, -ahead.z) / 2
  const { x, y, z } = rover.at
  rover.teleport({ at: { x, y: y + 1.5, z }, rotation: { x: 0, y: Math.sin(half), z: 0, w: Math.cos(half) } })
  rover.velocity = { x: 0, y: 0, z: 0 }
  rover.spin = { x: 0, y: 0, z: 0 }
}

const pose = { at: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }
const eye = new Vector3(0, 4, 9)
const NOBODY: ReadonlySet<never> = new Set()

/** Behind the rover and above it, and softly so. */
function follow(): void {
  const { at, rotation } = rover.poseAt(clock.alpha, pose)
  const back = rotated(rotation, { x: 0, y: 0, z: 1 })
  const length = Math.hypot(back.x, back.z) || 1
  eye.lerp(new Vector3(at.x + (7 * back.x) / length, at.y + 3.2, at.z + (7 * back.z) / length), 0.06)
  view.camera.position.copy(eye)
  view.camera.lookAt(at.x, at.y + 0.3, at.z)
  const side = rotated(rotation, { x: 1, y: 0, z: 0 })
  for (const [i, leg] of legs.entries()) placeWheel(wheels[i], leg, i < 2 ? steering : 0, side)
}

function placeWheel(wheel: (typeof wheels)[number], { from, foot }: Leg, turn: number, side: Vec3): void {
  // Its rim is on the ground.
  const length = Math.hypot(from.x - foot.x, from.y - foot.y, from.z - foot.z)
  wheel.position.copy(foot).lerp(new Vector3(from.x, from.y, from.z), RADIUS / length)
  wheel.quaternion.copy(rover.rotation)
  wheel.rotateY(turn)
  // Outside the hull.
  const out = wheels.indexOf(wheel) % 2 === 0 ? -0.15 : 0.15
  wheel.position.add(new Vector3(side.x * out, side.y * out, side.z * out))
}

function frame(now: number): void {
  if (last > 0) clock.advance((now - last) / 1000, step)
  last = now
  view.move(clock.alpha, NOBODY)
  follow()
  view.draw()
  names.draw(world.bodies())
  loads.draw()
  lift.draw()
  const speed = Math.hypot(rover.velocity.x, rover.velocity.z)
  const standing = legs.filter(({ push }) => push > 0).length
  element('state').textContent = `${speed.toFixed(1)} m/s · ${standing} of 4 legs carry · ${rover.mass.toFixed(0)} kg`
  element('clock').textContent = `tick ${world.tick} · ${world.time.toFixed(2)} s`
  requestAnimationFrame(frame)
}

function tellRatio(): void {
  const [stiffness, damping] = [Number(slider('stiffness').value), Number(slider('damping').value)]
  element('stiffness-text').textContent = `${stiffness} N/m`
  element('damping-text').textContent = `${damping} Ns/m`
  // Four legs carry one hull.
  const rate = Math.sqrt((4 * stiffness) / rover.mass)
  const ratio = (4 * damping) / (2 * rover.mass * rate)
  element('ratio').textContent =
    `${(rate / (2 * Math.PI)).toFixed(2)} cycles a second, damping ratio ${ratio.toFixed(2)}`
}

for (const id of ['stiffness', 'damping']) slider(id).addEventListener('input', tellRatio)
element('drop').addEventListener('click', drop)
for (const button of document.querySelectorAll<HTMLButtonElement>('[data-key]')) {
  const key = button.dataset['key']!
  button.addEventListener('pointerdown', (event) => {
    button.setPointerCapture(event.pointerId)
    keys.add(key)
  })
  for (const kind of ['pointerup', 'pointercancel']) button.addEventListener(kind, () => keys.delete(key))
}
window.addEventListener('keydown', (event) => {
  if (!event.key.startsWith('Arrow') || event.target instanceof HTMLInputElement) return
  event.preventDefault()
  keys.add(event.key)
})
window.addEventListener('keyup', (event) => keys.delete(event.key))
window.addEventListener('blur', () => keys.clear())
tellRatio()
requestAnimationFrame(frame)
