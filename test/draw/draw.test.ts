import assert from 'node:assert/strict'
import { test } from 'node:test'
import { box, capsule, circle, createWorld, defineLayers, halfspace, polygon, type Shape2 } from '../../src/2d/index.ts'
import * as space3 from '../../src/3d/index.ts'
import { drawWorld2, drawWorld3, fitView, layerColour, questionItems2, toSvg } from '../../src/draw/index.ts'
import { placeLabels } from '../../src/draw/view.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

function scene() {
  const world = createWorld({ layers })
  world.add({ type: 'static', name: 'floor', at: { x: 0, y: -1 }, colliders: [{ shape: box(10, 2), layer: 'rock' }] })
  world.add({
    type: 'static',
    name: 'pool',
    at: { x: 3, y: 1 },
    colliders: [{ shape: circle(1), layer: 'zone', sensor: true }],
  })
  const sub = world.add({
    type: 'kinematic',
    name: 'a & <b>',
    at: { x: 0, y: 0.5 },
    colliders: [{ shape: circle(0.5), layer: 'craft' }],
  })
  world.watch('*', '*')
  world.step()
  return { world, sub }
}

test('solids are plain, sensors hatched and lit when somebody is in, what is off is a ghost', () => {
  const { world, sub } = scene()
  const fills = (): string[] =>
    drawWorld2(world).items.flatMap((item) =>
      item.kind === 'round' ? [`${item.fill}${item.lit ? ' lit' : ''} ${item.colour}`] : [],
    )
  const [rock, craft, zone] = [0, 1, 2].map(layerColour)
  assert.deepEqual(fills(), [`hatched ${zone}`, `plain ${rock}`, `plain ${craft}`])
  sub.teleport({ x: 3, y: 1 })
  assert.deepEqual(fills()[0], `hatched lit ${zone}`)
  sub.enabled = false
  assert.deepEqual(fills()[2], `ghost ${craft}`)
})

test('touching pairs get a mark where they touch, with the normal towards the younger', () => {
  const { world } = scene()
  const { items } = drawWorld2(world)
  const arrow = items.find((item) => item.kind === 'arrow')
  assert.deepEqual(arrow && [arrow.at, arrow.direction], [
    { x: 0, y: 0 },
    { x: 0, y: 1 },
  ])
})

test('a ray is drawn to its hit, with point, normal and the rest dashed', () => {
  const { world } = scene()
  const from = { x: -4, y: 4 }
  const to = { x: -4, y: -4 }
  const { items } = drawWorld2(world, { rays: [{ name: 'sonar', from, to, hit: world.raycast.first({ from, to }) }] })
  const lines = items.filter((item) => item.kind === 'line')
  assert.deepEqual(
    lines.map((line) => [line.to.y, line.dashed]),
    [
      [0, false],
      [-4, true],
    ],
  )
  assert.equal(items.filter((item) => item.kind === 'mark' && item.sign === 'ring').length, 1)
})

test('the shape of a question is drawn as it is, where it is asked', () => {
  const rounds = (shape: Shape2, angle: number) =>
    questionItems2({ kind: 'overlap', shape, at: { x: 10, y: 5 }, angle }, []).filter((item) => item.kind === 'round')
  assert.deepEqual(rounds(circle(2), 1), [
    { kind: 'round', points: [{ x: 10, y: 5 }], radius: 2, colour: '#f7f1c8', fill: 'ghost', lit: true },
  ])
  const cases: [Shape2, number][] = [
    [box(4, 2), 4],
    [box(4, 2, { radius: 0.5 }), 4],
    [capsule({ x: -1, y: 0 }, { x: 1, y: 0.5 }, 0.3), 2],
    [
      polygon([
        { x: 0, y: 0 },
        { x: 3, y: 0 },
        { x: 1, y: 1 },
        { x: 0, y: 3 },
      ]),
      4,
    ],
  ]
  for (const [shape, corners] of cases) {
    for (const angle of [0, 0.7]) {
      const [{ points, radius }] = rounds(shape, angle)
      assert.equal(points.length, corners)
      // Its bounds are those of a collider that stands there.
      const world = createWorld({ layers })
      const { bounds } = world.add({
        type: 'static',
        at: { x: 10, y: 5 },
        angle,
        colliders: [{ shape, layer: 'rock' }],
      }).colliders[0]
      const near = (a: number, b: number) => assert.ok(Math.abs(a - b) < 1e-9, `${shape.kind}: ${a} and ${b}`)
      near(Math.min(...points.map(({ x }) => x)) - radius, bounds!.min.x)
      near(Math.max(...points.map(({ x }) => x)) + radius, bounds!.max.x)
      near(Math.min(...points.map(({ y }) => y)) - radius, bounds!.min.y)
      near(Math.max(...points.map(({ y }) => y)) + radius, bounds!.max.y)
    }
  }
})

