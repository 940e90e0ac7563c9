/** The salvage scene under forces: bodies that can be grabbed and thrown, gravity that turns, impulse and energy over time. */
import uPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import { fixedClock } from 'keen-sentry'
import type { Body2, Vec2 } from 'keen-sentry/2d'
import { drawWorld2, toCanvas, type View } from 'keen-sentry/draw'
import { playScene, readScene, type SceneKinds2 } from 'keen-sentry-scenes'
import scene from '../../scenes/salvage.json' with { type: 'json' }

const checked = readScene(scene, '2d')
/** Ticks that the plots show. */
const SHOWN = 600
/** How stiffly a grabbed body follows the pointer, as cycles a second. */
const CYCLES = 3

function element<T extends HTMLElement>(id: string): T {
  return document.getElementById(id) as T
}

const canvas = element<HTMLCanvasElement>('view')
const pen = canvas.getContext('2d')!
const list = element('events')
const playButton = element<HTMLButtonElement>('play')
const over = element<HTMLInputElement>('over')
const gravity = element<HTMLSelectElement>('gravity')

let player = playScene(checked)
let clock = fixedClock(player.world.rate)
let playing = false
let last = 0
let told = 0
let view: View | null = null
let pointer: { x: number; y: number } | null = null
/** The body that is held, where on it, and where it is wanted. */
let held: { body: Body2<SceneKinds2>; local: Vec2 } | null = null
let hardest = 0
const times: number[] = []
const impulses: number[] = []
const moving: number[] = []
const all: number[] = []

function axes(): uPlot.Axis[] {
  const look = {
    stroke: '#7f93a8',
    grid: { stroke: '#1c3042', width: 1 },
    ticks: { show: false },
    font: '11px sans-serif',
  }
  return [{ ...look }, { ...look, size: 44 }]
}

function plot(id: string, series: uPlot.Series[]): uPlot {
  const room = element(id)
  const size = { width: room.clientWidth - 16, height: room.clientHeight }
  const options = {
    ...size,
    legend: { show: false },
    cursor: { show: false },
    scales: { x: { time: false } },
    axes: axes(),
  }
  return new uPlot({ ...options, series: [{}, ...series] }, [[], ...series.map(() => [])] as uPlot.AlignedData, room)
}
const impulsePlot = plot('impulses', [{ stroke: '#ff8f70', fill: '#ff8f7030', width: 1.5 }])
const energyPlot = plot('energies', [
  { stroke: '#6cc4f5', width: 1.5 },
  { stroke: '#ffb545', width: 1.5 },
])

/** Hears of every strong contact of this world; made anew with the threshold. */
let watch = listen()
function listen() {
  const options = { over: { impulse: Number(over.value) } }
  return player.world.watch(
    '*',
    '*',
    { impact: (e) => strike(String(e.a), String(e.b), e.impulse, e.closingSpeed) },
    options,
  )
}

function strike(a: string, b: string, impulse: number, speed: number): void {
  hardest = Math.max(hardest, impulse)
  const item = document.createElement('li')
  item.className = 'impact'
  const when = document.createElement('time')
  when.textContent = `${player.world.time.toFixed(2)} s`
  const what = document.createElement('span')
  what.textContent = `${a} and ${b}`
  const small = document.createElement('small')
  small.textContent = `${impulse.toFixed(1)} Ns · ${speed.toFixed(1)} m/s`
  item.append(when, what, small)
  list.append(item)
  while (list.childElementCount > 200) list.firstElementChild!.remove()
  list.scrollTop = list.scrollHeight
  element('count').textContent = String(++told)
}

function turnGravity(): void {
  const [x, y] = gravity.value.split(',').map(Number)
  player.world.gravity = { x, y }
}

function restart(): void {
  player = playScene(checked)
  clock = fixedClock(player.world.rate)
  held = null
  told = 0
  list.replaceChildren()
  element('count').textContent = '0'
  for (const series of [times, impulses, moving, all]) series.length = 0
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
  hardest = 0
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
  times.push(world.time)
  impulses.push(hardest)
  moving.push(kinetic)
  all.push(whole)
  if (times.length > SHOWN) for (const series of [times, impulses, moving, all]) series.shift()
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
  impulsePlot.setData([times, impulses])
  energyPlot.setData([times, moving, all])
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
