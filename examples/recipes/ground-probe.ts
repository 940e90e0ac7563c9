/** Ground probe: how high is the craft over the bottom, and how steep is it there? A shape cast sees what a thin ray misses. */
import { box, circle, createWorld, defineLayers, polyline } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'craft']) })
const bottom = polyline([
  { x: -10, y: 0 },
  { x: 2, y: 0 },
  { x: 10, y: 4 },
])
world.add({ type: 'static', name: 'bottom', colliders: [{ shape: bottom, layer: 'rock' }] })
world.add({
  type: 'static',
  name: 'spike',
  at: { x: -2.3, y: 0.75 },
  colliders: [{ shape: box(0.1, 1.5), layer: 'rock' }],
})
const craft = world.add({ type: 'kinematic', at: { x: -2, y: 5 }, colliders: [{ shape: circle(0.5), layer: 'craft' }] })

function probe(): string {
  const { x, y } = craft.at
  const foot = box(1, 0.2)
  const hit = world.shapecast.first(
    { shape: foot, from: { x, y }, to: { x, y: y - 8 } },
    { as: 'craft', except: craft },
  )
  if (hit === null) return 'nothing below'
  const slope = (Math.atan2(-hit.normal.x, hit.normal.y) * 180) / Math.PI
  const edge = hit.part < 0 ? '' : `, edge ${hit.part}`
  return `${hit.distance.toFixed(2)} m over the ${hit.body}${edge}, slope ${Math.abs(slope).toFixed(0)} degrees`
}

console.log(probe())
craft.teleport({ x: 6, y: 5 })
console.log(probe())
