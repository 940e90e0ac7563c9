/** Drag a ray, a moving shape, a standing shape or a point through the demo scene; modes and filter live. */

import { type AskingShape2, box, capsule, circle, compound, polygon, type Vec2 } from 'keen-sentry/2d'
import {
  drawWorld2,
  layerColour,
  type Question2,
  questionItems2,
  type ShownHit2,
  toCanvas,
  type View,
} from 'keen-sentry/draw'
import { playScene, readScene } from 'keen-sentry-scenes'
import scene from '../../scenes/lantern-reef.json' with { type: 'json' }
import { element, fit, theme } from '../shared/page.ts'

type Kind = Question2['kind']

const checked = readScene(scene, '2d')
const SHAPES: Record<string, AskingShape2> = {
  circle: circle(0.9),
  box: box(2.2, 1),
  capsule: capsule({ x: -0.9, y: 0 }, { x: 0.9, y: 0 }, 0.5),
  polygon: polygon([
    { x: -1.3, y: -0.8 },
    { x: 1.4, y: 0 },
    { x: -1.3, y: 0.8 },
    { x: -0.6, y: 0 },
  ]),
  compound: compound([{ shape: box(2, 0.5) }, { shape: circle(0.6), at: { x: 1.2, y: 0 } }]),
}
const DIGITS = 2
/** Pixels around a handle in which it is taken. */
const GRAB = 18

const field = (id: string): HTMLInputElement => element<HTMLInputElement>(id)

const canvas = element<HTMLCanvasElement>('view')
const pen = canvas.getContext('2d')!
const handles: Record<'from' | 'to' | 'at', { x: number; y: number }> = {
  from: { x: 6, y: 13.2 },
  to: { x: 36, y: 1.6 },
  at: { x: 22.5, y: 8.2 },
}
let kind: Kind = 'ray'
let player = playScene(checked)
let view: View | null = null
let dragged: { x: number; y: number } | null = null

function goTo(tick: number): void {
  if (tick < player.world.tick) player = playScene(checked)
  while (player.world.tick < tick) player.step()
}

function chosenLayers(): string[] {
  return [...document.querySelectorAll<HTMLInputElement>('#layers input:checked')].map((each) => each.value)
}

interface Answer extends ShownHit2 {
  readonly text: string
  readonly detail: string
}

function ask(): { question: Question2; answers: Answer[]; any: boolean | null; call: string } {
  const { world } = player
  const { from, to, at } = handles
  const mode = field('mode').value
  const sensors = field('sensors').value
  const layers = chosenLayers()
  const filter = {
    ...(layers.length < world.layers.all.length ? { layers } : {}),
    ...(sensors === 'false' ? {} : { sensors: sensors === 'only' ? ('only' as const) : true }),
  }
  const shape = SHAPES[field('shape').value]
  const angle = Number(field('angle').value)
  const turn = Number(field('turn').value)
  const reach = Number(field('reach').value)
  const filterText = Object.keys(filter).length === 0 ? '' : `, ${JSON.stringify(filter)}`
  const written = (point: Vec2): string => `{ x: ${point.x.toFixed(1)}, y: ${point.y.toFixed(1)} }`
  const where = (hit: { point: Vec2 }): string => `at ${hit.point.x.toFixed(DIGITS)}, ${hit.point.y.toFixed(DIGITS)}`
  const named = (hit: { body: object; collider: { index: number } }): string =>
    `${hit.body} · collider ${hit.collider.index}`
  const some = <T>(first: () => T | null, all: () => T[]): T[] => {
    if (mode === 'all') return all()
    const hit = first()
    return hit === null ? [] : [hit]
  }
  let question: Question2
  let answers: Answer[]
  let call: string
  if (kind === 'ray') {
    const ray = { from, to }
    question = { kind, from, to }
    answers = some(
      () => world.raycast.first(ray, filter),
      () => world.raycast.all(ray, filter),
    ).map((hit) => ({
      ...hit,
      text: named(hit),
      detail: `${hit.distance.toFixed(DIGITS)} m · fraction ${hit.fraction.toFixed(3)} · ${hit.startedInside ? 'starts inside' : where(hit)}`,
    }))
    call = `world.raycast.${mode}(\n  { from: ${written(from)}, to: ${written(to)} }${filterText})`
  } else if (kind === 'shape') {
    const motion = { shape, from, to, angle, turn }
    question = { kind, ...motion }
    answers = some(
      () => world.shapecast.first(motion, filter),
      () => world.shapecast.all(motion, filter),
    ).map((hit) => ({
      ...hit,
      text: named(hit),
      detail: hit.startedInside
        ? `starts inside, ${hit.depth.toFixed(DIGITS)} m deep`
        : `${hit.distance.toFixed(DIGITS)} m · fraction ${hit.fraction.toFixed(3)} · ${where(hit)}`,
    }))
    call = `world.shapecast.${mode}({ shape, from: ${written(from)},\n  to: ${written(to)}, angle: ${angle}, turn: ${turn} }${filterText})`
  } else if (kind === 'overlap') {
    const place = { shape, at, angle, depth: true }
    question = { kind, shape, at, angle }
    answers = some(
      () => world.overlap.first(place, filter),
      () => world.overlap.all(place, filter),
    ).map((hit) => ({
      point: hit.point,
      normal: hit.normal,
      text: named(hit),
      detail: `${hit.depth.toFixed(DIGITS)} m deep`,
    }))
    call = `world.overlap.${mode}({ shape, at: ${written(at)},\n  angle: ${angle}, depth: true }${filterText})`
  } else {
    const place = { shape, at, angle, reach }
    question = { kind, shape, at, angle }
    answers = some(
      () => world.nearest.first(place, filter),
      () => world.nearest.all(place, filter),
    ).map((hit) => ({
      point: hit.point,
      normal: hit.normal,
      text: named(hit),
      detail: `${hit.distance.toFixed(DIGITS)} m · ${where(hit)}`,
    }))
    call = `world.nearest.${mode === 'any' ? 'first' : mode}({ shape, at: ${written(at)},\n  angle: ${angle}, reach: ${reach} }${filterText})`
  }
  const any = mode === 'any' ? answers.length > 0 : null
  return { question, answers: any === null ? answers : [], any, call }
}

