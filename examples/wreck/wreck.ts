/** The wreck under forces in 3D: bodies to grab and throw, gravity that turns, impulse and energy over time. */
import { fixedClock } from 'keen-sentry'
import { type Body3, rotated, type Vec3 } from 'keen-sentry/3d'
import { drawWorld3 } from 'keen-sentry/draw'
import { playScene, readScene, type SceneKinds3 } from 'keen-sentry-scenes'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'
import scene from '../../scenes/wreck.json' with { type: 'json' }
import { ImpactList, TimePlot } from '../shared/gauges.ts'
import { Hand } from '../shared/hand3.ts'
import { Names } from '../shared/names3.ts'
import { overlay, update } from '../shared/overlay.ts'
import { element } from '../shared/page.ts'
import { View } from '../shared/view3.ts'

const checked = readScene(scene, '3d')
const canvas = element<HTMLCanvasElement>('view')
const playButton = element<HTMLButtonElement>('play')
const over = element<HTMLInputElement>('over')
const gravity = element<HTMLSelectElement>('gravity')

const view = new View<SceneKinds3>(canvas)
const names = new Names(canvas, view.camera)
const orbit = new OrbitControls(view.camera, canvas)
const { eye, target } = checked.view!
view.camera.position.set(eye[0], eye[1], eye[2])
orbit.target.set(target[0], target[1], target[2])
orbit.enableDamping = true
const hand = new Hand<SceneKinds3>(canvas, view.camera)
const NOBODY: ReadonlySet<Body3<SceneKinds3>> = new Set()

const impacts = new ImpactList()
const impulsePlot = new TimePlot('impulses', [{ stroke: '#ff8f70', fill: '#ff8f7030' }])
const energyPlot = new TimePlot('energies', [{ stroke: '#6cc4f5' }, { stroke: '#ffb545' }])

let player = start()
let watch = listen()
let clock = fixedClock(player.world.rate)
let playing = false
let last = 0

function start() {
  const made = playScene(checked)
  view.fill(made.world)
  return made
}

/** Hears of every strong contact of this world; made anew with the threshold. */
function listen() {
  const options = { over: { impulse: Number(over.value) } }
  return player.world.watch(
    '*',
    '*',
    { impact: (e) => impacts.add(e.time, e.a, e.b, e.impulse, e.closingSpeed) },
    options,
  )
}

function turnGravity(): void {
  const [x, y, z] = gravity.value.split(',').map(Number)
  player.world.gravity = { x, y, z }
}

function restart(): void {
  hand.release()
  player = start()
  clock = fixedClock(player.world.rate)
  for (const each of [impacts, impulsePlot, energyPlot]) each.clear()
  turnGravity()
  watch = listen()
}

const dot = (a: Vec3, b: Vec3): number => a.x * b.x + a.y * b.y + a.z * b.z

/** The energy of a body's motion, joules: of its centre, and of its turning about it. */
function motionOf(body: Body3<SceneKinds3>): number {
  const { x, y, z, w } = body.rotation
  const spin = rotated({ x: -x, y: -y, z: -z, w }, body.spin)
  const { xx, yy, zz, xy, xz, yz } = body.inertia
  const momentum = {
    x: xx * spin.x + xy * spin.y + xz * spin.z,
    y: xy * spin.x + yy * spin.y + yz * spin.z,
    z: xz * spin.x + yz * spin.y + zz * spin.z,
  }
  return 0.5 * body.mass * dot(body.velocity, body.velocity) + 0.5 * dot(spin, momentum)
}

function step(): void {
  const { world } = player
  hand.follow()
  player.step()
  let kinetic = 0
  let height = 0
  for (const body of world.bodies()) {
    if (body.type !== 'dynamic') continue
    kinetic += motionOf(body)
    height -= body.mass * dot(world.gravity, body.centre)
  }
  impulsePlot.push(world.time, impacts.takeHardest())
  energyPlot.push(world.time, kinetic, kinetic + height)
}

function setPlaying(value: boolean): void {
  playing = value
  playButton.textContent = playing ? 'Pause' : 'Play'
}

const ORIGIN = { x: 0, y: 0, z: 0 }
const lines = overlay({ title: '', caption: '', min: ORIGIN, max: ORIGIN, items: [], legend: [] })
view.scene.add(lines)

/** Contacts with their impulses, and the hand that holds something. */
function drawLines(): void {
  const list = drawWorld3(player.world, { labels: false, where: (body) => body.type === 'dynamic' })
  const contacts = element<HTMLInputElement>('contacts').checked
  update(lines, { ...list, items: list.items.filter(({ kind }) => kind === 'line' || (contacts && kind !== 'solid')) })
}

function frame(now: number): void {
  if (playing && last > 0) clock.advance((now - last) / 1000, step)
  last = now
  orbit.update()
  view.move(playing ? clock.alpha : 1, NOBODY)
  drawLines()
  view.draw()
  names.draw(element<HTMLInputElement>('names').checked ? player.world.bodies() : [], hand.body)
  impulsePlot.draw()
  energyPlot.draw()
  const { tick, time } = player.world
  element('clock').textContent = `tick ${tick} · ${time.toFixed(2)} s`
  const movable = player.world.bodies().filter((body) => body.type === 'dynamic')
  const holds = hand.body === null ? '' : `holds ${hand.body} · `
  element('state').textContent =
    `${holds}${movable.filter((body) => body.asleep).length} of ${movable.length} bodies sleep`
  requestAnimationFrame(frame)
}

playButton.addEventListener('click', () => setPlaying(!playing))
element('step').addEventListener('click', () => {
  setPlaying(false)
  step()
})
element('restart').addEventListener('click', restart)
gravity.addEventListener('change', turnGravity)
over.addEventListener('input', () => {
  element('over-text').textContent = `${over.value} Ns`
  watch.stop()
  watch = listen()
})

canvas.addEventListener(
  'pointerdown',
  (event) => {
    hand.aim(event)
    if (!hand.grab(player.world)) return
    // What is grabbed does not turn the camera.
    event.stopImmediatePropagation()
    orbit.enabled = false
    canvas.classList.add('held')
    canvas.setPointerCapture(event.pointerId)
    setPlaying(true)
  },
  { capture: true },
)
canvas.addEventListener('pointermove', (event) => hand.aim(event))
canvas.addEventListener('wheel', (event) => hand.pull(event.deltaY > 0 ? 1.08 : 1 / 1.08), { passive: true })
for (const kind of ['pointerup', 'pointercancel'] as const) {
  canvas.addEventListener(kind, () => {
    hand.release()
    orbit.enabled = true
    canvas.classList.remove('held')
  })
}
requestAnimationFrame(frame)
