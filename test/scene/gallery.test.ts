/** Scenes with bodies that travel: the gallery as a story, paths that are travelled, walks by a script, and what is wrong with them. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import { check, playScene, readScene } from '../../scenes-package/src/scene/index.ts'
import { drawWorld2 } from '../../src/draw/index.ts'

const file = JSON.parse(readFileSync('scenes/gallery.json', 'utf8'))

/** A small scene: a floor, a wall, and one kinematic body. */
function scene(body: object, dimension: '2d' | '3d' = '2d', more: readonly object[] = []) {
  const at = (x: number, y: number): number[] => (dimension === '2d' ? [x, y] : [x, y, 0])
  const box = (width: number, height: number): object => {
    const shape = dimension === '2d' ? { width, height } : { x: width, y: height, z: 8 }
    return { shape: { kind: 'box', ...shape }, layer: 'rock' }
  }
  const ball = { kind: dimension === '2d' ? 'circle' : 'sphere', radius: 0.5 }
  return {
    format: 'keen-sentry-scene',
    version: 1,
    name: 'small',
    dimension,
    layers: { names: ['rock', 'craft'] },
    bodies: [
      { name: 'floor', type: 'static', at: at(0, -0.5), colliders: [box(40, 1)] },
      { name: 'step', type: 'static', at: at(3, 0.1), colliders: [box(2, 0.2)] },
      { name: 'wall', type: 'static', at: at(8, 1), colliders: [box(1, 2)] },
      { name: 'mover', type: 'kinematic', at: at(0, 0.5), colliders: [{ shape: ball, layer: 'craft' }], ...body },
      ...more,
    ],
  }
}

function place(spec: object, ticks: number): { x: number; y: number; z?: number; vy: number } {
  const player = playScene(readScene(spec))
  for (let i = 0; i < ticks; i++) player.step()
  const body = player.world.find('mover')!
  return { ...body.at, vy: body.velocity.y }
}

function codes(spec: object): string[] {
  return check(spec).map(({ code, place: at }) => `${code} ${at}`)
}

test('the story of the gallery', () => {
  const player = playScene(readScene(file, '2d'))
  const told: string[] = []
  let hits = 0
  for (let i = 0; i < player.ticks; i++) {
    for (const { kind, a, b } of player.step().events) {
      if (a.name === 'diver') told.push(`${kind} ${b}`)
      else hits++
    }
  }
  assert.deepEqual(told.slice(0, 8), [
    'begin floor',
    ...[1, 2, 3, 4, 5, 6].map((i) => `begin stair ${i}`),
    'begin ramp',
  ])
  const first = [...new Set(told.slice(8))]
  assert.deepEqual(first, [
    'begin floor',
    'begin belt',
    'begin ledge',
    'begin lift',
    'begin gallery',
    'begin air pocket',
    'begin crate',
    'end air pocket',
  ])
  assert.ok(hits > 12, `the pearl hit ${hits} times`)
  const crate = player.world.find('crate')!
  assert.ok(crate.at.x > 24 && crate.at.y < 1, `the crate was pushed off the gallery: ${crate.at.x}, ${crate.at.y}`)
  const list = drawWorld2(player.world, { trails: player.trails })
  assert.equal(player.trails.length, 2)
  assert.ok(list.items.filter((item) => item.kind === 'line').length > 400, 'both ways are drawn')
  assert.ok(list.legend.some(({ text }) => text.startsWith('way')))
})

