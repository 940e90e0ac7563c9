/** Tiles painted and erased in play: balls roll on what is there now, water flows, charges cut pieces off. */
import { fixedClock } from 'keen-sentry'
import { circle } from 'keen-sentry/2d'
import { type DrawItem, drawWorld2, toCanvas, type View } from 'keen-sentry/draw'
import { element, eventItem, fit, theme } from '../shared/page.ts'
import { COLUMNS, dig, ROWS, SEEN } from './dig.ts'

const LISTED = 80
/** What the pointer asks with. */
const SPOT = circle(0.001)
/** What is painted: its name, and the sign of its tile; none for what is no tile. */
const BRUSHES = [
  { name: 'erase', sign: '.' },
  { name: 'rock', sign: '#' },
  { name: 'slope /', sign: '/' },
  { name: 'slope \\', sign: '\\' },
  { name: 'belt', sign: '>' },
  { name: 'plank', sign: '-' },
  { name: 'water', sign: '~' },
  { name: 'charge', sign: null },
  { name: 'crate', sign: null },
] as const

const canvas = element<HTMLCanvasElement>('view')
const pen = canvas.getContext('2d')!
let scene = dig()
let brush: (typeof BRUSHES)[number] = BRUSHES[0]
let playing = true
let last = 0
let view: View | null = null
let told = 0
/** Milliseconds of a step, smoothed. */
let cost = 0
let pointer: { x: number; y: number } | null = null
let painted: { column: number; row: number } | null = null
const clock = fixedClock(scene.world.rate)

function tell(kind: string, text: string, detail: string): void {
  const list = element('events')
  list.append(eventItem(kind, scene.world.time, text, detail))
  while (list.childElementCount > LISTED) list.firstElementChild!.remove()
  list.scrollTop = list.scrollHeight
  element('count').textContent = String(++told)
}

function listen(): void {
  scene.world.watch('ball', 'water', {
    begin: (e) => tell('begin', `${e.a} splashes into the water`, e.cause),
    end: (e) => tell('end', `${e.a} comes out of the water`, `${e.dwell.toFixed(1)} s · ${e.cause}`),
  })
}

const size = (): number => Number(element<HTMLInputElement>('size').value)

/** Paints the tiles about a cell; the border stays. */
function paintAt(column: number, row: number, sign: string): void {
  const wide = size()
  const from = -Math.floor((wide - 1) / 2)
  for (let r = row + from; r < row + from + wide; r++) {
    for (let c = column + from; c < column + from + wide; c++) {
      if (c > 0 && r > 0 && c < COLUMNS - 1 && r < ROWS - 1) scene.ground.setTile(c, r, sign)
    }
  }
}

/** Paints from where it painted last, cell by cell, so that a fast pointer leaves no gap. */
function paint(x: number, y: number): void {
  const sign = brush.sign
  if (sign === null) return
  const [column, row] = [Math.floor(x), ROWS - 1 - Math.floor(y)]
  const from = painted ?? { column, row }
  const steps = Math.max(1, Math.abs(column - from.column), Math.abs(row - from.row))
  for (let k = 0; k <= steps; k++) {
    const part = k / steps
    paintAt(
      Math.round(from.column + (column - from.column) * part),
      Math.round(from.row + (row - from.row) * part),
      sign,
    )
  }
  painted = { column, row }
}

function press(x: number, y: number): void {
  if (brush.name === 'charge') {
    const { gone, pieces } = scene.blast(x, y, size())
    const cut =
      pieces.length === 0 ? 'nothing is cut off' : `cut off: ${pieces.map((count) => `${count} tiles`).join(', ')}`
    tell('action', `A charge takes ${gone} tiles`, cut)
  } else if (brush.name === 'crate') scene.crate(x, y)
  else paint(x, y)
}

function step(): void {
  const start = performance.now()
  scene.prepare()
  scene.world.step()
  cost += 0.05 * (performance.now() - start - cost)
}

