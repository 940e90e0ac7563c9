/** The salvage scene under forces: bodies that can be grabbed and thrown, gravity that turns, impulse and energy over time. */
import { fixedClock } from 'keen-sentry'
import type { Body2, Vec2 } from 'keen-sentry/2d'
import { drawWorld2, toCanvas, type View } from 'keen-sentry/draw'
import { playScene, readScene, type SceneKinds2 } from 'keen-sentry-scenes'
import scene from '../../scenes/salvage.json' with { type: 'json' }
import { ImpactList, TimePlot } from '../shared/gauges.ts'
import { element } from '../shared/page.ts'

const checked = readScene(scene, '2d')
/** How stiffly a grabbed body follows the pointer, as cycles a second. */
const CYCLES = 3

const canvas = element<HTMLCanvasElement>('view')
const pen = canvas.getContext('2d')!
const playButton = element<HTMLButtonElement>('play')
const over = element<HTMLInputElement>('over')
const gravity = element<HTMLSelectElement>('gravity')

let player = playScene(checked)
let clock = fixedClock(player.world.rate)
let playing = false
let last = 0
let view: View | null = null
let pointer: { x: number; y: number } | null = null
/** The body that is held, where on it, and where it is wanted. */
let held: { body: Body2<SceneKinds2>; local: Vec2 } | null = null
const impacts = new ImpactList()
const impulsePlot = new TimePlot('impulses', [{ stroke: '#ff8f70', fill: '#ff8f7030' }])
const energyPlot = new TimePlot('energies', [{ stroke: '#6cc4f5' }, { stroke: '#ffb545' }])

/** Hears of every strong contact of this world; made anew with the threshold. */
let watch = listen()
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
  const [x, y] = gravity.value.split(',').map(Number)
  player.world.gravity = { x, y }
}

function restart(): void {
  player = playScene(checked)
  clock = fixedClock(player.world.rate)
  held = null
  for (const each of [impacts, impulsePlot, energyPlot]) each.clear()
  turnGravity()
  watch = listen()
}

function worldPoint(): Vec2 | null {
  return pointer === null || view === null ? null : { x: view.worldX(pointer.x), y: view.worldY(pointer.y) }
}

/** The held point of a body, in the world. */
function grip(body: Body2<SceneKinds2>, local: Vec2): Vec2 {
  const [cos, sin] = [Math.cos(body.angle), Math.sin(body.angle)]
  return { x: body.at.x + cos * local.x - sin * local.y, y: body.at.y + sin * local.x + cos * local.y }
}

/** Draws the held point after the pointer, as a damped spring does. */
function carry(): void {
  const to = worldPoint()
  if (held === null || to === null) return
  const { body, local } = held
  if (!body.alive || body.type !== 'dynamic') {
    held = null
    return
  }
  const at = grip(body, local)
  const speed = body.velocityAt(at)
  const omega = 2 * Math.PI * CYCLES
  const dt = player.world.dt
  const gain = body.mass * omega * dt * 0.6
  body.applyImpulse(
    { x: gain * (omega * (to.x - at.x) - 2 * speed.x) * 0.5, y: gain * (omega * (to.y - at.y) - 2 * speed.y) * 0.5 },
    at,
  )
}

function step(): void {
  carry()
  player.step()
  const { world } = player
  let kinetic = 0
  let whole = 0
  const pull = world.gravity
  for (const body of world.bodies()) {
    if (body.type !== 'dynamic') continue
    const { x, y } = body.velocity
    const motion = 0.5 * body.mass * (x * x + y * y) + 0.5 * body.inertia * body.spin ** 2
    const { centre } = body
    kinetic += motion
    whole += motion - body.mass * (pull.x * centre.x + pull.y * centre.y)
  }
  impulsePlot.push(world.time, impacts.takeHardest())
  energyPlot.push(world.time, kinetic, whole)
}

function setPlaying(value: boolean): void {
  playing = value
  playButton.textContent = playing ? 'Pause' : 'Play'
  last = 0
}

function draw(): void {
  const ratio = window.devicePixelRatio || 1
  const width = canvas.clientWidth
  const height = canvas.clientHeight
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
    canvas.width = Math.round(width * ratio)
    canvas.height = Math.round(height * ratio)
  }
  pen.setTransform(ratio, 0, 0, ratio, 0, 0)
  const shown = checked.view!
  const items = drawWorld2(player.world, {
    view: { min: { x: shown.min[0], y: shown.min[1] }, max: { x: shown.max[0], y: shown.max[1] } },
    highlight: held?.body ?? null,
    alpha: playing ? clock.alpha : 1,
  })
  view = toCanvas(items, pen, width, height)
  const to = worldPoint()
  if (held !== null && to !== null) {
    const at = grip(held.body, held.local)
    pen.strokeStyle = '#ffb545'
    pen.lineWidth = 2
    pen.beginPath()
    pen.moveTo(view.x(at.x), view.y(at.y))
    pen.lineTo(view.x(to.x), view.y(to.y))
    pen.stroke()
  }
  const { tick, time } = player.world
  element('clock').textContent = `tick ${tick} · ${time.toFixed(2)} s`
  const movable = player.world.bodies().filter((body) => body.type === 'dynamic')
  element('state').textContent = `${movable.filter((body) => body.asleep).length} of ${movable.length} bodies sleep`
  impulsePlot.draw()
  energyPlot.draw()
}

function frame(now: number): void {
  if (playing && last > 0) clock.advance((now - last) / 1000, step)
  last = now
  draw()
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
canvas.addEventListener('pointerdown', (event) => {
  pointer = { x: event.offsetX, y: event.offsetY }
  const at = worldPoint()!
  const near = player.world.nearest.all({ point: at, reach: 0.4 }).find((hit) => hit.body.type === 'dynamic')
  if (near === undefined) return
  const { body } = near
  const [cos, sin] = [Math.cos(body.angle), Math.sin(body.angle)]
  const [x, y] = [at.x - body.at.x, at.y - body.at.y]
  held = { body, local: { x: cos * x + sin * y, y: cos * y - sin * x } }
  canvas.classList.add('held')
  canvas.setPointerCapture(event.pointerId)
})
canvas.addEventListener('pointermove', (event) => {
  pointer = { x: event.offsetX, y: event.offsetY }
})
canvas.addEventListener('pointerup', () => {
  held = null
  canvas.classList.remove('held')
})
requestAnimationFrame(frame)
