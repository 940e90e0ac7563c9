/** Our reading of accessors and places of nodes against that of an independent reader, over random small documents. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { type JSONDocument, WebIO } from '@gltf-transform/core'
import fc from 'fast-check'
import { readModel } from '../../scenes-package/src/gltf/index.ts'

const WRITERS: Readonly<Record<number, [bytes: number, write: (view: DataView, at: number, value: number) => void]>> = {
  5120: [1, (view, at, value) => view.setInt8(at, value)],
  5121: [1, (view, at, value) => view.setUint8(at, value)],
  5122: [2, (view, at, value) => view.setInt16(at, value, true)],
  5123: [2, (view, at, value) => view.setUint16(at, value, true)],
  5125: [4, (view, at, value) => view.setUint32(at, value, true)],
  5126: [4, (view, at, value) => view.setFloat32(at, value / 7, true)],
}

const part = fc.double({ min: -1, max: 1, noNaN: true })
const three = fc.tuple(part, part, part)
const quaternion = fc
  .tuple(part, part, part, part)
  .map((q) => [...q, Math.hypot(...q)] as const)
  .filter((q) => q[4] > 0.1)
  .map(([x, y, z, w, length]) => [x / length, y / length, z / length, w / length])

const plan = fc.record({
  count: fc.integer({ min: 3, max: 12 }),
  values: fc.array(fc.integer({ min: -32768, max: 32767 }), { minLength: 36, maxLength: 36 }),
  type: fc.constantFrom(5120, 5121, 5122, 5123, 5126),
  normalized: fc.boolean(),
  gap: fc.constantFrom(0, 4, 8),
  sparse: fc.option(
    fc.tuple(fc.constantFrom(5121, 5123, 5125), fc.uniqueArray(fc.nat(2), { minLength: 1, maxLength: 3 })),
  ),
  indexType: fc.option(fc.constantFrom(5121, 5123, 5125)),
  mode: fc.constantFrom(4, 5, 6),
  up: fc.record({ translation: three, rotation: quaternion, scale: three.map((s) => s.map((x) => x + 2)) }),
  down: fc.record({ translation: three, rotation: quaternion, scale: three.map((s) => s.map((x) => x + 2)) }),
})

type Plan = typeof plan extends fc.Arbitrary<infer P> ? P : never

/** A document with one mesh under two nodes, and its bytes. */
function documentOf({ count, values, type, normalized, gap, sparse, indexType, mode, up, down }: Plan) {
  const bytes = new Uint8Array(4096)
  const view = new DataView(bytes.buffer)
  let end = 0
  const bufferViews: object[] = []
  const put = (numbers: readonly number[], kind: number, width: number, stride: number): number => {
    const [size, write] = WRITERS[kind]
    const start = end
    for (const [i, value] of numbers.entries())
      write(view, start + Math.floor(i / width) * stride + (i % width) * size, value)
    end += Math.ceil((Math.ceil(numbers.length / width) * stride) / 4) * 4
    const byteStride = width > 1 && stride >= 4 && stride % 4 === 0 ? { byteStride: stride } : {}
    return bufferViews.push({ buffer: 0, byteOffset: start, byteLength: end - start, ...byteStride }) - 1
  }
  const [size] = WRITERS[type]
  const packed = 3 * size
  const positions = put(values.slice(0, 3 * count), type, 3, gap === 0 ? packed : Math.ceil(packed / 4) * 4 + gap)
  const accessors: object[] = [
    {
      bufferView: positions,
      componentType: type,
      ...(type === 5126 ? {} : { normalized }),
      count,
      type: 'VEC3',
      ...(sparse === null
        ? {}
        : {
            sparse: {
              count: sparse[1].length,
              indices: {
                bufferView: put([...sparse[1]].sort(), sparse[0], 1, WRITERS[sparse[0]][0]),
                componentType: sparse[0],
              },
              values: { bufferView: put(values.slice(9, 9 + 3 * sparse[1].length), type, 3, packed) },
            },
          }),
    },
  ]
  const primitive: { attributes: object; mode: number; indices?: number } = { attributes: { POSITION: 0 }, mode }
  if (indexType !== null) {
    const list = values.slice(0, 9).map((value) => Math.abs(value) % count)
    const bufferView = put(list, indexType, 1, WRITERS[indexType][0])
    primitive.indices = accessors.push({ bufferView, componentType: indexType, count: 9, type: 'SCALAR' }) - 1
  }
  const json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [
      { name: 'up', children: [1], ...up },
      { name: 'down', mesh: 0, ...down },
    ],
    meshes: [{ primitives: [primitive] }],
    accessors,
    bufferViews,
    buffers: [{ byteLength: end, uri: 'all.bin' }],
  }
  return { json, bytes: bytes.slice(0, end) }
}

test('positions of random documents are those of an independent reader', async () => {
  let triangles = 0
  await fc.assert(
    fc.asyncProperty(plan, async (each) => {
      const { json, bytes } = documentOf(each)
      const text = new TextEncoder().encode(JSON.stringify(json))
      const { nodes } = await readModel(text, { resource: () => bytes })
      const document = await new WebIO().readJSON({ json, resources: { 'all.bin': bytes } } as unknown as JSONDocument)
      const node = document.getRoot().listNodes()[1]
      const accessor = node.getMesh()!.listPrimitives()[0].getAttribute('POSITION')!
      const m = node.getWorldMatrix()
      const point: number[] = []
      assert.equal(nodes.length, 1)
      assert.equal(nodes[0].positions.length, 3 * accessor.getCount())
      triangles += nodes[0].indices.length / 3
      for (let i = 0; i < accessor.getCount(); i++) {
        accessor.getElement(i, point)
        for (let axis = 0; axis < 3; axis++) {
          const wanted = m[axis] * point[0] + m[4 + axis] * point[1] + m[8 + axis] * point[2] + m[12 + axis]
          const got = nodes[0].positions[3 * i + axis]
          assert.ok(Math.abs(got - wanted) <= 1e-12 * (1 + 3e5), `${got} instead of ${wanted}`)
        }
      }
    }),
    { numRuns: 1500 },
  )
  assert.ok(triangles > 3000, `only ${triangles} triangles`)
})