function tell({ answers, any, call }: ReturnType<typeof ask>): void {
  element('count').textContent = any === null ? String(answers.length) : any ? 'yes' : 'no'
  element('code').textContent = call
  element('hits').replaceChildren(
    ...answers.map(({ text, detail }) => {
      const item = document.createElement('li')
      const small = document.createElement('small')
      small.textContent = detail
      item.append(text, small)
      return item
    }),
  )
}

function draw(): void {
  const { width, height } = fit(canvas, pen)
  const asked = ask()
  const shown = checked.view!
  const list = drawWorld2(player.world, {
    view: { min: { x: shown.min[0], y: shown.min[1] }, max: { x: shown.max[0], y: shown.max[1] } },
  })
  view = toCanvas(
    { ...list, items: [...list.items, ...questionItems2(asked.question, asked.answers)] },
    pen,
    width,
    height,
    { theme: theme() },
  )
  for (const handle of liveHandles()) {
    pen.beginPath()
    pen.arc(view.x(handle.x), view.y(handle.y), 9, 0, 2 * Math.PI)
    pen.fillStyle = '#ffb54555'
    pen.fill()
    pen.strokeStyle = '#ffb545'
    pen.lineWidth = 2
    pen.stroke()
  }
  tell(asked)
}

function liveHandles(): { x: number; y: number }[] {
  return kind === 'ray' || kind === 'shape' ? [handles.from, handles.to] : [handles.at]
}

function choose(next: Kind): void {
  kind = next
  for (const button of document.querySelectorAll<HTMLButtonElement>('#kinds button')) {
    button.setAttribute('aria-pressed', String(button.dataset['kind'] === kind))
  }
  const show = (name: string, on: boolean): void => {
    for (const each of document.querySelectorAll(`.${name}`)) each.classList.toggle('off', !on)
  }
  show('shaped', kind !== 'ray')
  show('turned', kind !== 'ray')
  show('moving', kind === 'shape')
  show('near', kind === 'nearest')
  draw()
}

for (const button of document.querySelectorAll<HTMLButtonElement>('#kinds button')) {
  button.addEventListener('click', () => choose(button.dataset['kind'] as Kind))
}
for (const [index, name] of checked.layers.names.entries()) {
  const label = document.createElement('label')
  const input = document.createElement('input')
  const swatch = document.createElement('i')
  input.type = 'checkbox'
  input.value = name
  input.checked = true
  swatch.style.background = layerColour(index)
  label.append(input, swatch, name)
  element('layers').append(label)
}
for (const input of document.querySelectorAll('aside input, aside select')) {
  input.addEventListener('input', () => {
    const tick = Number(field('tick').value)
    element('tick-text').textContent = String(tick)
    goTo(tick)
    draw()
  })
}
canvas.addEventListener('pointerdown', (event) => {
  if (view === null) return
  const { offsetX, offsetY } = event
  const shown = view
  const distance = (handle: Vec2): number => Math.hypot(shown.x(handle.x) - offsetX, shown.y(handle.y) - offsetY)
  const nearest = liveHandles().sort((a, b) => distance(a) - distance(b))[0]
  if (distance(nearest) > GRAB) return
  dragged = nearest
  canvas.setPointerCapture(event.pointerId)
})
canvas.addEventListener('pointermove', (event) => {
  if (dragged === null || view === null) return
  dragged.x = view.worldX(event.offsetX)
  dragged.y = view.worldY(event.offsetY)
  draw()
})
canvas.addEventListener('pointerup', () => {
  dragged = null
})
window.addEventListener('resize', draw)

goTo(Number(field('tick').value))
choose('ray')
