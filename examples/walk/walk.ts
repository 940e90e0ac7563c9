/** A diver that walks and a pearl that bounces, both moved by `travel`: keys, a slider for every number, and what each travel tells. */
import { fixedClock } from 'keen-sentry'
import { type TravelHit2, travelResult, type Vec2 } from 'keen-sentry/2d'
import { drawWorld2, toCanvas, type View } from 'keen-sentry/draw'
import { element, eventItem, fit, theme } from '../shared/page.ts'
import { build, ROUND, SEEN, SQUARE } from './cave.ts'

/** Points of the pearl's way that are shown, and events that are listed. */
const SHOWN = 240
const LISTED = 100
const SLIDERS = ['speed', 'jumps', 'steepest', 'stepHeight', 'snap', 'push', 'pearl', 'maxHits'] as const
const UP = { x: 0, y: 1 }

const canvas = element<HTMLCanvasElement>('view')
const pen = canvas.getContext('2d')!
const held = new Set<string>()
const walked = travelResult()
const flown = travelResult()
const numbers: Record<(typeof SLIDERS)[number], number> = Object.fromEntries(SLIDERS.map((id) => [id, 0])) as Record<
  (typeof SLIDERS)[number],
  number
>

let cave = build()
let heading: Vec2 = { x: 0.8, y: 0.6 }
let rising = 0
let stands = false
let jumps = false
let trail: { points: Vec2[]; hits: { point: Vec2; normal: Vec2 }[] } = { points: [], hits: [] }
const clock = fixedClock(cave.world.rate)
let playing = true
let last = 0
let view: View | null = null
let told = 0

function tell(kind: string, text: string, detail: string): void {
  const list = element('events')
  list.append(eventItem(kind, cave.world.time, text, detail))
  while (list.childElementCount > LISTED) list.firstElementChild!.remove()
  list.scrollTop = list.scrollHeight
  element('count').textContent = String(++told)
}

/** Watches hear of what was touched and crossed on the way. */
function listen(): void {
  cave.world.watch('diver', 'zone', {
    begin: (e) => tell('begin', `${e.a} enters the ${e.b}`, e.cause),
    end: (e) => tell('end', `${e.a} leaves the ${e.b}`, `${e.dwell.toFixed(1)} s · ${e.cause}`),
  })
}

/** A tick of the diver: as the keys say, and as gravity has it. */
function walk(): void {
  const { world, diver } = cave
  const move = Number(held.has('right')) - Number(held.has('left'))
  if (jumps && stands) rising = numbers.jumps
  else rising += world.gravity.y * world.dt
  jumps = false
  const by = { x: move * numbers.speed * world.dt, y: rising * world.dt }
  diver.travel(by, {
    onHit: element<HTMLSelectElement>('onHit').value as 'slide' | 'stop',
    maxHits: numbers.maxHits,
    up: UP,
    steepest: numbers.steepest,
    stepHeight: numbers.stepHeight,
    snap: numbers.snap,
    push: numbers.push,
    ride: element<HTMLInputElement>('ride').checked,
    out: walked,
  })
  stands = walked.ground !== null
  // Ground and ceilings end what it had upwards or downwards.
  if (stands || (rising > 0 && walked.moved.y < by.y / 2)) rising = 0
  if (walked.landed) tell('begin', 'The diver lands', `on ${walked.ground!.body}`)
  if (walked.leftGround) tell('end', 'The diver leaves the ground', `at ${diver.at.x.toFixed(1)} m`)
  if (walked.crushed !== null) tell('impact', 'The diver has no room', `${walked.crushed.a} and ${walked.crushed.b}`)
}

/** A tick of the pearl: straight on, and off whatever it hits; what is left of a tick is gone at once. */
function fly(): void {
  const { world, pearl } = cave
  const far = numbers.pearl * world.dt
  pearl.travel({ x: heading.x * far, y: heading.y * far }, { onHit: 'bounce', maxHits: numbers.maxHits, out: flown })
  if (far > 0) heading = { ...flown.heading }
  for (const { at, point, normal } of flown.hits as TravelHit2[]) {
    trail.points.push({ ...at })
    trail.hits.push({ point: { ...point }, normal: { ...normal } })
  }
  trail.points.push({ ...pearl.at })
  trail.points.splice(0, trail.points.length - SHOWN)
  trail.hits.splice(0, trail.hits.length - SHOWN / 4)
}

function step(): void {
  cave.lead()
  walk()
  fly()
  cave.world.step()
}