test('the SVG escapes names, is the same for the same list, and has no number that is not finite', () => {
  const { world } = scene()
  const svg = toSvg(drawWorld2(world, { title: '"Reef" & <co>' }))
  assert.equal(svg, toSvg(drawWorld2(world, { title: '"Reef" & <co>' })))
  assert.match(svg, /&quot;Reef&quot; &amp; &lt;co&gt;/)
  assert.match(svg, /a &amp; &lt;b&gt;/)
  assert.doesNotMatch(svg, /NaN|Infinity|undefined/)
})

test('an empty world can be drawn', () => {
  assert.doesNotMatch(toSvg(drawWorld2(createWorld({ layers }))), /NaN|Infinity/)
})

test('labels do not cover each other', () => {
  const world = createWorld({ layers })
  for (let i = 0; i < 60; i++) {
    world.add({
      type: 'static',
      name: `body ${i}`,
      at: { x: (i % 10) * 0.4, y: Math.floor(i / 10) * 0.4 },
      colliders: [{ shape: circle(0.1), layer: 'rock' }],
    })
  }
  const list = drawWorld2(world)
  const view = fitView(list.min, list.max, { left: 0, top: 0, width: 800, height: 600 })
  const placed = placeLabels(list, view, 800, 600)
  assert.ok(placed.length > 20)
  for (const [index, a] of placed.entries()) {
    for (const b of placed.slice(index + 1)) {
      const apart =
        Math.abs(a.y - b.y) >= 13 ||
        Math.abs(a.x - b.x) >= (7 * 13 * 0.5 * (a.label.text.length + b.label.text.length)) / 14
      assert.ok(apart, `${a.label.text} covers ${b.label.text}`)
    }
  }
})

test('where there is room a label covers no other body and no line', () => {
  const world = createWorld({ layers })
  for (const [name, x, y] of [
    ['under', 0, 0],
    ['over', 0, 0.2],
    ['ringed', 4, 0],
  ] as const) {
    world.add({ type: 'static', name, at: { x, y }, colliders: [{ shape: box(0.2, 0.2), layer: 'rock' }] })
  }
  // One line right above it, one right below.
  const rays = [0.2, -0.2].map((y) => ({ name: '', from: { x: 3.5, y }, to: { x: 4.5, y }, hit: null }))
  const list = drawWorld2(world, { rays })
  const view = fitView(list.min, list.max, { left: 0, top: 0, width: 800, height: 600 })
  const placed = placeLabels(list, view, 800, 600)
  const nameAt = (name: string) => placed.find(({ label }) => label.text === name)!
  const across = ({ label, x }: { label: { text: string }; x: number }, worldX: number): number =>
    Math.abs(x - view.x(worldX)) - 3.5 * label.text.length
  assert.ok(nameAt('over').y < view.y(0.3), 'it is free above')
  const under = nameAt('under')
  assert.ok(under.y > view.y(-0.1) + 10 || across(under, 0) > 0.1 * view.scale, 'the name lies over a box')
  assert.ok(across(nameAt('ringed'), 4) > 0.1 * view.scale, 'the name lies over a line')
  assert.ok(Math.abs(nameAt('ringed').y - view.y(0)) < 10, 'it is beside the box')
})

test('the arrow of a touch is the longer the harder the two press, in either dimension', () => {
  const plane = createWorld({ layers: defineLayers(['rock', 'crate']), gravity: { x: 0, y: -10 } })
  plane.add({ type: 'static', colliders: [{ shape: halfspace({ x: 0, y: 1 }, 0), layer: 'rock' }] })
  const space = space3.createWorld({ layers: defineLayers(['rock', 'crate']), gravity: { x: 0, y: -10, z: 0 } })
  space.add({ type: 'static', colliders: [{ shape: space3.halfspace({ x: 0, y: 1, z: 0 }, 0), layer: 'rock' }] })
  for (const [x, density] of [
    [0, 1],
    [4, 4],
  ]) {
    const crate = { type: 'dynamic', sleeps: false } as const
    plane.add({ ...crate, at: { x, y: 0.5 }, colliders: [{ shape: box(1, 1), layer: 'crate', density }] })
    space.add({
      ...crate,
      at: { x, y: 0.5, z: 0 },
      colliders: [{ shape: space3.box(1, 1, 1), layer: 'crate', density }],
    })
  }
  for (let i = 0; i < 60; i++) {
    plane.step()
    space.step()
  }
  for (const { items } of [drawWorld2(plane), drawWorld3(space)]) {
    const arrows = items.filter((item) => item.kind === 'arrow').map(({ length }) => length)
    // 16 pixels of nothing, and of the 34 more the root of 1/4 against the whole.
    assert.deepEqual(
      arrows.map((length) => Math.round(length)).sort((a, b) => a - b),
      [33, 50],
    )
  }
})
