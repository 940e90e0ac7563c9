/** The rules of the game, without a screen: a pilot plays it, is careless, and goes back. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { box } from 'keen-sentry/2d'
import { AIR, CHARGES, type Controls, Game, type Happening, HULL } from '../../examples/lantern/game.ts'
import { LEVELS } from '../../examples/lantern/levels.ts'
import { Pilot, sightOf } from '../../examples/lantern/pilot.ts'

const NOTHING: Controls = { x: 0, y: 0, ping: false, claw: false, charge: false }
/** Ticks that a level may take. */
const MOST = 60 * 150

/** Plays a level by its pilot, who looks every so many ticks; gives what happened. */
function play(game: Game, level: number, looks: number, until = MOST): Happening[] {
  const pilot = new Pilot(level)
  const happened: Happening[] = []
  let asked = NOTHING
  for (let tick = 0; tick < until && game.standing === 'under way'; tick++) {
    asked = tick % looks === 0 ? pilot.steer(sightOf(game)) : { ...asked, ping: false, claw: false, charge: false }
    game.step(asked)
    happened.push(...game.happened)
  }
  return happened
}

/** Steps until something holds. */
function until(game: Game, isSo: () => boolean, controls: Controls = NOTHING): void {
  let tick = 0
  for (; !isSo() && tick < MOST; tick++) game.step(controls)
  assert.ok(isSo(), `not within ${tick} ticks`)
}

for (const [level, { name }] of LEVELS.entries()) {
  test(`${name}: its pilot wins, whichever way it looks, and does all there is to do`, () => {
    for (const looks of [1, 4, 6]) {
      const game = new Game(level)
      const happened = play(game, level, looks)
      assert.equal(game.standing, 'won', `a look every ${looks} ticks`)
      const kinds = new Set(happened.map(({ kind }) => kind))
      for (const kind of ['ping', 'said', 'air', 'checkpoint', 'drop', 'blast', 'grab', 'lit', 'pearl'] as const) {
        assert.ok(kinds.has(kind), `${kind}, with a look every ${looks} ticks`)
      }
      assert.ok(game.numbers.pearls > 0)
    }
  })

  test(`${name}: played twice it is the same to the bit`, () => {
    const [one, two] = [new Game(level), new Game(level)]
    play(one, level, 6, 1500)
    play(two, level, 6, 1500)
    assert.equal(one.place.world.hash(), two.place.world.hash())
    assert.deepEqual(one.numbers, two.numbers)
  })

  test(`${name}: what it is made of is where it can be reached`, () => {
    const { place } = new Game(level)
    const { level: plan } = place
    const width = plan.rows[0].length
    assert.ok(plan.rows.every((row) => row.length === width))
    for (const at of [plan.start, plan.lantern, ...plan.pearls, ...plan.crates]) {
      const sign = plan.rows[plan.rows.length - 1 - Math.floor(at.y)][Math.floor(at.x)]
      assert.notEqual(sign, '#', `something at ${at.x}, ${at.y} is in the rock`)
    }
    assert.equal(place.world.overlap.any({ shape: box(2.6, 1.6), at: plan.start }, { layers: 'rock' }), false)
  })
}

test('air runs out, and comes back in a pocket; lost, one is back at the last pocket with what one had there', () => {
  const game = new Game(0)
  play(game, 0, 6, 60 * 17)
  const { air, pearls } = game.numbers
  assert.ok(air > 0.9 * AIR, `filled to ${air}`)
  assert.equal(pearls, 1)
  const shut = game.place.ground.tileAt(42, 16)
  until(game, () => game.standing !== 'under way', { ...NOTHING, y: -1 })
  assert.equal(game.standing, 'out of air')
  const before = game.numbers.time
  game.step({ ...NOTHING, x: 1 })
  assert.equal(game.numbers.time, before, 'nothing goes on')
  game.goBack()
  assert.equal(game.standing, 'under way')
  assert.equal(game.numbers.pearls, 1)
  assert.equal(game.place.ground.tileAt(42, 16), shut)
  const { x, y } = game.craft.body.at
  assert.ok(x > 31 && x < 39 && y > 18.5, `back in the pocket, at ${x}, ${y}`)
  game.step(NOTHING)
  assert.ok(game.numbers.air > 0)
})

