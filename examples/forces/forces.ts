/** The salvage scene under forces: bodies that can be grabbed and thrown, gravity that turns, impulse and energy over time. */
import { fixedClock } from 'keen-sentry'
import type { Vec2 } from 'keen-sentry/2d'
import { drawWorld2, toCanvas, type View } from 'keen-sentry/draw'
import { playScene, readScene, type SceneKinds2 } from 'keen-sentry-scenes'
import scene from '../../scenes/salvage.json' with { type: 'json' }
import { ImpactList, TimePlot } from '../shared/gauges.ts'
import { Hand2 } from '../shared/hand2.ts'
import { element, fit, theme } from '../shared/page.ts'

const checked = readScene(scene, '2d')

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
const hand = new Hand2<SceneKinds2>()
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
  hand.release()
  player = playScene(checked)
  clock = fixedClock(player.world.rate)
  for (const each of [impacts, impulsePlot, energyPlot]) each.clear()
  turnGravity()
  watch = listen()
}

function step(): void {
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
  const { width, height } = fit(canvas, pen)
  const shown = checked.view!
  const items = drawWorld2(player.world, {
    view: { min: { x: shown.min[0], y: shown.min[1] }, max: { x: shown.max[0], y: shown.max[1] } },
    highlight: hand.body,
    alpha: playing ? clock.alpha : 1,
  })
  view = toCanvas(items, pen, width, height, { theme: theme() })
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
const pointOf = (event: PointerEvent): Vec2 => ({ x: view!.worldX(event.offsetX), y: view!.worldY(event.offsetY) })

canvas.addEventListener('pointerdown', (event) => {
  if (!hand.grab(player.world, pointOf(event))) return
  canvas.classList.add('held')
  canvas.setPointerCapture(event.pointerId)
})
canvas.addEventListener('pointermove', (event) => {
  if (playing) hand.aim(pointOf(event))
  else hand.put(pointOf(event))
})
for (const kind of ['pointerup', 'pointercancel'] as const) {
  canvas.addEventListener(kind, () => {
    hand.release()
    canvas.classList.remove('held')
  })
}
requestAnimationFrame(frame)
