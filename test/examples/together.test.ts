/** Two who play together: at every tick that is certain both hold the same world, whatever the network does. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { autopilot } from '../../examples/together/match.ts'
import { Network, type Troubles } from '../../examples/together/network.ts'
import { type Message, MOST_AHEAD, Session } from '../../examples/together/session.ts'
import { runs } from '../helpers/arbitrary.ts'

/** Plays for so many steps of a clock each; the second begins late and its clock is a little slow. */
function play(
  seed: number,
  troubles: Troubles,
  steps: number,
  each?: (sessions: readonly Session[], step: number) => void,
) {
  const sessions = [new Session(0), new Session(1)] as const
  const network = new Network<Message>(seed, troubles)
  for (let step = 0; step < steps; step++) {
    const now = (step * 1000) / 60
    for (const { to, message } of network.arrived(now)) sessions[to].receive(structuredClone(message))
    for (const me of [0, 1] as const) {
      if (me === 1 && (step < 30 || step % 50 === 7)) continue
      sessions[me].play(autopilot(sessions[me].match, me))
      network.send(now, me === 0 ? 1 : 0, sessions[me].message())
    }
    each?.(sessions, step)
  }
  return { sessions, network }
}

/** Every hash that is certain of one is, once it is certain of the other, the same. */
function checker() {
  const certain: Map<number, string>[] = [new Map(), new Map()]
  let checked = 0
  return {
    each: (sessions: readonly Session[]) => {
      for (const [i, session] of sessions.entries()) {
        for (let tick = session.confirmed; tick > 0 && !certain[i].has(tick); tick--) {
          const hash = session.hashOf(tick)
          if (hash === undefined) break
          certain[i].set(tick, hash)
          const theirs = certain[1 - i].get(tick)
          if (theirs === undefined) continue
          assert.equal(hash, theirs, `tick ${tick}`)
          checked++
        }
      }
    },
    get checked() {
      return checked
    },
  }
}

for (const [name, troubles] of [
  ['nothing but a short way', { delay: 5, jitter: 0, loss: 0 }],
  ['200 ms and 5 % lost', { delay: 200, jitter: 0, loss: 0.05 }],
  ['200 ms, up to 150 ms later, out of order, 30 % lost', { delay: 200, jitter: 150, loss: 0.3 }],
] as const) {
  test(`${name}: both views hold the same world at every tick that is certain`, () => {
    let pearls = 0
    for (let seed = 1; seed <= runs(2); seed++) {
      const check = checker()
      const { sessions, network } = play(seed, { ...troubles }, 1200, check.each)
      for (const session of sessions) {
        assert.equal(session.parted, null)
        assert.ok(session.tick > 1000, `it came to tick ${session.tick}`)
        assert.ok(session.compared > 1000, `hashes were compared up to ${session.compared}`)
        assert.ok(session.longest <= MOST_AHEAD)
        const ahead = session.tick - session.confirmed
        assert.ok(ahead <= Math.ceil(((troubles.delay + troubles.jitter) * 60) / 1000) + 12, `${ahead} ticks uncertain`)
      }
      assert.ok(check.checked > 1000, `${check.checked} ticks`)
      assert.equal(network.lost > 0, troubles.loss > 0)
      if (troubles.delay > 100) assert.ok(sessions[0].again > 500, 'much was played again')
      pearls += sessions[0].match.score[0] + sessions[0].match.score[1]
    }
    assert.ok(pearls > 0, 'somebody has brought the pearl home')
  })
}

test('where nothing comes through both wait, and go on when it does', () => {
  const troubles = { delay: 50, jitter: 0, loss: 0 }
  const check = checker()
  const stops: number[] = []
  const { sessions } = play(9, troubles, 900, (both, step) => {
    check.each(both)
    if (step === 300) troubles.loss = 1
    if (step === 500) {
      stops.push(...both.map((session) => session.tick))
      troubles.loss = 0
    }
  })
  assert.ok(stops.every((tick) => tick < 300 + MOST_AHEAD + 5))
  assert.ok(sessions.every((session) => session.tick > 650 && session.parted === null))
})

test('a world that is not the same is told within the time of a message', () => {
  let spoiltAt = 0
  const { sessions } = play(4, { delay: 100, jitter: 20, loss: 0.05 }, 600, ([one], step) => {
    if (step < 300 || step > 340) return
    if (step === 300) spoiltAt = one.tick
    // As a program that adds up in another order, or reads a clock, would have it.
    one.match.world.gravity = { x: 1e-9, y: 0 }
  })
  for (const { parted } of sessions) {
    assert.ok(parted !== null && parted > spoiltAt - 20 && parted < spoiltAt + 60, `it is found at ${parted}`)
  }
})
