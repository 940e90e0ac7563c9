/** Draw lists of 3D: what is in them, what a camera sees of them, and the lines for other renderers. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import {
  box,
  capsule,
  compound,
  cone,
  createWorld,
  cylinder,
  defineLayers,
  halfspace,
  heightfield,
  hull,
  rotationAbout,
  type Shape3,
  sphere,
  type Vec3,
} from '../../src/3d/index.ts'
import {
  cameraFor,
  type DrawList3,
  drawWorld3,
  layerColour,
  project,
  questionItems3,
  segments,
  solidsOf,
  toCanvas,
  toSvg,
  VIEWS,
} from '../../src/draw/index.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })
const SIZE = { width: 800, height: 600 }

function scene() {
  const world = createWorld({ layers })
  const floor = { shape: halfspace({ x: 0, y: 1, z: 0 }, 0), layer: 'rock' } as const
  world.add({ type: 'static', name: 'floor', colliders: [floor] })
  const near = { shape: box(4, 4, 1), layer: 'rock' } as const
  world.add({ type: 'static', name: 'near', at: { x: 0, y: 2, z: 5 }, colliders: [near] })
  const far = world.add({
    type: 'kinematic',
    name: 'far',
    at: { x: 0, y: 2, z: -5 },
    colliders: [{ shape: box(2, 2, 2), layer: 'craft' }],
  })
  const pool = { shape: sphere(1), layer: 'zone' } as const
  world.add({ type: 'static', name: 'pool', at: { x: 6, y: 2, z: 0 }, colliders: [pool] })
  return { world, far }
}

const volumeOf = (shape: Shape3): number =>
  solidsOf(shape).reduce((sum, { corners: c }) => {
    let six = 0
    for (let i = 0; i < c.length; i += 9) {
      six +=
        c[i] * (c[i + 4] * c[i + 8] - c[i + 5] * c[i + 7]) +
        c[i + 1] * (c[i + 5] * c[i + 6] - c[i + 3] * c[i + 8]) +
        c[i + 2] * (c[i + 3] * c[i + 7] - c[i + 4] * c[i + 6])
    }
    return sum + six / 6
  }, 0)

test('every shape becomes a closed surface that faces outward and holds about its volume', () => {
  const corners: Vec3[] = [-1, 1].flatMap((x) => [-1, 1].flatMap((y) => [-2, 1].map((z) => ({ x, y, z }))))
  const shapes: Shape3[] = [
    sphere(1.5),
    box(1, 2, 3),
    capsule({ x: -1, y: 0, z: 0.5 }, { x: 1, y: 1, z: 0 }, 0.4),
    capsule({ x: 1, y: 1, z: 1 }, { x: 1, y: 1, z: 1 }, 0.4),
    cylinder(2, 0.5),
    cone(2, 0.7),
    hull(corners),
    compound([
      { shape: box(1, 1, 1), at: { x: 3, y: 0, z: 0 }, rotation: rotationAbout({ x: 1, y: 2, z: 3 }, 1) },
      { shape: sphere(1) },
    ]),
  ]
  for (const shape of shapes) {
    const volume = volumeOf(shape)
    assert.ok(volume <= shape.volume * 1.0001, `${shape.kind} is drawn too large: ${volume} of ${shape.volume}`)
    assert.ok(volume >= shape.volume * 0.95, `${shape.kind} is drawn too small: ${volume} of ${shape.volume}`)
    for (const { neighbours, lines } of solidsOf(shape)) {
      assert.ok(
        neighbours.every((other) => other >= 0),
        `${shape.kind} has a hole`,
      )
      assert.ok(
        lines.some((line) => line === 1),
        `${shape.kind} has no line`,
      )
    }
    for (const { corners: c } of solidsOf(shape)) {
      const { min, max } = shape.bounds
      for (let i = 0; i < c.length; i += 3) {
        const inside = c[i] > min.x - 1e-9 && c[i] < max.x + 1e-9 && c[i + 1] > min.y - 1e-9 && c[i + 1] < max.y + 1e-9
        assert.ok(inside, `${shape.kind} is drawn beyond its bounds`)
      }
    }
  }
  assert.deepEqual(solidsOf(halfspace({ x: 0, y: 1, z: 0 }, 0)), [])
  const field = heightfield({ columns: 3, rows: 3, heights: [0, 0, 0, 0, 1, 0, 0, 0, Number.NaN], cell: 1 })
  assert.equal(solidsOf(field)[0].corners.length / 9, 6)
})

test('solids are plain, sensors hatched and lit when somebody is in, what is off is a ghost', () => {
  const { world, far } = scene()
  const looks = (): string[] =>
    drawWorld3(world).items.flatMap((item) =>
      item.kind === 'solid' ? [`${item.fill}${item.lit ? ' lit' : ''} ${item.colour}`] : [],
    )
  const [rock, craft, zone] = [0, 1, 2].map(layerColour)
  assert.deepEqual(looks(), [`plain ${rock}`, `plain ${craft}`, `hatched ${zone}`, `plain ${rock}`])
  far.teleport({ x: 6, y: 2, z: 0 })
  assert.equal(looks()[2], `hatched lit ${zone}`)
  far.enabled = false
  assert.equal(looks()[1], `ghost ${craft}`)
  const moving = drawWorld3(world, { where: (body) => body.type !== 'static', labels: false })
  assert.equal(moving.items.length, 1)
  assert.deepEqual(moving.min, { x: 5, y: 1, z: -1 })
})

/** Lines of a picture that are seen and that are dimmed, of one colour's kind. */
function lineLengths(list: DrawList3, eye: Vec3): { seen: number; hidden: number } {
  const camera = { eye, target: { x: 0, y: 2, z: 0 }, angle: 0.8 }
  const lengths = { seen: 0, hidden: 0 }
  for (const item of project(list, camera, SIZE).items) {
    if (item.kind !== 'line') continue
    lengths[item.dashed ? 'hidden' : 'seen'] += Math.hypot(item.to.x - item.from.x, item.to.y - item.from.y)
  }
  return lengths
}