test('going back puts a pearl, a blown up wall and what the claw held where they were', () => {
  const game = new Game(0)
  play(game, 0, 6, 60 * 50)
  assert.notEqual(game.craft.holds, null, 'the lantern is held')
  assert.equal(game.place.ground.tileAt(42, 19), '.')
  const [held, pearls] = [game.craft.holds, game.numbers.pearls]
  assert.ok(pearls > 1)
  game.goBack()
  assert.equal(game.craft.holds, null)
  assert.equal(game.place.ground.tileAt(42, 19), '%')
  assert.equal(game.numbers.pearls, 1)
  assert.equal(held?.alive, true)
  // And the game goes on: it is won from there.
  const { standing } = game
  assert.equal(standing, 'under way')
  for (let i = 0; i < 60; i++) game.step(NOTHING)
})

test('charges: three, then one must wait; one that goes off beside the craft hurts, and one behind rock does not', () => {
  const game = new Game(0)
  for (let i = 0; i < 4; i++) game.step({ ...NOTHING, charge: true })
  assert.equal(game.numbers.charges, 0)
  assert.deepEqual(
    game.happened.map(({ kind }) => kind),
    ['empty'],
  )
  assert.equal(game.burning().length, CHARGES)
  until(game, () => game.burning().length === 0)
  assert.ok(game.numbers.hull < HULL, 'they fell past the craft, and were in sight')
  until(game, () => game.numbers.charges === 1)

  const far = new Game(0)
  const charge = far.place.drop({ x: 46, y: 14 }, { x: 0, y: 0 })
  assert.ok(charge.alive)
  for (let i = 0; i < 200; i++) far.step(NOTHING)
  assert.equal(far.numbers.hull, HULL)
})

test('too many charges at once break the hull', () => {
  const game = new Game(0)
  until(game, () => game.standing !== 'under way', { ...NOTHING, charge: true, y: -1 })
  assert.equal(game.standing, 'broken')
  assert.equal(game.hasBreathed, false)
  game.goBack()
  assert.equal(game.numbers.hull, HULL, 'as it began')
  assert.equal(game.burning().length, 0)
  game.step(NOTHING)
  assert.equal(game.standing, 'under way')
})

test('an empty claw says so; what is held hangs on, and falls when it is let go', () => {
  const game = new Game(0)
  game.step({ ...NOTHING, claw: true })
  assert.deepEqual(
    game.happened.map(({ kind }) => kind).filter((kind) => kind !== 'said'),
    ['empty'],
  )
  const crate = game.place.world.find('crate')!
  game.craft.body.teleport({ x: crate.at.x - 0.6, y: crate.at.y + 1.6 })
  game.step({ ...NOTHING, claw: true })
  assert.equal(game.craft.holds, crate)
  for (let i = 0; i < 120; i++) game.step({ ...NOTHING, y: 0.6 })
  const high = crate.at.y
  assert.ok(high > 9, `carried up to ${high}`)
  game.step({ ...NOTHING, claw: true })
  assert.equal(game.craft.holds, null)
  for (let i = 0; i < 300; i++) game.step(NOTHING)
  assert.ok(crate.at.y < high - 1)
})

test('the door goes up while a crate is on its plate, and down when that is taken away', () => {
  const game = new Game(1)
  const { world } = game.place
  const [door, crate] = [world.find('door')!, world.find('crate')!]
  for (let i = 0; i < 60; i++) game.step(NOTHING)
  assert.ok(Math.abs(door.at.y - 5) < 0.05)
  crate.teleport({ x: 19, y: 2.6 })
  for (let i = 0; i < 260; i++) game.step(NOTHING)
  assert.ok(door.at.y > 8, `up to ${door.at.y}`)
  crate.teleport({ x: 29, y: 4 })
  for (let i = 0; i < 300; i++) game.step(NOTHING)
  assert.ok(Math.abs(door.at.y - 5) < 0.05, `down to ${door.at.y}`)
})
