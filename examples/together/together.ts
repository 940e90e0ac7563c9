/** Two players on one page, each in a worker, with a network between them that can be made as bad as one likes. */
import { toCanvas, type View } from 'keen-sentry/draw'
import { element, fit, theme } from '../shared/page.ts'
import { DOWN, LEFT, RIGHT, UP } from './match.ts'
import { Network } from './network.ts'
import type { FromPlayer, ToPlayer } from './player.ts'
import type { Message } from './session.ts'

type Shown = Extract<FromPlayer, { kind: 'view' }>

const KEYS: Readonly<Record<string, readonly [0 | 1, number]>> = {
  KeyA: [0, LEFT],
  KeyD: [0, RIGHT],
  KeyW: [0, UP],
  KeyS: [0, DOWN],
  ArrowLeft: [1, LEFT],
  ArrowRight: [1, RIGHT],
  ArrowUp: [1, UP],
  ArrowDown: [1, DOWN],
}
const NAMES = ['left', 'right'] as const
/** Seconds without a key after which the craft steers itself again. */
const PATIENCE = 4
/** Lengths within which a craft is where one presses. */
const NEAR = 0.5

const canvases = NAMES.map((name) => element<HTMLCanvasElement>(name))
const pens = canvases.map((canvas) => canvas.getContext('2d')!)
const network = new Network<Message>(1, { delay: 200, jitter: 30, loss: 0.05 })
const held: [Set<number>, Set<number>] = [new Set(), new Set()]
const lastKey: [number, number] = [-Infinity, -Infinity]
let workers: Worker[] = []
let shown: (Shown | null)[] = [null, null]
const views: (View | null)[] = [null, null]
let playing = true

function tellPlayer(me: 0 | 1, told: ToPlayer): void {
  workers[me].postMessage(told)
}

function begin(): void {
  for (const worker of workers) worker.terminate()
  shown = [null, null]
  network.sent = network.lost = 0
  network.arrived(Infinity)
  workers = ([0, 1] as const).map((me) => {
    const worker = new Worker(new URL('./player.ts', import.meta.url), { type: 'module' })
    worker.addEventListener('message', ({ data }: MessageEvent<FromPlayer>) => {
      if (data.kind === 'view') shown[me] = data
      else network.send(performance.now(), me === 0 ? 1 : 0, data.message)
    })
    worker.postMessage({ kind: 'begin', me } satisfies ToPlayer)
    return worker
  })
  setPlaying(true)
}

function setPlaying(value: boolean): void {
  playing = value
  element('play').textContent = playing ? 'Pause' : 'Play'
  for (const me of [0, 1] as const) tellPlayer(me, { kind: 'play', playing })
}

/** What is held down, or that nobody is at the keys. */
function sendKeys(me: 0 | 1): void {
  const idle = performance.now() - lastKey[me] > PATIENCE * 1000 && held[me].size === 0
  let keys = 0
  for (const bit of held[me]) keys |= bit
  tellPlayer(me, { kind: 'keys', keys: idle ? null : keys })
}

function press(me: 0 | 1, bit: number, down: boolean): void {
  if (down) held[me].add(bit)
  else held[me].delete(bit)
  lastKey[me] = performance.now()
  sendKeys(me)
}

for (const [kind, down] of [
  ['keydown', true],
  ['keyup', false],
] as const) {
  window.addEventListener(kind, (event) => {
    const key = KEYS[event.code]
    const target = event.target as HTMLElement
    if (key === undefined || target.tagName === 'INPUT') return
    event.preventDefault()
    if (!event.repeat) press(...key, down)
  })
}
window.addEventListener('blur', () => {
  for (const me of [0, 1] as const) {
    held[me].clear()
    sendKeys(me)
  }
})

/** By touch, or the mouse: a craft goes to where one presses in its view. */
for (const [index, canvas] of canvases.entries()) {
  const me = index as 0 | 1
  const steer = (event: PointerEvent): void => {
    const [view, told] = [views[me], shown[me]]
    if (view === null || told === null) return
    const x = view.worldX(event.offsetX) - told.craft.x
    const y = view.worldY(event.offsetY) - told.craft.y
    held[me].clear()
    if (Math.abs(x) > NEAR) held[me].add(x > 0 ? RIGHT : LEFT)
    if (Math.abs(y) > NEAR) held[me].add(y > 0 ? UP : DOWN)
    lastKey[me] = performance.now()
    sendKeys(me)
  }
  canvas.addEventListener('pointerdown', (event) => {
    canvas.setPointerCapture(event.pointerId)
    steer(event)
  })
  canvas.addEventListener('pointermove', (event) => {
    if (event.buttons !== 0) steer(event)
  })
  for (const kind of ['pointerup', 'pointercancel']) {
    canvas.addEventListener(kind, () => {
      held[me].clear()
      lastKey[me] = performance.now()
      sendKeys(me)
    })
  }
}

for (const [id, scale] of [
  ['delay', 1],
  ['jitter', 1],
  ['loss', 0.01],
] as const) {
  const input = element<HTMLInputElement>(id)
  const read = (): void => {
    network.troubles[id] = input.valueAsNumber * scale
    input.parentElement!.querySelector('output')!.textContent = `${input.value} ${input.dataset['unit']}`
  }
  input.addEventListener('input', read)
  read()
}
element('play').addEventListener('click', () => setPlaying(!playing))
element('restart').addEventListener('click', begin)

function row(id: string, of: (view: Shown) => string): void {
  for (const [i, view] of shown.entries()) element(`${id}-${NAMES[i]}`).textContent = view === null ? '' : of(view)
}

function show(): void {
  for (const { to, message } of network.arrived(performance.now())) tellPlayer(to, { kind: 'message', message })
  for (const me of [0, 1] as const) {
    sendKeys(me)
    const view = shown[me]
    const { width, height } = fit(canvases[me], pens[me])
    if (view !== null) views[me] = toCanvas(view.list, pens[me], width, height, { theme: theme() })
  }
  row('tick', ({ tick }) => String(tick))
  row('ahead', ({ tick, confirmed }) => `${tick - confirmed} ticks`)
  row('again', ({ again, tick }) => `${again} · ${(again / Math.max(1, tick)).toFixed(1)}/tick`)
  row('longest', ({ longest }) => `${longest} ticks`)
  row('waited', ({ waited }) => `${waited} ticks`)
  row('compared', ({ compared, parted }) => (parted === null ? `${compared} equal` : `parted at ${parted}`))
  row('keys', ({ steered }) => (steered ? 'you' : 'itself'))
  const [left] = shown
  element('score').textContent = left === null ? '0 : 0' : left.score.join(' : ')
  element('state').textContent = `${network.sent} messages, ${network.lost} lost`
  element('clock').textContent = `tick ${left?.tick ?? 0} · ${((left?.tick ?? 0) / 60).toFixed(2)} s`
  requestAnimationFrame(show)
}

begin()
requestAnimationFrame(show)