test('a path is travelled: it stops, slides or bounces where it would be led through', () => {
  for (const dimension of ['2d', '3d'] as const) {
    const at = (x: number, y: number): number[] => (dimension === '2d' ? [x, y] : [x, y, 0])
    const path = (onHit?: string) => ({
      path: {
        points: [
          { time: 0, at: at(5, 0.5) },
          { time: 1, at: at(11, 2.5) },
        ],
        ...(onHit && { onHit }),
      },
      at: undefined,
    })
    assert.ok(Math.abs(place(scene(path(), dimension), 90).x - 11) < 1e-9, 'led, it goes through')
    assert.ok(Math.abs(place(scene(path('stop'), dimension), 90).x - 7) < 1e-9)
    const slid = place(scene(path('slide'), dimension), 59)
    assert.ok(slid.x >= 7 - 1e-9 && slid.y > 2, `it slides up and over: ${slid.x}, ${slid.y}`)
    const bounced = place(scene(path('bounce'), dimension), 60)
    assert.ok(Math.abs(bounced.x - 3) < 0.2 && bounced.y > 2.4, `it comes back: ${bounced.x}, ${bounced.y}`)
  }
})

test('a body walks by its script, steps up, jumps, and stops at a wall', () => {
  for (const dimension of ['2d', '3d'] as const) {
    const move = (x: number): number | number[] => (dimension === '2d' ? x : [x, 0])
    const walk = (more: object, inputs: object[]) => scene({ walk: { speed: 3, ...more, inputs } }, dimension)
    const go = [{ time: 0.5, move: move(1) }]
    const over = place(walk({}, go), 90)
    assert.ok(Math.abs(over.x - 3) < 0.06 && Math.abs(over.y - 0.7) < 1e-6, `it is on the step: ${over.x}, ${over.y}`)
    assert.ok(place(walk({ stepHeight: 0.1 }, go), 90).x < 1.9, 'and held by it where that is too high')
    const end = place(walk({}, go), 400)
    assert.ok(Math.abs(end.x - 7) < 1e-6 && Math.abs(end.y - 0.5) < 1e-6, `at the wall: ${end.x}, ${end.y}`)
    const jump = walk({ jump: 5 }, [{ time: 0.5, jump: true }])
    assert.ok(Math.abs(place(jump, 61).y - (0.5 + 5 * 0.5 - 9.8 * 0.125)) < 0.1, 'half a second after it has jumped')
    assert.ok(Math.abs(place(jump, 200).y - 0.5) < 1e-6, 'it lands')
    assert.ok(
      place(
        walk({ jump: 5 }, [
          { time: 0.5, jump: true },
          { time: 0.8, jump: true },
        ]),
        200,
      ).y < 0.51,
    )
  }
})

test('what cannot travel or walk is a mistake with its place', () => {
  const inputs = [{ time: 1, move: 1 }, { time: 0.5 }]
  assert.deepEqual(codes(scene({ walk: { speed: 1, inputs } })), ['bad-value bodies[3].walk.inputs[1].time'])
  assert.deepEqual(codes(scene({ walk: { speed: 1, inputs: [] }, velocity: [1, 0] })), [
    'two-motions bodies[3].velocity',
  ])
  assert.ok(codes(scene({ walk: { speed: 1, inputs: [] }, type: 'dynamic' })).includes('bad-value bodies[3].walk'))
  assert.ok(codes(scene({ walk: { speed: 1, inputs: [] }, type: 'static' })).includes('static-moves bodies[3].walk'))
  const mesh = {
    kind: 'mesh',
    points: [
      [0, 0, 0],
      [1, 0, 0],
      [0, 0, 1],
    ],
    triangles: [[0, 1, 2]],
  }
  const walking = scene({ walk: { speed: 1, inputs: [] }, colliders: [{ shape: mesh, layer: 'craft' }] }, '3d')
  assert.ok(codes(walking).includes('bad-shape bodies[3].colliders[0].shape'), codes(walking).join(', '))
  assert.ok(codes(scene({ walk: { speed: -1, inputs: [] } })).length > 0)
  assert.ok(
    codes(
      scene({
        path: {
          points: [
            { time: 0, at: [0, 0] },
            { time: 1, at: [1, 0] },
          ],
          onHit: 'stick',
        },
      }),
    ).length > 0,
  )
})
