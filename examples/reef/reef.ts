/** The demo scene on a canvas: play, step, the events beside it, and what lies under the pointer. */

import { fixedClock } from 'keen-sentry'
import type { Body2 } from 'keen-sentry/2d'
import { drawWorld2, toCanvas, type View } from 'keen-sentry/draw'
import { playScene, readScene, type SceneKinds2 } from 'keen-sentry-scenes'
import scene from '../../scenes/lantern-reef.json' with { type: 'json' }
import { EventList } from '../shared/event-list.ts'
import { element, fit, theme } from '../shared/page.ts'

const checked = readScene(scene, '2d')

const canvas = element<HTMLCanvasElement>('view')
const pen = canvas.getContext('2d')!
const tip = element('tip')
const events = new EventList(element('events'), element('count'))
const playButton = element<HTMLButtonElement>('play')

let player = playScene(checked)
let clock = fixedClock(player.world.rate)
let playing = false
let speed = 1
let last = 0
let view: View | null = null
let pointer: { x: number; y: number } | null = null
let under: Body2<SceneKinds2> | null = null

element('about').textContent = checked.about ?? ''

function restart(): void {
  player = playScene(checked)
  clock = fixedClock(player.world.rate)
  under = null
  events.clear()
}

function setPlaying(value: boolean): void {
  playing = value
  playButton.textContent = playing ? 'Pause' : 'Play'
  last = 0
}

function step(): void {
  if (player.world.tick >= player.ticks) {
    setPlaying(false)
    return
  }
  events.tell(player, player.step())
}

/** The topmost body under the pointer: a ray of no length asks about a point. */
function bodyUnder(): Body2<SceneKinds2> | null {
  if (pointer === null || view === null) return null
  const at = { x: view.worldX(pointer.x), y: view.worldY(pointer.y) }
  const solid = player.world.raycast.all({ from: at, to: at })
  const found = solid.length > 0 ? solid : player.world.raycast.all({ from: at, to: at }, { sensors: true })
  return found.at(-1)?.body ?? null
}

function showTip(): void {
  under = bodyUnder()
  tip.hidden = under === null
  if (under === null || pointer === null) return
  const layers = [...new Set(under.colliders.flatMap((collider) => collider.layer))]
  const now = [...new Set(under.overlapping().map((overlap) => String(overlap.body)))]
  const name = document.createElement('b')
  name.textContent = String(under)
  const lines = [
    `${under.type} · ${layers.join(', ')}`,
    now.length > 0 ? `overlaps ${now.join(', ')}` : 'overlaps nothing that it may meet',
  ]
  tip.replaceChildren(
    name,
    ...lines.map((text) => {
      const line = document.createElement('div')
      line.textContent = text
      return line
    }),
  )
  const room = pointer.x + tip.offsetWidth + 24 < canvas.clientWidth
  const left = room ? pointer.x + 16 : pointer.x - tip.offsetWidth - 14
  tip.style.left = `${Math.max(4, left)}px`
  tip.style.top = `${Math.min(pointer.y + 14, canvas.clientHeight - tip.offsetHeight - 6)}px`
}

function draw(): void {
  const { width, height } = fit(canvas, pen)
  const { view: shown } = checked
  const items = drawWorld2(player.world, {
    view: shown && { min: { x: shown.min[0], y: shown.min[1] }, max: { x: shown.max[0], y: shown.max[1] } },
    rays: player.rays.flatMap(({ ray, from, to, hit }) => (from && to ? [{ name: ray.name, from, to, hit }] : [])),
    highlight: under,
    // The rays stand at the last tick, so between two ticks the bodies are only moved while playing.
    alpha: playing ? clock.alpha : 1,
  })
  view = toCanvas(items, pen, width, height, { theme: theme() })
  const { tick, time } = player.world
  element('clock').textContent = `tick ${tick} · ${time.toFixed(2)} s`
  element<HTMLProgressElement>('bar').value = tick / player.ticks
  element<HTMLButtonElement>('step').disabled = tick >= player.ticks
}

function frame(now: number): void {
  if (playing && last > 0) clock.advance(((now - last) / 1000) * speed, step)
  last = now
  showTip()
  draw()
  requestAnimationFrame(frame)
}

playButton.addEventListener('click', () => {
  if (player.world.tick >= player.ticks) restart()
  setPlaying(!playing)
})
element('step').addEventListener('click', () => {
  setPlaying(false)
  step()
})
element('restart').addEventListener('click', restart)
element<HTMLSelectElement>('speed').addEventListener('change', (event) => {
  speed = Number((event.target as HTMLSelectElement).value)
})
canvas.addEventListener('pointermove', (event) => {
  pointer = { x: event.offsetX, y: event.offsetY }
})
canvas.addEventListener('pointerleave', () => {
  pointer = null
})
requestAnimationFrame(frame)