function show(): void {
  const { world, ground } = scene
  const colliders = ground.body.colliders
  const edges = colliders.reduce((sum, { outline }) => sum + outline.flat().length, 0)
  let count = 0
  for (const { shape } of colliders) if (shape.kind === 'tiles') count += shape.count
  element('tiles').textContent = `${count}, ${edges}`
  const filter = { sensors: true, layers: ['rock', 'water'] } as const
  // The tile that the pointer is in, or else the nearest.
  const hit =
    pointer &&
    (world.overlap.first({ shape: SPOT, at: pointer }, filter) ??
      world.nearest.first({ point: pointer, reach: 3 }, filter))
  element('under').textContent =
    hit?.tile == null ? 'no tile near' : `${hit.tile.kind} in column ${hit.tile.column}, row ${hit.tile.row}`
  element('cost').textContent = `${cost.toFixed(2)} ms`
  const wet = scene.balls.filter((ball) => ball.overlapping().some(({ other }) => other.layer === 'water')).length
  element('wet').textContent = `${wet} of ${scene.balls.length}`
  element('state').textContent = pointer === null ? '' : `${pointer.x.toFixed(1)}, ${pointer.y.toFixed(1)} m`
  element('clock').textContent = `tick ${world.tick} · ${world.time.toFixed(2)} s`
}

/** Where the brush would paint. */
function brushItem(): DrawItem | null {
  if (pointer === null) return null
  const look = { colour: '#ffb545', fill: 'ghost', lit: true } as const
  if (brush.sign === null) {
    const radius = brush.name === 'charge' ? size() : 0.45
    return { kind: 'round', points: [pointer], radius, ...look }
  }
  const wide = size()
  const from = -Math.floor((wide - 1) / 2)
  const x = Math.floor(pointer.x) + from
  const top = Math.floor(pointer.y) - from + 1
  const corner = (u: number, v: number) => ({ x: x + u * wide, y: top - v * wide })
  return { kind: 'round', points: [corner(0, 1), corner(1, 1), corner(1, 0), corner(0, 0)], radius: 0, ...look }
}

function draw(): void {
  const { width, height } = fit(canvas, pen)
  const list = drawWorld2(scene.world, { view: SEEN, labels: false, alpha: playing ? clock.alpha : 1 })
  const mark = brushItem()
  view = toCanvas(mark === null ? list : { ...list, items: [...list.items, mark] }, pen, width, height, {
    theme: theme(),
  })
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

function choose(index: number): void {
  brush = BRUSHES[index]
  for (const [i, button] of [...element('brushes').children].entries()) {
    button.setAttribute('aria-checked', String(i === index))
  }
}

for (const [index, { name }] of BRUSHES.entries()) {
  const button = document.createElement('button')
  button.type = 'button'
  button.setAttribute('role', 'radio')
  const key = document.createElement('kbd')
  key.textContent = String(index + 1)
  button.append(key, name)
  button.addEventListener('click', () => choose(index))
  element('brushes').append(button)
}
choose(0)

const showSize = (): void => {
  element('wide').textContent = `${size()} tiles`
}
element('size').addEventListener('input', showSize)
showSize()

function follow(event: PointerEvent): void {
  if (view !== null) pointer = { x: view.worldX(event.offsetX), y: view.worldY(event.offsetY) }
}
canvas.addEventListener('pointerdown', (event) => {
  follow(event)
  canvas.setPointerCapture(event.pointerId)
  painted = null
  if (pointer !== null) press(pointer.x, pointer.y)
})
canvas.addEventListener('pointermove', (event) => {
  follow(event)
  if (pointer !== null && event.buttons !== 0) paint(pointer.x, pointer.y)
})
canvas.addEventListener('pointerleave', () => {
  pointer = null
})
document.addEventListener('keydown', (event) => {
  if (event.target instanceof HTMLInputElement) return
  const index = Number(event.key) - 1
  if (BRUSHES[index] !== undefined) choose(index)
})
element('play').addEventListener('click', () => setPlaying(!playing))
element('step').addEventListener('click', () => {
  setPlaying(false)
  step()
})
element('restart').addEventListener('click', () => {
  scene = dig()
  told = 0
  element('events').replaceChildren()
  element('count').textContent = '0'
  listen()
})
listen()
requestAnimationFrame(frame)
