/** Runs that are gone back and forth in, with what a hand changed on the way; cures that are offered are cures. */
import assert from 'node:assert/strict'
import { readdirSync, readFileSync } from 'node:fs'
import { test } from 'node:test'
import { Hand2 } from '../../examples/shared/hand2.ts'
import { crowd } from '../../examples/workbench/crowd.ts'
import { curesOf, explain } from '../../examples/workbench/cures.ts'
import { type AnyBody, Run } from '../../examples/workbench/run.ts'
import { check, loadModels, readScene, type SceneKinds2 } from '../../scenes-package/src/scene/index.ts'
import type { Body2, World2 } from '../../src/2d/index.ts'

const TICKS = 130

async function runOf(file: string): Promise<Run> {
  const json = JSON.parse(readFileSync(`scenes/${file}`, 'utf8'))
  return new Run(readScene(json), await loadModels(json, (name) => readFileSync(`scenes/${name}`)))
}

const story = (run: Run): string => JSON.stringify([run.happenings, run.lines])
const counts = (run: Run): string => JSON.stringify(run.counter?.state().counts)

for (const file of readdirSync('scenes').filter((name) => name.endsWith('.json'))) {
  test(`${file}: back and forth to the bit, with and without edits`, async () => {
    const run = await runOf(file)
    const hashes: string[] = [run.player.world.hash()]
    const counted: string[] = [counts(run)]
    while (run.tick < TICKS) {
      run.step()
      hashes.push(run.player.world.hash())
      counted.push(counts(run))
    }
    const told = story(run)
    for (const tick of [64, 3, 129, 0, 71, TICKS]) {
      run.seek(tick)
      assert.equal(run.tick, tick)
      assert.equal(run.player.world.hash(), hashes[tick], `hash after going to tick ${tick}`)
      assert.equal(counts(run), counted[tick], `counts after going to tick ${tick}`)
    }
    assert.equal(story(run), told, 'nothing is told twice')

    // A hand changes the world in the middle: what comes after is another story, and that one is kept.
    run.seek(40)
    const [a] = run.player.world.layers.all
    run.edit(() => run.player.world.setPair(a as never, '*', 'pass'))
    const body = run.bodies().find(({ type }) => type !== 'static') as AnyBody
    run.edit(() => run.body(body.serial)?.teleport({ ...body.at, y: body.at.y + 2 } as never))
    const moved = body.at
    run.seek(90)
    const hash = run.player.world.hash()
    const second = story(run)
    for (const tick of [20, 40, 90]) {
      run.seek(tick)
      if (tick === 20) assert.equal(run.player.world.hash(), hashes[20])
      if (tick === 40) assert.deepEqual(run.body(body.serial)!.at, moved, 'the edit is seen at its tick')
    }
    assert.equal(run.player.world.hash(), hash)
    assert.equal(story(run), second)
  })
}

test('an edit at an earlier tick forgets what came after it, and replaces an edit of the same drag', async () => {
  const run = await runOf('lantern-reef.json')
  run.seek(100)
  run.seek(50)
  const crate = run.player.world.find('crate') as AnyBody
  for (let x = 0; x < 5; x++) run.edit(() => run.body(crate.serial)?.teleport({ x: 20 + x, y: 10 } as never), 'put')
  assert.equal(run.furthest, 50)
  assert.ok(run.happenings.every(({ tick }) => tick <= 50))
  assert.equal(run.measures.spent.length, 50)
  run.seek(0)
  run.seek(50)
  assert.equal(run.body(crate.serial)!.at.x, 24)
})

test('cures that are offered let the check pass, and trying them changes nothing', async () => {
  const run = await runOf('lantern-reef.json')
  run.seek(30)
  const { world } = run.player
  const before = world.hash()
  let offered = 0
  const bodies = run.bodies()
  for (const a of bodies) {
    for (const b of bodies) {
      if (a.serial >= b.serial) continue
      const explanation = explain(run, a, b)
      const cures = curesOf(run, a, b, explanation)
      assert.equal(world.hash(), before, `${a} and ${b}: trying is taken back`)
      if (explanation.refusedBy === null) continue
      for (const cure of cures) {
        offered++
        cure.apply()
        const after = explain(run, a, b)
        const still = after.checks.some((each) => each.check === explanation.refusedBy && each.verdict === 'refused')
        assert.ok(!still, `${cure.text}: ${after}`)
        run.seek(29)
        run.edit(() => {})
        run.seek(30)
      }
    }
  }
  assert.ok(offered > 20, `${offered} cures were offered`)
})

test('a watch that is made by hand is heard, and goes back and forth with the run', async () => {
  const run = await runOf('salvage.json')
  const first = run.bodies().find(({ name }) => name === 'crate 1') as AnyBody
  const second = run.bodies().find(({ name }) => name === 'chute') as AnyBody
  run.watch(first, second)
  run.seek(200)
  const heard = (): number =>
    run.happenings.filter(({ text }) => /^chute meets crate 1$|^crate 1 meets chute$/.test(text)).length
  const known = heard()
  assert.ok(known > 0)
  run.seek(100)
  run.seek(200)
  assert.equal(heard(), known)
})

test('what a hand holds and throws is held and thrown again, and is no event of the scene', async () => {
  const run = await runOf('salvage.json')
  const world = run.player.world as World2<SceneKinds2>
  const hand = new Hand2<SceneKinds2>()
  run.seek(60)
  const { serial, at } = world.find('drum')!
  run.edit(() => hand.hold(world, run.body(serial) as Body2<SceneKinds2>, at))
  for (let i = 1; i <= 20; i++) {
    const target = { x: at.x - 0.3 * i, y: at.y + 0.4 * i }
    run.edit(() => hand.aim(target), 'aim')
    run.step()
  }
  run.edit(() => hand.release())
  run.seek(150)
  const thrown = world.hash()
  assert.ok(run.body(serial)!.at.x < at.x - 3)
  for (const tick of [10, 150, 70, 150]) run.seek(tick)
  assert.equal(world.hash(), thrown)
  assert.ok(run.happenings.every(({ kind }) => kind !== 'joint'))
})

test('five thousand shapes: a scene without findings, told alike twice', () => {
  const scene = crowd()
  assert.deepEqual(check(scene), [])
  assert.equal(scene.bodies.length, 5001)
  const [one, other] = [new Run(scene), new Run(scene)]
  for (const run of [one, other]) run.seek(20)
  assert.equal(one.player.world.hash(), other.player.world.hash())
})
