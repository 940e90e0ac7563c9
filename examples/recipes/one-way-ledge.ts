/** A ledge that is passed from below and held from above: a decide hook has the last word when the two come into touch. */
import { box, circle, createWorld, defineLayers } from '../../src/2d/index.ts'

const world = createWorld({ layers: defineLayers(['craft', 'ledge']), rate: 10 })
world.add({ type: 'static', name: 'ledge', at: { x: 0, y: 4 }, colliders: [{ shape: box(6, 0.5), layer: 'ledge' }] })
const pod = world.add({
  type: 'kinematic',
  name: 'pod',
  velocity: { x: 0, y: 4 },
  colliders: [{ shape: circle(0.5), layer: 'craft' }],
})
world.decide('craft', 'ledge', (pair) => {
  const answer = pair.approach.y > 0 ? 'pass' : 'solid'
  console.log(`  ${pair.a} comes ${pair.approach.y > 0 ? 'from below' : 'from above'}: ${answer}`)
  return answer
})
world.watch('craft', 'ledge', {
  begin: (e) => console.log(`${e.time.toFixed(1)} s  ${e.a} stands on ${e.b}`),
  end: (e) => console.log(`${e.time.toFixed(1)} s  ${e.a} leaves ${e.b}`),
})
for (let tick = 0; tick < 40; tick++) {
  if (tick === 15) pod.velocity = { x: 0, y: -2 }
  if (pod.touching().length > 0) pod.velocity = { x: 0, y: 0 }
  world.step()
}
console.log(`it rests at ${pod.at.y.toFixed(2)} m`)
console.log(String(world.explain(pod, world.find('ledge')!)).split('\n')[0])
