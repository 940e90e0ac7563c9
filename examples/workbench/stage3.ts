/** The picture of a scene of 3D: an orbiting camera, bodies to be picked and dragged in the plane across the view. */
import type { Body3, Vec3 } from 'keen-sentry/3d'
import { type DrawItem3, drawWorld3, type ShownRay3 } from 'keen-sentry/draw'
import type { SceneKinds3, ScenePlayer3 } from 'keen-sentry-scenes'
import { type LineSegments, Plane, Raycaster, Vector2, Vector3 } from 'three'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'
import { Hand } from '../shared/hand3.ts'
import { Names } from '../shared/names3.ts'
import { overlay, update } from '../shared/overlay.ts'
import { View } from '../shared/view3.ts'
import type { AnyBody, Run } from './run.ts'
import { type Ears, type Look, newCanvas, put, type Stage } from './stage.ts'

type Body = Body3<SceneKinds3>

const CLICK = 5
const REACH = 400
const PICKED = '#ffb545'
const SECOND = '#4fb3e8'
const ORIGIN = { x: 0, y: 0, z: 0 }

interface Press {
  readonly x: number
  readonly y: number
  readonly body: Body | null
  readonly point: Vec3
  readonly shift: boolean
  moved: boolean
}

export class Stage3 implements Stage {
  readonly canvas: HTMLCanvasElement
  private readonly run: Run
  private readonly player: ScenePlayer3
  private readonly ears: Ears
  private readonly view: View<SceneKinds3>
  private readonly orbit: OrbitControls
  private readonly names: Names
  private readonly hand: Hand<SceneKinds3>
  private readonly lines: LineSegments
  private readonly caster = new Raycaster()
  private readonly stop = new AbortController()
  private press: Press | null = null
  private shown = Number.NaN

  constructor(room: HTMLElement, run: Run, ears: Ears) {
    this.run = run
    this.player = run.player as ScenePlayer3
    this.ears = ears
    this.canvas = newCanvas(room)
    this.view = new View(this.canvas)
    const { canvas, view } = this
    this.names = new Names(canvas, view.camera)
    this.hand = new Hand(canvas, view.camera)
    this.lines = overlay({ title: '', caption: '', min: ORIGIN, max: ORIGIN, items: [], legend: [] })
    view.scene.add(this.lines)
    const { signal } = this.stop
    // Before the camera's own: a press on something that can be dragged does not turn it.
    canvas.addEventListener('pointerdown', (event) => this.down(event), { signal, capture: true })
    canvas.addEventListener('pointermove', (event) => this.move(event), { signal })
    for (const end of ['pointerup', 'pointercancel'] as const) {
      canvas.addEventListener(end, () => this.up(end === 'pointerup'), { signal })
    }
    this.orbit = new OrbitControls(view.camera, canvas)
    this.orbit.addEventListener('change', () => ears.changed())
    this.fit()
  }

  draw({ picked, second, layers, show, names, rays, alpha }: Look): void {
    const { world } = this.player
    const { view } = this
    this.refill()
    const isShown = (body: Body): boolean =>
      layers === undefined ||
      body.colliders.some(({ layerBits }) => world.layers.names(layerBits).some((name) => layers.includes(name)))
    view.move(alpha, new Set([picked, second] as Body[]), isShown)
    // Of what is solid the faces are there already: lines are drawn of the rest.
    const list = drawWorld3(world, {
      labels: false,
      alpha,
      layers: layers ?? undefined,
      show,
      where: isShown,
      trails: show.ways === true ? this.player.trails : [],
      rays: rays ? this.player.rays.flatMap(shownRay) : [],
    })
    const items = list.items.filter((item) => item.kind !== 'solid')
    const frames = [...frameOf(picked as Body | null, PICKED), ...frameOf(second as Body | null, SECOND)]
    update(this.lines, { ...list, items: [...items, ...frames] })
    view.draw()
    this.names.draw(names ? world.bodies().filter(isShown) : [], picked as Body | null)
  }

  fit(): void {
    const { scene, world } = this.player
    const { camera } = this.view
    if (scene.view !== undefined) {
      const { eye, target } = scene.view
      camera.position.set(eye[0], eye[1], eye[2])
      this.orbit.target.set(target[0], target[1], target[2])
    } else {
      const { min, max } = drawWorld3(world, { labels: false })
      const middle = new Vector3((min.x + max.x) / 2, (min.y + max.y) / 2, (min.z + max.z) / 2)
      const size = Math.max(1, new Vector3(max.x - min.x, max.y - min.y, max.z - min.z).length())
      this.orbit.target.copy(middle)
      camera.position.copy(middle).add(new Vector3(-0.4, 0.4, 0.7).multiplyScalar(size))
    }
    this.orbit.update()
    this.ears.changed()
  }

  zoom(by: number): void {
    const { camera } = this.view
    camera.position.sub(this.orbit.target).divideScalar(by).add(this.orbit.target)
    this.orbit.update()
    this.ears.changed()
  }