function show(): void {
  const { world, diver, pearl } = cave
  const { ground, moved, hits } = walked
  element('ground').textContent = ground === null ? 'nothing' : String(ground.body)
  element('slope').textContent = ground === null ? '' : `${ground.slope.toFixed(2)} rad`
  element('moved').textContent = `${(moved.x * world.rate).toFixed(2)}, ${(moved.y * world.rate).toFixed(2)} m/s`
  element('hits').textContent = hits.map((hit) => `${hit.body}${hit.pushed ? ' (pushed)' : ''}`).join(', ') || 'none'
  element('state').textContent =
    `diver at ${diver.at.x.toFixed(2)}, ${diver.at.y.toFixed(2)} · the pearl met ${flown.hits.length} in this tick, at ${pearl.at.x.toFixed(1)}, ${pearl.at.y.toFixed(1)}`
  element('clock').textContent = `tick ${world.tick} · ${world.time.toFixed(2)} s`
}

function draw(): void {
  const { width, height } = fit(canvas, pen)
  view = toCanvas(
    drawWorld2(cave.world, {
      view: SEEN,
      labels: width > 600,
      highlight: cave.diver,
      trails: [trail],
      alpha: playing ? clock.alpha : 1,
    }),
    pen,
    width,
    height,
    { theme: theme() },
  )
  show()
}

function frame(now: number): void {
  if (playing && last > 0) clock.advance((now - last) / 1000, step)
  last = now
  draw()
  requestAnimationFrame(frame)
}

function setPlaying(value: boolean): void {
  playing = value
  element('play').textContent = playing ? 'Pause' : 'Play'
}

function readSliders(): void {
  for (const id of SLIDERS) {
    const input = element<HTMLInputElement>(id)
    numbers[id] = Number(input.value)
    input.parentElement!.querySelector('output')!.textContent = `${input.value} ${input.dataset['unit']}`
  }
}

const KEYS: Readonly<Record<string, string>> = { ArrowLeft: 'left', KeyA: 'left', ArrowRight: 'right', KeyD: 'right' }

document.addEventListener('keydown', (event) => {
  // A slider that was just moved keeps its arrow keys, a button its space bar.
  const { target } = event
  const keepsArrows = target instanceof HTMLInputElement || target instanceof HTMLSelectElement
  const keepsSpace =
    target instanceof HTMLButtonElement || (keepsArrows && (target as HTMLInputElement).type !== 'range')
  if ((keepsArrows && event.code.startsWith('Arrow')) || (keepsSpace && event.code === 'Space')) return
  const key = KEYS[event.code]
  if (key !== undefined) held.add(key)
  else if (event.code === 'Space' || event.code === 'ArrowUp' || event.code === 'KeyW') jumps = !event.repeat || jumps
  else return
  event.preventDefault()
})
document.addEventListener('keyup', (event) => held.delete(KEYS[event.code] ?? ''))
window.addEventListener('blur', () => held.clear())
for (const id of ['left', 'right']) {
  element(id).addEventListener('pointerdown', () => held.add(id))
  for (const kind of ['pointerup', 'pointercancel', 'pointerleave']) {
    element(id).addEventListener(kind, () => held.delete(id))
  }
}
element('jump').addEventListener('pointerdown', () => {
  jumps = true
})
for (const id of SLIDERS) element(id).addEventListener('input', readSliders)
element('square').addEventListener('change', () => {
  cave.diver.colliders[0].shape = element<HTMLInputElement>('square').checked ? SQUARE : ROUND
})
canvas.addEventListener('pointerdown', (event) => {
  if (view === null) return
  canvas.focus()
  const { at } = cave.pearl
  const [x, y] = [view.worldX(event.offsetX) - at.x, view.worldY(event.offsetY) - at.y]
  const length = Math.hypot(x, y)
  if (length > 0) heading = { x: x / length, y: y / length }
})
element('play').addEventListener('click', () => setPlaying(!playing))
element('step').addEventListener('click', () => {
  setPlaying(false)
  step()
})
element('restart').addEventListener('click', () => {
  cave = build()
  listen()
  trail = { points: [], hits: [] }
  rising = 0
  told = 0
  heading = { x: 0.8, y: 0.6 }
  if (element<HTMLInputElement>('square').checked) cave.diver.colliders[0].shape = SQUARE
  element('events').replaceChildren()
  element('count').textContent = '0'
})
readSliders()
listen()
requestAnimationFrame(frame)
