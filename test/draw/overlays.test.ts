/** What is drawn over the bodies on request, for both dimensions; bounds of colliders; observers, who do not count as listeners. */
import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import * as two from '../../src/2d/index.ts'
import { defineLayers, type World2 } from '../../src/2d/index.ts'
import type * as three from '../../src/3d/index.ts'
import {
  type DrawList,
  drawWorld2,
  drawWorld3,
  OVERLAYS,
  type Overlays,
  toCanvas,
  toSvg,
  viewAt,
} from '../../src/draw/index.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { Random } from '../helpers/random.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

for (const dimension of DIMENSIONS) {
  const { at, box, circle, createWorld } = dimension
  const draw = (
    world: World2,
    options: object = {},
  ): { items: readonly { kind: string }[]; legend: readonly unknown[] } =>
    dimension.name === '2D'
      ? drawWorld2(world, { labels: false, ...options })
      : drawWorld3(world as unknown as three.World3, { labels: false, ...options })

  describe(dimension.name, () => {
    /** A floor, a crate on it, a ball that falls on a slack rope, and a zone. */
    const scene = () => {
      const world = createWorld({ layers }) as unknown as World2
      world.add({ type: 'static', at: at(0, -1), colliders: [{ shape: box(20, 2), layer: 'rock' }] })
      const crate = world.add({ type: 'dynamic', at: at(0, 0.5), colliders: [{ shape: box(1, 1), layer: 'craft' }] })
      const faller = world.add({ type: 'dynamic', at: at(4, 9), colliders: [{ shape: circle(0.5), layer: 'craft' }] })
      world.add({ type: 'static', at: at(-5, 2), colliders: [{ shape: circle(1), layer: 'zone', sensor: true }] })
      world.join({ type: 'distance', a: faller, atB: at(4, 12), min: 0, max: 30 })
      for (let i = 0; i < 20; i++) world.step()
      return { world, crate, faller }
    }

    test('each overlay adds or takes something of its own, and says in the legend what it means', () => {
      const { world, crate } = scene()
      const off = Object.fromEntries(OVERLAYS.map((name) => [name, false])) as Overlays
      const bare = draw(world, { show: off })
      for (let i = 0; i < 60; i++) world.step()
      assert.ok(crate.asleep)
      const quiet = draw(world, { show: off })
      for (const name of OVERLAYS) {
        const { items, legend } = draw(world, { show: { ...off, [name]: true } })
        assert.notDeepEqual(items, quiet.items, name)
        if (name !== 'loads' && name !== 'asleep') assert.equal(legend.length, quiet.legend.length + 1, name)
      }
      assert.ok(bare.items.length > 0)
      assert.deepEqual(draw(world), draw(world, { show: { touches: true, joints: true } }), 'the default')
      assert.throws(() => draw(world, { show: { bound: true } }), /bound/)
    })

    test('a velocity ends where the centre would be in a quarter of a second; a way is that of the last tick', () => {
      const { world, faller } = scene()
      const lines = (show: Overlays) =>
        draw(world, { show: { touches: false, joints: false, ...show } }).items.filter(
          ({ kind }) => kind === 'line',
        ) as unknown as {
          from: two.Vec2
          to: two.Vec2
        }[]
      const velocity = lines({ velocities: true }).find(({ from }) => from.x === faller.centre.x)!
      assert.ok(Math.abs(velocity.to.y - (faller.centre.y + faller.velocity.y / 4)) < 1e-12)
      const before = faller.at.y
      world.step()
      const [way] = lines({ ways: true })
      assert.deepEqual([way.from.y, way.to.y], [before, faller.at.y])
    })

    test('layers that are not asked for are left out; of none nothing is left', () => {
      const { world } = scene()
      const show = { touches: false, joints: false }
      const all = draw(world, { show }).items.length
      const craft = draw(world, { show, layers: ['craft'] }).items.length
      const others = draw(world, { show, layers: ['rock', 'zone'] }).items.length
      assert.equal(craft + others, all)
      assert.equal(draw(world, { show, layers: [] }).items.length, 0)
      assert.throws(() => draw(world, { layers: ['crat'] }), /unknown-layer|no layer is called/)
    })

    test('bounds of a collider hold every point of it and touch it on each side, wherever its body is', () => {
      const random = new Random(5)
      const world = createWorld({ layers }) as unknown as World2
      for (let i = 0; i < 200; i++) {
        const far = i % 3 === 0 ? 1e6 : 3
        const [x, y, r] = [random.between(-far, far), random.between(-far, far), random.between(0.1, 2)]
        const body = world.add({
          type: 'kinematic',
          at: at(x, y),
          colliders: [{ shape: circle(r), layer: 'craft', at: at(r, 0) }],
        })
        const [collider] = body.colliders
        for (const [dx, dy] of [
          [0, 0],
          [5, -7],
        ]) {
          if (dx !== 0) body.teleport(at(x + dx, y + dy))
          const { min, max } = collider.bounds!
          const slack = 1e-9 * (far + 10)
          assert.ok(Math.abs(min.x - (x + dx)) < slack && Math.abs(max.x - (x + dx + 2 * r)) < slack)
          assert.ok(Math.abs(min.y - (y + dy - r)) < slack && Math.abs(max.y - (y + dy + r)) < slack)
        }
        body.remove()
        assert.equal(collider.bounds, null)
      }
    })

    test('bounds inside a handler are those of the end of the tick; inside a decide hook they are refused, as questions are', () => {
      const world = createWorld({ layers }) as unknown as World2
      world.add({ type: 'static', colliders: [{ shape: box(2, 2), layer: 'rock' }] })
      const craft = world.add({ type: 'kinematic', at: at(-4, 0), colliders: [{ shape: circle(1), layer: 'craft' }] })
      const codes: string[] = []
      world.decide('craft', 'rock', () => {
        try {
          void craft.colliders[0].bounds
        } catch (error) {
          codes.push((error as two.KeenError).code)
        }
        return 'sense'
      })
      let seen = 0
      world.watch('craft', 'rock', { begin: () => void (seen = craft.colliders[0].bounds!.max.x) })
      craft.arriveAt(at(-1, 0))
      world.step()
      assert.ok(codes.length > 0 && codes.every((code) => code === 'locked'))
      assert.ok(Math.abs(seen) < 1e-9)
    })

    test('an observer hears, and hides from nobody that no watch of the game does', () => {
      const world = createWorld({ layers, advise: true }) as unknown as World2
      const pool = world.add({ type: 'static', colliders: [{ shape: circle(2), layer: 'zone', sensor: true }] })
      const craft = world.add({ type: 'kinematic', at: at(1, 0), colliders: [{ shape: circle(1), layer: 'craft' }] })
      let heard = 0
      const tool = world.watch('*', '*', { begin: () => void heard++ }, { observer: true })
      world.step()
      assert.equal(heard, 1)
      assert.equal(world.explain(pool, craft).refusedBy, 'watched')
      assert.match(String(world.explain(pool, craft)), /no watch covers them \(0 in the world/)
      world.watch('craft', 'zone')
      assert.ok(world.explain(pool, craft).watched)
      tool.stop()
      world.watch('rock', 'zone', {}, { observer: true })
      for (let i = 0; i < 400; i++) world.step()
      assert.deepEqual(
        world.advice().filter(({ code }) => code === 'silent-watch'),
        [],
      )
    })
  })
}

/** A pen that writes down what it is told. */
function recorder() {
  const calls: string[] = []
  const styles = new Set<string>()
  const pen = new Proxy({} as Record<string, unknown>, {
    get:
      (_, name: string) =>
      (...values: unknown[]) =>
        void calls.push(`${name} ${values.join(' ')}`),
    set: (_, name, value) => {
      if (name === 'fillStyle' || name === 'strokeStyle') styles.add(String(value))
      return true
    },
  })
  return { pen: pen as never, calls, styles }
}

const flatScene = (): World2 => {
  const world = two.createWorld({ layers })
  world.add({ type: 'static', name: 'rock', at: { x: 3, y: 2 }, colliders: [{ shape: two.box(2, 1), layer: 'rock' }] })
  world.add({ type: 'static', at: { x: 60, y: 0 }, colliders: [{ shape: two.box(2, 1), layer: 'rock' }] })
  world.add({
    type: 'kinematic',
    enabled: false,
    at: { x: 90, y: 0 },
    colliders: [{ shape: two.circle(1), layer: 'craft' }],
  })
  return world as unknown as World2
}

test('over a picture of one’s own: nothing is filled behind, and places lie where the camera has them', () => {
  const world = flatScene()
  const view = viewAt({ x: 1, y: 1 }, 20, 400, 300)
  assert.deepEqual([view.x(1), view.y(1), view.x(2), view.y(2)], [200, 150, 220, 130])
  assert.deepEqual([view.worldX(220), view.worldY(130)], [2, 2])
  const over = recorder()
  assert.equal(toCanvas(drawWorld2(world, { labels: false }), over.pen, 400, 300, { view, ground: false }), view)
  assert.ok(!over.calls.some((call) => call.startsWith('fillRect')))
  // The upper right corner of the rock, at (4, 2.5).
  assert.ok(over.calls.includes('moveTo 220 140') || over.calls.includes('lineTo 260 120'), over.calls.join('\n'))
  const whole = recorder()
  toCanvas(drawWorld2(world), whole.pen, 400, 300)
  assert.ok(whole.calls.includes('fillRect 0 0 400 300'))
})

test('a light ground: other colours, all of them dark enough to be seen on it', () => {
  const world = flatScene()
  const light = recorder()
  toCanvas(drawWorld2(world, { show: { bounds: true } }), light.pen, 400, 300, { theme: 'light' })
  const dark = recorder()
  toCanvas(drawWorld2(world, { show: { bounds: true } }), dark.pen, 400, 300)
  assert.ok([...dark.styles].every((style) => !light.styles.has(style)))
  assert.throws(() => toCanvas(drawWorld2(world), dark.pen, 4, 3, { theme: 'drak' as never }), /'theme' of a canvas/)
  for (const style of light.styles) assert.match(style, /^#[0-9a-f]{6}$/)
})

test('culled: who is off the view is left out, but what is off is not forgotten', () => {
  const world = flatScene()
  const view = { min: { x: 0, y: 0 }, max: { x: 10, y: 10 } }
  const shapes = ({ items }: DrawList): number => items.filter(({ kind }) => kind === 'round').length
  assert.equal(shapes(drawWorld2(world, { view })), 3)
  assert.equal(shapes(drawWorld2(world, { view, cull: true })), 2)
  assert.equal(shapes(drawWorld2(world, { cull: true })), 3, 'without a view all is in view')
  assert.doesNotMatch(
    toSvg(drawWorld2(world, { view, cull: true, show: { tree: true, bounds: true } })),
    /NaN|Infinity/,
  )
})

test('many small shapes that look alike are one path; the large ones are not', () => {
  const world = two.createWorld({ layers })
  for (let i = 0; i < 500; i++) {
    world.add({
      type: 'static',
      at: { x: i % 25, y: Math.floor(i / 25) },
      colliders: [{ shape: two.circle(0.3), layer: 'rock' }],
    })
  }
  const small = recorder()
  toCanvas(drawWorld2(world), small.pen, 200, 200)
  assert.ok(small.calls.filter((call) => call.startsWith('fill ')).length < 5)
  assert.equal(small.calls.filter((call) => call.startsWith('arc ')).length, 500)
  const large = recorder()
  toCanvas(drawWorld2(world), large.pen, 2000, 2000)
  assert.ok(large.calls.filter((call) => call.startsWith('fill ')).length >= 500)
})

test('names: what is picked and what moves come before what stands; of very many only those of what is large', () => {
  const world = two.createWorld({ layers })
  const names: two.Body2[] = []
  for (let i = 0; i < 4; i++) {
    const type = i === 2 ? 'kinematic' : 'static'
    names.push(
      world.add({
        type,
        name: `body ${i}`,
        at: { x: 9 * i, y: 0 },
        colliders: [{ shape: two.circle(1), layer: 'rock' }],
      }),
    )
  }
  const order = drawWorld2(world, { highlight: names[3] }).items.flatMap((item) =>
    item.kind === 'label' ? item.text : [],
  )
  assert.deepEqual(order, ['body 3', 'body 2', 'body 0', 'body 1'])
  for (let i = 0; i < 400; i++) {
    world.add({
      type: 'static',
      name: `pebble ${i}`,
      at: { x: i % 25, y: 3 + Math.floor(i / 25) },
      colliders: [{ shape: two.circle(0.2), layer: 'rock' }],
    })
  }
  world.add({
    type: 'static',
    name: 'large',
    at: { x: 10, y: 30 },
    colliders: [{ shape: two.circle(5), layer: 'rock' }],
  })
  const svg = toSvg(drawWorld2(world))
  assert.match(svg, />large</)
  assert.doesNotMatch(svg, />pebble/)
})
