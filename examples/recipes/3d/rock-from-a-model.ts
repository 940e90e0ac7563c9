/**
 * Rock from a model: the nodes of a glTF file become the colliders of a body, arches as the triangles they are, boulders as
 * their convex hulls.
 */
import { readFile } from 'node:fs/promises'
import { createWorld, defineLayers, hull, mesh } from 'keen-sentry/3d'
import { readModel } from 'keen-sentry-scenes/gltf'

const { nodes, warnings } = await readModel(await readFile('scenes/sea-rocks.glb'))
console.log(`${nodes.length} nodes, ${warnings.length} warnings`)

const world = createWorld({ layers: defineLayers(['rock']) })
const rocks = world.add({ type: 'static', name: 'rocks' })
for (const { name, positions, indices } of nodes) {
  const points = Array.from({ length: positions.length / 3 }, (_, i) => {
    const [x, y, z] = positions.subarray(3 * i)
    return { x, y, z }
  })
  const shape = name.startsWith('boulder') ? hull(points) : mesh({ positions, indices })
  rocks.attach({ shape, layer: 'rock' })
}

const under = world.raycast.first({ from: { x: -6, y: 0.5, z: 4 }, direction: { x: 0, y: 1, z: 0 }, reach: 20 })
console.log(`over the crawler the arch begins ${under?.distance.toFixed(2)} m up, triangle ${under?.part}`)
const [far] = world.nearest.all({ point: { x: 19, y: 8, z: 8 }, reach: 20 })
console.log(`nearest to the lamp: ${nodes[far.collider.index].name}, ${far.distance.toFixed(2)} m away`)
