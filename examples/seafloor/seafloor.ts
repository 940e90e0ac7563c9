/** The sea floor in 3D: a crawler on six probes, zones that light up, questions to drag, and a camera that stays out of rock. */

import { fixedClock } from 'keen-sentry'
import { type Body3, type Boom3, boom, rotated, sphere, type Vec3 } from 'keen-sentry/3d'
import { type DrawItem3, drawWorld3, questionItems3, type ShownHit3 } from 'keen-sentry/draw'
import { loadModels, playScene, readScene, type SceneKinds3 } from 'keen-sentry-scenes'
import { Mesh, MeshBasicMaterial, Plane, Raycaster, SphereGeometry, Vector2, Vector3 } from 'three'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'
import file from '../../scenes/sea-floor.json' with { type: 'json' }
import rocks from '../../scenes/sea-rocks.glb?url'
import { EventList } from '../shared/event-list.ts'
import { Names } from '../shared/names3.ts'
import { overlay, update } from '../shared/overlay.ts'
import { element } from '../shared/page.ts'
import { View } from '../shared/view3.ts'
import { type Foot, type Probe, standAt } from './standing.ts'

const checked = readScene(file, '3d')
const models = await loadModels(file, async () => new Uint8Array(await (await fetch(rocks)).arrayBuffer()))

const option = (id: string): HTMLInputElement => element<HTMLInputElement>(id)

const canvas = element<HTMLCanvasElement>('view')
const playButton = element<HTMLButtonElement>('play')
const events = new EventList(element('events'), element('count'))
const view = new View<SceneKinds3>(canvas)
const names = new Names(canvas, view.camera)
const orbit = new OrbitControls(view.camera, canvas)
view.camera.position.set(-20, 16, 30)
orbit.target.set(-4, 0, 4)
orbit.enableDamping = true

/** Where the crawler is to be at each time: the way alone. How it stands there is up to its feet. */
const way = checked.bodies.find((body) => body.name === 'crawler')!.path!.points
/** What the probes met in the last tick. */
let feet: readonly (Foot | null)[] = []

let player = start()
let clock = fixedClock(player.world.rate)
let playing = false
let last = 0
const inside = new Map<Body3<SceneKinds3>, number>()

/** The scene with a crawler that this page leads. */
function start() {
  const bodies = checked.bodies.map((body) =>
    body.name === 'crawler' ? { ...body, path: undefined, at: way[0].at, rotation: way[0].rotation } : body,
  )
  const made = playScene({ ...checked, bodies, rays: [] }, models)
  view.fill(made.world)
  const zones = made.world.bodies().filter(isZone)
  element('zones').replaceChildren(
    ...zones.map((zone) => {
      const item = document.createElement('li')
      item.textContent = zone.name
      return item
    }),
  )
  // Who is in a zone is known by events alone.
  made.world.watch('*', 'zone', {
    begin: (e) => count(e.b, 1),
    end: (e) => count(e.b, -1),
  })
  return made
}

function isZone(body: Body3<SceneKinds3>): boolean {
  return body.colliders.some((collider) => collider.layer === 'zone')
}

function count(zone: Body3<SceneKinds3>, by: number): void {
  inside.set(zone, (inside.get(zone) ?? 0) + by)
  for (const item of element('zones').children) {
    if (item.textContent === zone.name) item.classList.toggle('lit', inside.get(zone)! > 0)
  }
}

/** Leads the crawler along its way: its probes find the ground, and it stands on what they found. */
function leadCrawler(): void {
  const crawler = player.world.find('crawler')!
  const time = player.world.time + player.world.dt
  const next = way.findIndex((point) => point.time > time)
  if (next === 0) return
  const [a, b] = next < 0 ? [way[way.length - 2], way[way.length - 1]] : [way[next - 1], way[next]]
  const part = Math.min(1, (time - a.time) / (b.time - a.time))
  const at = (axis: 0 | 1 | 2): number => a.at[axis] + (b.at[axis] - a.at[axis]) * part
  const heading = { x: b.at[0] - a.at[0], z: b.at[2] - a.at[2] }
  const probe: Probe = (from, to) => player.world.raycast.first({ from, to }, { layers: 'floor' })
  const standing = standAt(probe, { x: at(0), y: at(1), z: at(2) }, heading)
  if (standing === null) return
  feet = standing.feet
  // It walks there, and not through anything: what is in its way it slides along.
  const { x, y, z } = crawler.at
  const by = { x: standing.at.x - x, y: standing.at.y - y, z: standing.at.z - z }
  crawler.travel(by, { onHit: 'slide', filter: { layers: ['floor', 'rock'] } })
  crawler.arriveAt({ at: crawler.at, rotation: standing.rotation })
}

function step(): void {
  if (player.world.tick >= player.ticks) {
    setPlaying(false)
    return
  }
  leadCrawler()
  events.tell(player, player.step())
}

function setPlaying(value: boolean): void {
  playing = value
  playButton.textContent = playing ? 'Pause' : 'Play'
}