  beforeStep(): void {
    if (this.press?.moved !== true || this.hand.body === null) return
    const target = this.hand.target()
    this.run.edit(() => this.hand.goTo(target), 'aim')
  }

  nudge(body: AnyBody, right: number, up: number, nearer: number): void {
    const { at } = body as Body
    put(this.run, body, { x: at.x + right, y: at.y + up, z: at.z + nearer })
  }

  close(): void {
    this.stop.abort()
    this.orbit.dispose()
    this.names.close()
    this.view.close()
    this.canvas.remove()
  }

  /** Makes the meshes anew where bodies came or went, or are on other layers. */
  private refill(): void {
    let sum = 0
    for (const body of this.player.world.bodies()) {
      sum = (31 * sum + body.serial) | 0
      for (const { layerBits, sensor } of body.colliders) sum = (31 * sum + layerBits + (sensor ? 7 : 0)) | 0
    }
    if (sum === this.shown) return
    this.shown = sum
    this.view.fill(this.player.world)
  }

  private aim(event: PointerEvent): void {
    const { left, top, width, height } = this.canvas.getBoundingClientRect()
    const pointer = new Vector2(((event.clientX - left) / width) * 2 - 1, 1 - ((event.clientY - top) / height) * 2)
    this.caster.setFromCamera(pointer, this.view.camera)
  }

  private down(event: PointerEvent): void {
    this.canvas.focus({ preventScroll: true })
    if (event.button !== 0) return
    this.aim(event)
    this.hand.aim(event)
    const { world } = this.player
    const { origin, direction } = this.caster.ray
    const ray = { from: vec(origin), direction: vec(direction), reach: REACH }
    // A solid before a zone.
    const hit = world.raycast.first(ray) ?? world.raycast.first(ray, { sensors: true })
    const body = hit?.body ?? null
    const point = hit === null ? ORIGIN : vec(hit.point as Vec3)
    this.press = { x: event.clientX, y: event.clientY, body, point, shift: event.shiftKey, moved: false }
    const isPicked = body !== null && this.canvas.dataset['picked'] === String(body.serial)
    this.orbit.enabled = body === null || (body.type !== 'dynamic' && !isPicked)
    if (!this.orbit.enabled) this.canvas.setPointerCapture(event.pointerId)
  }

  private move(event: PointerEvent): void {
    const { press } = this
    if (press === null) return
    if (!press.moved && Math.hypot(event.clientX - press.x, event.clientY - press.y) < CLICK) return
    const begins = !press.moved
    press.moved = true
    if (this.orbit.enabled || press.body === null) return
    this.drag(event, press.body, press.point, begins)
  }

  private drag(event: PointerEvent, { serial }: Body, point: Vec3, begins: boolean): void {
    const { run, hand, player } = this
    const body = run.body(serial) as Body | null
    if (body === null) return
    this.canvas.classList.add('held')
    this.hand.aim(event)
    this.aim(event)
    if (begins) this.ears.pick(body, false)
    if (this.ears.playing && body.type === 'dynamic') {
      if (begins) {
        run.edit(() => {
          const grabbed = run.body(serial) as Body | null
          if (grabbed !== null) hand.hold(player.world, grabbed, point)
        })
      }
    } else {
      const facing = this.view.camera.getWorldDirection(new Vector3())
      const plane = new Plane().setFromNormalAndCoplanarPoint(facing, new Vector3(body.at.x, body.at.y, body.at.z))
      const to = this.caster.ray.intersectPlane(plane, new Vector3())
      if (to !== null) put(run, body, vec(to))
    }
    this.ears.changed()
  }

  private up(isDone: boolean): void {
    const { press, run, hand } = this
    this.press = null
    this.orbit.enabled = true
    this.canvas.classList.remove('held')
    if (hand.body !== null) run.edit(() => hand.release())
    if (isDone && press !== null && !press.moved) this.ears.pick(press.body, press.shift)
  }
}

const vec = ({ x, y, z }: Vec3): Vec3 => ({ x, y, z })

function shownRay({ ray, from, to, hit }: ScenePlayer3['rays'][number]): ShownRay3<SceneKinds3>[] {
  return from === null || to === null ? [] : [{ name: ray.name, from, to, hit }]
}

/** The edges of the bounds of a body that is picked. */
function frameOf(body: Body | null, colour: string): DrawItem3[] {
  if (!body?.alive) return []
  return body.colliders.flatMap(({ bounds }) => {
    if (bounds === null || !Number.isFinite(bounds.min.x)) return []
    const ends = [bounds.min, bounds.max]
    const corner = (i: number): Vec3 => ({ x: ends[i & 1].x, y: ends[(i >> 1) & 1].y, z: ends[i >> 2].z })
    const edges = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [1, 2, 4].filter((b) => (i & b) === 0).map((b) => [i, i | b]))
    return edges.map(([i, j]): DrawItem3 => {
      return { kind: 'line', from: corner(i), to: corner(j), colour, width: 2, dashed: false }
    })
  })
}
