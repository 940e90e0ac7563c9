/** The picture of a scene of 2D: a camera that pans and zooms, bodies to be picked and dragged; only what is in view is drawn. */
import type { Body2, Vec2 } from 'keen-sentry/2d'
import { type DrawItem, drawWorld2, type ShownRay2, toCanvas, viewAt } from 'keen-sentry/draw'
import type { SceneKinds2, ScenePlayer2 } from 'keen-sentry-scenes'
import { Hand2 } from '../shared/hand2.ts'
import { fit } from '../shared/page.ts'
import type { AnyBody, Run } from './run.ts'
import { type Ears, type Look, newCanvas, put, type Stage } from './stage.ts'

type Body = Body2<SceneKinds2>

/** Pixels that a press may move and still be a click, and that a press may miss by. */
const CLICK = 5
const MISS = 8
const PICKED = '#ffb545'
const SECOND = '#4fb3e8'

interface Press {
  readonly x: number
  readonly y: number
  readonly body: Body | null
  /** Of the body, from where it was pressed. */
  readonly offset: Vec2
  readonly shift: boolean
  moved: boolean
}

export class Stage2 implements Stage {
  readonly canvas: HTMLCanvasElement
  private readonly run: Run
  private readonly player: ScenePlayer2
  private readonly ears: Ears
  private readonly pen: CanvasRenderingContext2D
  private readonly hand = new Hand2<SceneKinds2>()
  private readonly pointers = new Map<number, { x: number; y: number }>()
  private centre = { x: 0, y: 0 }
  private scale = 0
  private press: Press | null = null
  private size = { width: 1, height: 1 }
  private readonly stop = new AbortController()

  constructor(room: HTMLElement, run: Run, ears: Ears) {
    this.run = run
    this.player = run.player as ScenePlayer2
    this.ears = ears
    this.canvas = newCanvas(room)
    this.pen = this.canvas.getContext('2d')!
    const { signal } = this.stop
    const { canvas } = this
    canvas.addEventListener('pointerdown', (event) => this.down(event), { signal })
    canvas.addEventListener('pointermove', (event) => this.move(event), { signal })
    for (const end of ['pointerup', 'pointercancel'] as const) {
      canvas.addEventListener(end, (event) => this.up(event, end === 'pointerup'), { signal })
    }
    canvas.addEventListener(
      'wheel',
      (event) => {
        event.preventDefault()
        this.zoomAt(Math.exp(-event.deltaY / 500), event.offsetX, event.offsetY)
      },
      { signal, passive: false },
    )
  }

  draw({ picked, second, layers, show, names, rays, alpha, theme }: Look): void {
    this.size = fit(this.canvas, this.pen)
    const { width, height } = this.size
    if (this.scale === 0) this.fit()
    const view = viewAt(this.centre, this.scale, width, height)
    const list = drawWorld2(this.player.world, {
      view: {
        min: { x: view.worldX(0), y: view.worldY(height) },
        max: { x: view.worldX(width), y: view.worldY(0) },
      },
      cull: true,
      highlight: picked as Body | null,
      labels: names,
      layers,
      show,
      alpha,
      trails: show.ways === true ? this.player.trails : [],
      rays: rays ? this.player.rays.flatMap((state) => shownRay(state)) : [],
    })
    const frames = [...frameOf(picked as Body | null, PICKED), ...frameOf(second as Body | null, SECOND)]
    toCanvas({ ...list, items: [...list.items, ...frames] }, this.pen, width, height, { view, theme })
  }

  fit(): void {
    const { width, height } = this.size
    const { view } = this.player.scene
    const list = view === undefined ? drawWorld2(this.player.world, { labels: false }) : null
    const min = view === undefined ? list!.min : { x: view.min[0], y: view.min[1] }
    const max = view === undefined ? list!.max : { x: view.max[0], y: view.max[1] }
    this.scale = Math.min(width / Math.max(1e-6, max.x - min.x), height / Math.max(1e-6, max.y - min.y))
    this.centre = { x: (min.x + max.x) / 2, y: (min.y + max.y) / 2 }
    this.ears.changed()
  }

  zoom(by: number): void {
    this.zoomAt(by, this.size.width / 2, this.size.height / 2)
  }

  /** A hand holds with a joint: nothing to do before a tick. */
  beforeStep(): void {}

  nudge(body: AnyBody, right: number, up: number): void {
    const { at } = body as Body
    put(this.run, body, { x: at.x + right, y: at.y + up })
  }

  close(): void {
    this.stop.abort()
    this.canvas.remove()
  }

  private toWorld(x: number, y: number): Vec2 {
    const { width, height } = this.size
    const view = viewAt(this.centre, this.scale, width, height)
    return { x: view.worldX(x), y: view.worldY(y) }
  }

  private zoomAt(by: number, x: number, y: number): void {
    const before = this.toWorld(x, y)
    this.scale = Math.min(1e5, Math.max(1e-3, this.scale * by))
    const after = this.toWorld(x, y)
    this.centre = { x: this.centre.x + before.x - after.x, y: this.centre.y + before.y - after.y }
    this.ears.changed()
  }