function restart(): void {
  inside.clear()
  feet = []
  player = start()
  makeArms()
  clock = fixedClock(player.world.rate)
  events.clear()
  still = null
}

// The question: two handles, a ray or a ball between them.

type Kind = 'ray' | 'ball' | 'none'
let kind: Kind = 'ray'
const handles = [new Vector3(-18, 4, 14), new Vector3(22, 1.5, -18)].map((at) => {
  const ball = new Mesh(new SphereGeometry(0.45, 24, 16), new MeshBasicMaterial({ color: 0xf7f1c8 }))
  ball.position.copy(at)
  view.scene.add(ball)
  return ball
})
let held: { handle: Mesh; plane: Plane } | null = null
const pointer = new Vector2()
const caster = new Raycaster()

function aim(event: PointerEvent): void {
  const box = canvas.getBoundingClientRect()
  pointer.set(((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2)
  caster.setFromCamera(pointer, view.camera)
}

canvas.addEventListener('pointerdown', (event) => {
  aim(event)
  const [hit] = caster.intersectObjects(handles.filter((handle) => handle.visible))
  if (hit === undefined) return
  const facing = view.camera.getWorldDirection(new Vector3())
  held = { handle: hit.object as Mesh, plane: new Plane().setFromNormalAndCoplanarPoint(facing, hit.object.position) }
  orbit.enabled = false
  canvas.classList.add('held')
  canvas.setPointerCapture(event.pointerId)
})
canvas.addEventListener('pointermove', (event) => {
  if (held === null) return
  aim(event)
  const at = caster.ray.intersectPlane(held.plane, new Vector3())
  if (at !== null) held.handle.position.copy(at)
})
canvas.addEventListener('pointerup', () => {
  held = null
  orbit.enabled = option('camera').value === 'orbit'
  canvas.classList.remove('held')
})

const vec = ({ x, y, z }: Vec3): Vec3 => ({ x, y, z })

/** Asks the question and shows its answer; returns what is to be drawn of both. */
function ask(): DrawItem3[] {
  for (const handle of handles) handle.visible = kind !== 'none'
  if (kind === 'none') {
    showHits([])
    return []
  }
  const [from, to] = handles.map((handle) => vec(handle.position))
  const filter = { sensors: option('sensors').checked }
  const { raycast, shapecast } = player.world
  const every = option('mode').value === 'all'
  const ball = sphere(Number(option('radius').value))
  const motion = { shape: ball, from, to }
  const hits: (Hit | null)[] =
    kind === 'ray'
      ? every
        ? raycast.all({ from, to }, filter)
        : [raycast.first({ from, to }, filter)]
      : every
        ? shapecast.all(motion, filter)
        : [shapecast.first(motion, filter)]
  const found = hits.filter((hit) => hit !== null)
  showHits(found)
  if (kind === 'ray') return questionItems3({ kind: 'ray', from, to }, found)
  const rotation = { x: 0, y: 0, z: 0, w: 1 }
  return questionItems3({ kind: 'shape', ...motion, rotation, turn: { x: 0, y: 0, z: 0 } }, found)
}

interface Hit extends ShownHit3 {
  readonly body: Body3<SceneKinds3>
  readonly distance: number
  readonly part: number
  readonly point: Vec3
  readonly normal: Vec3
}

function showHits(hits: readonly Hit[]): void {
  element('hit-count').textContent = kind === 'none' ? '' : String(hits.length)
  const number = (v: Vec3): string => [v.x, v.y, v.z].map((each) => each.toFixed(2)).join(', ')
  element('hits').replaceChildren(
    ...hits.map((hit) => {
      const item = document.createElement('li')
      const name = document.createElement('span')
      name.textContent = String(hit.body)
      const far = document.createElement('span')
      far.textContent = `${hit.distance.toFixed(2)} m`
      const small = document.createElement('small')
      small.textContent = `normal ${number(hit.normal)}${hit.part >= 0 ? ` · triangle ${hit.part}` : ''}`
      item.append(name, far, small)
      return item
    }),
  )
}

// The camera behind the crawler: a ball is cast from its back to where the camera would like to be.

const crawlerPose = { at: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }
/** One that pods hold as well, and one that passes over them. */
let arms: readonly Boom3[] = []
makeArms()

function makeArms(): void {
  const except = player.world.find('crawler')!
  arms = [
    ['floor', 'rock', 'pod'],
    ['floor', 'rock'],
  ].map((layers) => boom(player.world, { radius: 0.5, halfLife: 0.12, filter: { layers, except } }))
}

function aimCamera(alpha: number): void {
  const crawler = player.world.find('crawler')
  if (crawler === null) return
  const { at, rotation } = crawler.poseAt(alpha, crawlerPose)
  const back = rotated(rotation, { x: 0, y: 0, z: 1 })
  const from = { x: at.x, y: at.y + 1.2, z: at.z }
  const to = { x: at.x + 11 * back.x, y: at.y + 4.5, z: at.z + 11 * back.z }
  const held = option('boom').checked ? arms[option('ignore').checked ? 1 : 0].aim(from, to, 1 / 60) : null
  const place = held?.at ?? to
  view.camera.position.set(place.x, place.y, place.z)
  view.camera.lookAt(from.x, from.y, from.z)
  const whole = Math.hypot(to.x - from.x, to.y - from.y, to.z - from.z)
  const buried = player.world.overlap.any(
    { shape: sphere(0.1), at: vec(view.camera.position) },
    { layers: ['floor', 'rock'] },
  )
  element('boom-text').textContent =
    `boom ${(held?.length ?? whole).toFixed(1)} of ${whole.toFixed(1)} m` +
    (held?.heldBy ? `, held by ${held.heldBy.body}` : '') +
    (buried ? ' · the camera is in rock' : '')
}

// Lines: what stands still once, what moves in every frame.

const ORIGIN = { x: 0, y: 0, z: 0 }
let still: ReturnType<typeof overlay> | null = null
const moving = overlay({ title: '', caption: '', min: ORIGIN, max: ORIGIN, items: [], legend: [] })
view.scene.add(moving)

function probeItems(): DrawItem3[] {
  const found = feet.filter((foot) => foot !== null)
  return found.flatMap(({ from, point, normal }): DrawItem3[] => [
    { kind: 'line', from: { ...from, y: point.y + 1.3 }, to: point, colour: '#f7f1c8', width: 1, dashed: false },
    { kind: 'arrow', at: point, direction: normal, colour: '#ffffff', length: 20 },
  ])
}

function drawLines(alpha: number, question: readonly DrawItem3[]): void {
  const { world } = player
  const shown = option('lines').checked
  const list = drawWorld3(world, { labels: false, alpha, where: (body) => shown && body.type !== 'static' })
  const probes = option('probes').checked ? probeItems() : []
  update(moving, { ...list, items: [...list.items, ...probes, ...question] })
  if (still === null) {
    const rest = drawWorld3(world, { labels: false, where: (body) => body.type === 'static' })
    for (const child of view.scene.children.filter((each) => each.name === 'still')) view.scene.remove(child)
    still = overlay(rest)
    still.name = 'still'
    view.scene.add(still)
  }
  still.visible = shown
}

// What the library costs: of every frame, the part that steps, asks and gathers lines.

const START = performance.now() + 1500
const spent = new Float64Array(90)
const frames = new Float64Array(90)
let frameCount = 0

function showCost(library: number, whole: number): void {
  spent[frameCount % spent.length] = library
  frames[frameCount % frames.length] = whole
  frameCount++
  if (frameCount % 15 !== 0) return
  const known = Math.min(frameCount, spent.length)
  const mean = (list: Float64Array): number => list.subarray(0, known).reduce((sum, each) => sum + each, 0) / known
  const share = (100 * mean(spent)) / mean(frames)
  const worst = Math.max(...Array.from({ length: known }, (_, i) => (100 * spent[i]) / frames[i]))
  element('library').textContent =
    `Of each frame of ${mean(frames).toFixed(0)} ms, stepping and asking take ${mean(spent).toFixed(1)} ms (${share.toFixed(0)} %); at the worst ${worst.toFixed(0)} %.`
  element('library').classList.toggle('over', worst > 25)
}

function frame(now: number): void {
  const whole = now - last
  const begin = performance.now()
  if (playing && last > 0) clock.advance(whole / 1000, step)
  const alpha = playing ? clock.alpha : 1
  const question = ask()
  const behind = option('camera').value === 'boom'
  if (behind) aimCamera(alpha)
  drawLines(alpha, question)
  const library = performance.now() - begin
  if (!behind) {
    orbit.update()
    element('boom-text').textContent = ''
  }
  const lit = new Set([...inside].filter(([, many]) => many > 0).map(([body]) => body))
  view.move(alpha, lit)
  view.draw()
  names.draw(option('names').checked ? player.world.bodies() : [])
  // The first frames build the page and are not counted.
  if (now > START) showCost(library, whole)
  last = now
  const { tick, time } = player.world
  element('clock').textContent = `tick ${tick} · ${time.toFixed(2)} s`
  element<HTMLProgressElement>('bar').value = tick / player.ticks
  element<HTMLButtonElement>('step').disabled = tick >= player.ticks
  requestAnimationFrame(frame)
}

function choose(next: Kind): void {
  kind = next
  for (const button of element('kinds').querySelectorAll('button')) {
    button.setAttribute('aria-pressed', String(button.dataset['kind'] === kind))
  }
  document.body.dataset['kind'] = kind
}

for (const button of element('kinds').querySelectorAll('button')) {
  button.addEventListener('click', () => choose(button.dataset['kind'] as Kind))
}
choose('ray')
option('camera').addEventListener('change', () => {
  orbit.enabled = option('camera').value === 'orbit'
})
playButton.addEventListener('click', () => {
  if (player.world.tick >= player.ticks) restart()
  setPlaying(!playing)
})
element('step').addEventListener('click', () => {
  setPlaying(false)
  step()
})
element('restart').addEventListener('click', restart)
requestAnimationFrame(frame)