test('what is hidden is dimmed: from the front all of the far box, from behind none of its front', () => {
  const { world } = scene()
  const list = drawWorld3(world, { labels: false })
  const boxes = list.items.filter((item) => item.kind === 'solid' && item.fill === 'plain')
  const [near, far] = boxes
  // The near box alone has edges seen and hidden, in about equal number.
  const alone = lineLengths({ ...list, items: [near] }, { x: 0, y: 2, z: 20 })
  assert.ok(alone.seen > 500 && alone.hidden > 100, `${alone.seen} seen, ${alone.hidden} hidden`)
  // Straight behind the near box, all of the far one is hidden.
  const both = lineLengths({ ...list, items: [near, far] }, { x: 0, y: 2, z: 20 })
  assert.ok(Math.abs(both.seen - alone.seen) < 1, `${both.seen} seen of both, ${alone.seen} of one`)
  assert.ok(both.hidden > alone.hidden + 100, 'the far box is not dimmed')
  const behind = lineLengths({ ...list, items: [near, far] }, { x: 0, y: 2, z: -20 })
  assert.ok(behind.seen > 300, 'from behind the far box is in front')
})

test('faces are drawn from the back to the front, and those that nobody sees are left out', () => {
  const { world } = scene()
  const list = drawWorld3(world, { labels: false })
  const [rock, craft] = [0, 1].map(layerColour)
  const camera = { eye: { x: 0, y: 2, z: 20 }, target: { x: 0, y: 2, z: 0 }, angle: 0.8 }
  const only = (items: DrawList3['items']) =>
    project({ ...list, items }, camera, SIZE).items.filter(({ kind }) => kind === 'face')
  const solids = list.items.filter((item) => item.kind === 'solid')
  const near = solids.find(({ colour }) => colour === rock)!
  const far = solids.find(({ colour }) => colour === craft)!
  assert.ok(only([far]).length > 0)
  assert.equal(only([near, far]).length, only([near]).length, 'the far box lies wholly behind the near one')
  const pool = solids.find(({ fill }) => fill === 'hatched')!
  const [face] = only([pool])
  assert.ok(face.kind === 'face' && face.hatched && face.points.length >= 12, 'a sensor is one hatched outline')
})

test('a straight line in space is straight on the picture, and split where it goes behind', () => {
  const { world } = scene()
  const line = questionItems3({ kind: 'ray', from: { x: -8, y: 2, z: 0 }, to: { x: 8, y: 2, z: 0 } }, [])
  const list = drawWorld3(world, { labels: false })
  const near = list.items.find((item) => item.kind === 'solid')!
  const camera = { eye: { x: 0, y: 2, z: 20 }, target: { x: 0, y: 2, z: 0 }, angle: 0.8 }
  const { items } = project({ ...list, items: [near, line[0]] }, camera, SIZE)
  const pieces = items.filter((item) => item.kind === 'line' && item.from.y === item.to.y && item.from.y === 300)
  assert.deepEqual(
    pieces.map((item) => item.kind === 'line' && item.dashed),
    [false, true, false],
  )
  const ends = pieces.flatMap((item) => (item.kind === 'line' ? [item.from.x, item.to.x] : []))
  for (let i = 1; i < ends.length; i++) assert.ok(ends[i] >= ends[i - 1] - 1e-9, `${ends}`)
})