  /** The body at a place: a solid before a zone, and the one that moves before the ground. */
  private bodyAt(x: number, y: number): Body | null {
    const { world } = this.player
    const point = this.toWorld(x, y)
    const hits = world.nearest.all({ point, reach: MISS / this.scale }, { sensors: true })
    const rank = ({ body, collider }: (typeof hits)[number]): number =>
      (collider.sensor || collider.solidBits === 0 ? 2 : 0) + (body.type === 'static' ? 1 : 0)
    return [...hits].sort((one, other) => rank(one) - rank(other) || one.distance - other.distance)[0]?.body ?? null
  }

  private down(event: PointerEvent): void {
    this.canvas.focus({ preventScroll: true })
    this.canvas.setPointerCapture(event.pointerId)
    this.pointers.set(event.pointerId, { x: event.offsetX, y: event.offsetY })
    if (this.pointers.size > 1) {
      this.letGo()
      this.press = null
      return
    }
    const body = this.bodyAt(event.offsetX, event.offsetY)
    const at = this.toWorld(event.offsetX, event.offsetY)
    const offset = body === null ? at : { x: body.at.x - at.x, y: body.at.y - at.y }
    this.press = { x: event.offsetX, y: event.offsetY, body, offset, shift: event.shiftKey, moved: false }
  }

  private move(event: PointerEvent): void {
    const old = this.pointers.get(event.pointerId)
    if (old === undefined) return
    const now = { x: event.offsetX, y: event.offsetY }
    this.pointers.set(event.pointerId, now)
    if (this.pointers.size === 2) {
      const [other] = [...this.pointers].filter(([id]) => id !== event.pointerId).map(([, at]) => at)
      const far = (p: { x: number; y: number }): number => Math.max(10, Math.hypot(p.x - other.x, p.y - other.y))
      this.pan(now.x - old.x, now.y - old.y, 0.5)
      this.zoomAt(far(now) / far(old), (now.x + other.x) / 2, (now.y + other.y) / 2)
      return
    }
    const { press } = this
    if (press === null) return
    if (!press.moved && Math.hypot(now.x - press.x, now.y - press.y) < CLICK) return
    const begins = !press.moved
    press.moved = true
    // What stands still is not dragged by mistake: it is picked first, then dragged.
    if (press.body === null || (press.body.type === 'static' && !this.isPicked(press.body))) {
      this.pan(now.x - old.x, now.y - old.y, 1)
      return
    }
    this.drag(press.body, press.offset, this.toWorld(now.x, now.y), begins)
  }

  private drag(body: Body, offset: Vec2, to: Vec2, begins: boolean): void {
    const { run, hand } = this
    this.canvas.classList.add('held')
    if (this.ears.playing && body.type === 'dynamic') {
      const { serial } = body
      if (begins || hand.body === null) {
        this.ears.pick(body, false)
        run.edit(() => {
          const grabbed = run.body(serial) as Body | null
          if (grabbed !== null) hand.hold(this.player.world, grabbed, { x: to.x, y: to.y })
        })
      } else run.edit(() => hand.aim(to), 'aim')
    } else {
      if (begins) this.ears.pick(body, false)
      put(run, body, { x: to.x + offset.x, y: to.y + offset.y })
    }
    this.ears.changed()
  }

  private up(event: PointerEvent, isDone: boolean): void {
    this.pointers.delete(event.pointerId)
    const { press } = this
    this.press = null
    this.letGo()
    if (!isDone || press === null || press.moved) return
    this.ears.pick(press.body, press.shift)
  }

  private letGo(): void {
    this.canvas.classList.remove('held')
    const { run, hand } = this
    if (hand.body !== null) run.edit(() => hand.release())
  }

  private isPicked(body: Body): boolean {
    return this.canvas.dataset['picked'] === String(body.serial)
  }

  private pan(dx: number, dy: number, part: number): void {
    this.centre = {
      x: this.centre.x - (part * dx) / this.scale,
      y: this.centre.y + (part * dy) / this.scale,
    }
    this.ears.changed()
  }
}

function shownRay({ ray, from, to, hit }: ScenePlayer2['rays'][number]): ShownRay2<SceneKinds2>[] {
  return from === null || to === null ? [] : [{ name: ray.name, from, to, hit }]
}

/** A frame around a body that is picked. */
function frameOf(body: Body | null, colour: string): DrawItem[] {
  const bounds = body?.alive ? body.colliders.map((each) => each.bounds!).filter(({ min }) => min.x > -Infinity) : []
  if (bounds.length === 0) return []
  const left = Math.min(...bounds.map(({ min }) => min.x))
  const bottom = Math.min(...bounds.map(({ min }) => min.y))
  const right = Math.max(...bounds.map(({ max }) => max.x))
  const top = Math.max(...bounds.map(({ max }) => max.y))
  const corners = [
    { x: left, y: bottom },
    { x: right, y: bottom },
    { x: right, y: top },
    { x: left, y: top },
  ]
  return corners.map((from, i) => {
    return { kind: 'line', from, to: corners[(i + 1) % 4], colour, width: 2.5, dashed: false }
  })
}
