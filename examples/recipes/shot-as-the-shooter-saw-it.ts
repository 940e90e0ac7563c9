/** Lag compensation on a server: a shot is judged by where the targets were when the shooter fired, as that player saw them. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const RATE = 60
const layers = defineLayers(['rock', 'pod'])
// A quarter of a second is as far back as anybody may aim.
const world = createWorld({ layers, rate: RATE, history: 15 })
world.add({ type: 'static', name: 'wall', at: { x: 6, y: 4 }, colliders: [{ shape: box(1, 4), layer: 'rock' }] })
const pod = world.add({
  type: 'kinematic',
  name: 'pod',
  at: { x: 9, y: -1 },
  velocity: { x: 0, y: 15 },
  colliders: [{ shape: circle(0.6), layer: 'pod' }],
})
for (let tick = 0; tick < 20; tick++) world.step()
console.log(`the pod is at ${pod.at.y.toFixed(2)} now, behind the wall`)

/** A shot that comes in now, from a player whose picture is so many milliseconds old. */
function judge(player: string, latency: number): void {
  const ago = Math.min(15, Math.round((latency / 1000) * RATE))
  const shot = { from: { x: 0, y: 0 }, to: { x: 12, y: 2 } }
  const hit = world.past(ago).raycast.first(shot)
  console.log(`${player}, ${latency} ms: ${hit === null ? 'nothing' : `${hit.body} at ${hit.distance.toFixed(2)} m`}`)
}

judge('near', 0)
judge('far', 150)
judge('farther', 230)
// Who is gone now was there then.
pod.remove()
judge('far', 150)