test('every named view has all in it, and is the same each time; as SVG and on a canvas', () => {
  const { world } = scene()
  const from = { x: -4, y: 3, z: 0 }
  const to = { x: 4, y: 3, z: 0 }
  const hit = world.raycast.first({ from, to })
  const list = drawWorld3(world, { title: 'a & b', rays: [{ name: 'sonar', from, to, hit }] })
  for (const view of VIEWS) {
    const camera = cameraFor(view, list.min, list.max, SIZE.width / SIZE.height)
    const picture = project(list, camera, SIZE)
    const svg = toSvg(picture, { width: 800, height: 600 })
    assert.equal(svg, toSvg(project(list, camera, SIZE), { width: 800, height: 600 }))
    assert.match(svg, /a &amp; b/)
    assert.doesNotMatch(svg, /NaN|Infinity/)
    const boxes = picture.items.filter((item) => item.kind === 'label')
    assert.equal(boxes.length, 3)
    for (const label of boxes) {
      assert.ok(
        label.kind === 'label' && label.min.x > -1 && label.max.x < SIZE.width + 1,
        `${view}: out of the picture`,
      )
      assert.ok(
        label.kind === 'label' && label.min.y > -1 && label.max.y < SIZE.height + 1,
        `${view}: out of the picture`,
      )
    }
  }
  const calls = new Map<string, number>()
  const pen = new Proxy({} as Record<string, unknown>, {
    get: (_, name: string) => () => calls.set(name, (calls.get(name) ?? 0) + 1),
    set: () => true,
  })
  toCanvas(project(list, cameraFor('corner', list.min, list.max, 4 / 3), SIZE), pen as never, 800, 600)
  assert.ok(calls.get('fill')! > 20 && calls.get('stroke')! > 20, 'nothing was drawn on the canvas')
})

test('the box of a name is that of what is seen, not of its bounds', () => {
  const world = createWorld({ layers })
  world.add({ type: 'static', name: 'ball', colliders: [{ shape: sphere(1), layer: 'rock' }] })
  // From 4 m a ball of 1 m is seen under asin(1 / 4) to each side; its bounds under up to 0.44.
  const camera = { eye: { x: 0, y: 0, z: 4 }, target: { x: 0, y: 0, z: 0 }, angle: 1.2 }
  const [label] = project(drawWorld3(world), camera, SIZE).items.filter((item) => item.kind === 'label')
  assert.ok(label, 'no name')
  const seen = (Math.tan(Math.asin(1 / 4)) / Math.tan(0.6)) * SIZE.height
  for (const size of [label.max.x - label.min.x, label.max.y - label.min.y]) {
    assert.ok(Math.abs(size - seen) < 0.03 * seen, `${size} instead of ${seen}`)
  }
})

test('what lies behind the eye is left out, what reaches behind it is cut', () => {
  const { world } = scene()
  const list = drawWorld3(world)
  const camera = { eye: { x: 0, y: 2, z: 5.2 }, target: { x: 0, y: 2, z: 0 }, angle: 1.2 }
  const { items } = project(list, camera, SIZE)
  for (const item of items) {
    if (item.kind !== 'line') continue
    assert.ok([item.from.x, item.from.y, item.to.x, item.to.y].every(Number.isFinite))
  }
  assert.ok(!items.some((item) => item.kind === 'label' && item.text === 'near'), 'the eye is within it')
})

test('segments: six numbers and two colours each, the corners of a box among them, nothing of labels', () => {
  const world = createWorld({ layers })
  world.add({
    type: 'static',
    name: 'crate',
    at: { x: 1, y: 2, z: 3 },
    colliders: [{ shape: box(2, 2, 2), layer: 'rock' }],
  })
  const { positions, colours } = segments(drawWorld3(world))
  assert.equal(positions.length, 12 * 6)
  assert.equal(colours.length, positions.length)
  for (let i = 0; i < positions.length; i += 3) {
    assert.ok(Math.abs(positions[i] - 1) === 1 && Math.abs(positions[i + 1] - 2) === 1, 'an end that is no corner')
  }
  const hits = [{ point: { x: 0, y: 0, z: 0 }, normal: { x: 0, y: 1, z: 0 } }]
  const question = questionItems3(
    { kind: 'nearest', shape: null, at: { x: 0, y: 1, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } },
    hits,
  )
  const asked = segments({ items: question, min: { x: 0, y: 0, z: 0 }, max: { x: 10, y: 0, z: 0 } })
  // A mark of three strokes at the place and at the hit, the line between, an arrow.
  assert.equal(asked.positions.length / 6, 3 + 1 + 1 + 3)
})
