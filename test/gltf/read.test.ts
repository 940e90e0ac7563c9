import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import { Document, type Primitive, WebIO } from '@gltf-transform/core'
import fc from 'fast-check'
import { type Model, readModel } from '../../scenes-package/src/gltf/index.ts'
import { hull, mesh } from '../../src/3d/index.ts'
import { KeenError } from '../../src/core/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { rejectsKeen } from '../helpers/throws.ts'

const rocks = (): Uint8Array => new Uint8Array(readFileSync(new URL('../../scenes/sea-rocks.glb', import.meta.url)))

/** A wedge of four triangles: its corners at the origin and one metre along each axis. */
const WEDGE = [0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1]
const FACES = [0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3]

interface Put {
  name?: string
  translation?: [number, number, number]
  rotation?: [number, number, number, number]
  scale?: [number, number, number]
  mode?: Primitive['getMode'] extends () => infer M ? M : never
  indices?: number[] | null
  positions?: number[]
}

/** A document with a node for each entry. */
function documentOf(...nodes: Put[]): Document {
  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene()
  for (const { name = '', translation, rotation, scale, mode = 4, indices = FACES, positions = WEDGE } of nodes) {
    const primitive = document.createPrimitive().setMode(mode)
    const points = document.createAccessor().setType('VEC3').setArray(Float32Array.from(positions)).setBuffer(buffer)
    primitive.setAttribute('POSITION', points)
    if (indices !== null) {
      const list = document.createAccessor().setType('SCALAR').setArray(Uint16Array.from(indices)).setBuffer(buffer)
      primitive.setIndices(list)
    }
    const node = document.createNode(name).setMesh(document.createMesh().addPrimitive(primitive))
    if (translation) node.setTranslation(translation)
    if (rotation) node.setRotation(rotation)
    if (scale) node.setScale(scale)
    scene.addChild(node)
  }
  return document
}

const glb = (document: Document): Promise<Uint8Array> => new WebIO().writeBinary(document)
const read = async (...nodes: Put[]): Promise<Model> => readModel(await glb(documentOf(...nodes)))

/** The JSON of a .gltf with its bytes as data within. */
async function gltf(document: Document): Promise<{ json: Record<string, unknown>; bytes: Uint8Array }> {
  const { json, resources } = await new WebIO().writeJSON(document)
  const [bytes] = Object.values(resources)
  const text = Buffer.from(bytes).toString('base64')
  json.buffers![0].uri = `data:application/octet-stream;base64,${text}`
  return { json: json as unknown as Record<string, unknown>, bytes }
}

const encode = (json: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(json))

test('the nodes of the demo model have their names and triangles, which make meshes and hulls', async () => {
  const { nodes, warnings } = await readModel(rocks())
  assert.deepEqual(warnings, [])
  assert.deepEqual(
    nodes.map(({ name }) => name),
    ['arch west', 'arch east', 'boulder grey', 'boulder split', 'boulder low', 'boulder far'],
  )
  for (const { name, positions, indices } of nodes) {
    const surface = mesh({ positions, indices })
    assert.equal(surface.triangles, indices.length / 3, name)
    const points = Array.from({ length: positions.length / 3 }, (_, i) => ({
      x: positions[3 * i],
      y: positions[3 * i + 1],
      z: positions[3 * i + 2],
    }))
    if (name.startsWith('boulder')) {
      assert.equal(surface.closed, true, name)
      assert.ok(hull(points).volume > 5, `${name} has ${hull(points).volume} cubic metres`)
    }
  }
})

test('places, rotations and scales of all nodes above are baked in; even ones silently', async () => {
  const document = documentOf({ name: 'leaf', translation: [1, 0, 0], scale: [2, 2, 2] })
  const scene = document.getRoot().listScenes()[0]
  const leaf = scene.listChildren()[0]
  const half = Math.SQRT1_2
  const top = document.createNode('group').setTranslation([0, 5, 0]).setRotation([0, half, 0, half]).addChild(leaf)
  scene.addChild(top)
  const model = await readModel(await glb(document))
  const [node] = model.nodes
  assert.deepEqual(model.warnings, [])
  assert.deepEqual(node.groups, ['group'])
  // A quarter turn about y takes x to -z and z to x.
  const expected = [0, 5, -1, 0, 5, -3, 0, 7, -1, 2, 5, -1]
  for (const [i, value] of expected.entries()) assert.ok(Math.abs(node.positions[i] - value) < 1e-6, `number ${i}`)
})

test('an uneven scale and a mirrored node are baked in with a warning, fronts staying fronts', async () => {
  const model = await read({ name: 'flat', scale: [1, 0.5, 1] }, { name: 'twin', scale: [-1, 1, 1] }, { name: 'plain' })
  assert.deepEqual(
    model.nodes.map(({ uneven, mirrored }) => [uneven, mirrored]),
    [
      [true, false],
      [false, true],
      [false, false],
    ],
  )
  assert.deepEqual(model.warnings, [
    '"flat" is scaled unevenly, which is baked into its triangles',
    '"twin" is mirrored, which is baked into its triangles',
  ])
  for (const { name, positions: p, indices } of model.nodes) {
    let volume = 0
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [3 * indices[i], 3 * indices[i + 1], 3 * indices[i + 2]]
      volume +=
        p[a] * (p[b + 1] * p[c + 2] - p[b + 2] * p[c + 1]) +
        p[a + 1] * (p[b + 2] * p[c] - p[b] * p[c + 2]) +
        p[a + 2] * (p[b] * p[c + 1] - p[b + 1] * p[c])
    }
    assert.ok(volume > 0, `${name} is inside out`)
  }
})

test('strips, fans and lists without indices become triangles; lines are passed over', async () => {
  const square = [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0]
  const { nodes, warnings } = await read(
    { name: 'strip', mode: 5, indices: [0, 1, 2, 3], positions: square },
    { name: 'fan', mode: 6, indices: [0, 1, 3, 2], positions: square },
    { name: 'list', indices: null, positions: square.slice(0, 9) },
    { name: 'line', mode: 1, indices: [0, 1], positions: square },
  )
  assert.deepEqual(
    nodes.map(({ name, indices }) => [name, [...indices]]),
    [
      ['strip', [0, 1, 2, 2, 1, 3]],
      ['fan', [0, 1, 3, 0, 3, 2]],
      ['list', [0, 1, 2]],
    ],
  )
  assert.deepEqual(warnings, ['"line" has lines or points: passed over'])
})

test('a .gltf with its bytes within, and with a buffer beside it', async () => {
  const { json, bytes } = await gltf(documentOf({ name: 'wedge' }))
  assert.equal((await readModel(encode(json))).nodes[0].name, 'wedge')
  const beside = structuredClone(json) as { buffers: { uri: string }[] }
  beside.buffers[0].uri = 'more/wedge%201.bin'
  const asked: string[] = []
  const resource = (uri: string): Uint8Array => {
    asked.push(uri)
    return bytes
  }
  assert.equal((await readModel(encode(beside), { resource })).nodes.length, 1)
  assert.deepEqual(asked, ['more/wedge 1.bin'])
  await rejectsKeen('bad-model', /no way to read it was given/, readModel(encode(beside)))
  for (const uri of ['/etc/hosts', '../up.bin', 'a/%2e%2e/b', 'https://x.example/a.bin', 'file:///a', 'a\\b', '%']) {
    beside.buffers[0].uri = uri
    await rejectsKeen('bad-model', /only files beside the model are read/, readModel(encode(beside), { resource }))
  }
})

test('what is broken or hostile is one clear error, before anything large is made', async () => {
  // biome-ignore lint/suspicious/noExplicitAny: the file is spoilt at will
  type Any = any
  const { json } = await gltf(documentOf({ name: 'wedge' }, { name: 'other' }))
  const cases: [(form: Any) => void, RegExp][] = [
    [(form) => (form.asset.version = '1.0'), /is of glTF 1\.0/],
    [(form) => (form.extensionsRequired = ['KHR_draco_mesh_compression']), /needs the extension KHR_draco/],
    [(form) => (form.nodes[0].children = [0]), /circle of nodes/],
    [(form) => (form.nodes[0].children = [1]), /nodes\.1 is in scenes\.0, and has a parent/],
    [(form) => (form.nodes[0].mesh = 7), /nodes\.0\.mesh is 7, and there are 2/],
    [(form) => (form.nodes[0].matrix = [1, 2]), /nodes\.0\.matrix is not what glTF says/],
    [(form) => (form.nodes[0].scale = [1e200, 1e200, 1e200]), /lies at \S+, and at most 1000000000 m is read/],
    [(form) => (form.accessors[0].count = 1e9), /has 1000000000 elements/],
    [(form) => (form.accessors[0].count = 10_000_000), /reaches beyond its bufferView/],
    [(form) => (form.accessors[0].byteOffset = 1e6), /reaches beyond its bufferView/],
    [(form) => (form.bufferViews[0].byteLength = 1e6), /reaches beyond its buffer/],
    [(form) => (form.buffers[0].byteLength = 1e8), /buffers\.0 has \d+ bytes, and should have 100000000/],
    [(form) => (form.buffers[0].uri = 'data:,hello'), /not base64/],
    [(form) => (form.meshes[0].primitives[0].indices = 0), /indices must be unsigned whole numbers/],
    [(form) => delete form.asset, /asset is not what glTF says/],
  ]
  for (const [spoil, reason] of cases) {
    const form = structuredClone(json)
    spoil(form)
    await rejectsKeen('bad-model', reason, readModel(encode(form)))
  }
  const bytes = rocks()
  await rejectsKeen('bad-model', /cut short/, readModel(bytes.subarray(0, 5000)))
  await rejectsKeen('bad-model', /neither a \.glb file nor JSON/, readModel(new Uint8Array([1, 2, 3, 4])))
  await rejectsKeen('bad-model', /at most 1000 are read/, readModel(bytes, { limits: { bytes: 1000 } }))
  await rejectsKeen('bad-model', /at most 3 are read/, readModel(bytes, { limits: { nodes: 3 } }))
  await rejectsKeen('bad-model', /at most 100 are read/, readModel(bytes, { limits: { elements: 100 } }))
  await rejectsKeen('bad-argument', /Uint8Array/, readModel('arches.glb' as never))
})

test('a spoilt file is read or refused with one clear error', async () => {
  const whole = rocks()
  const { json } = await gltf(documentOf({ name: 'wedge', scale: [1, 2, 1] }, { name: 'other', mode: 5 }))
  const text = JSON.stringify(json)
  let refused = 0
  let taken = 0
  const outcome = async (bytes: Uint8Array): Promise<void> => {
    try {
      const model = await readModel(bytes)
      taken++
      for (const { positions, indices } of model.nodes) {
        assert.ok(positions.every(Number.isFinite), 'a vertex that is no number')
        assert.ok(
          indices.every((index) => index < positions.length / 3),
          'an index that leads nowhere',
        )
      }
    } catch (error) {
      if (!(error instanceof KeenError)) throw error
      refused++
      assert.equal(error.code, 'bad-model')
      assert.match(error.message, /^\S.{5,}/)
    }
  }
  /** Where the JSON of the binary file stands: spoilt more often than its share of the bytes. */
  const spot = fc.oneof(fc.nat(whole.length - 1), fc.nat(2400))
  await fc.assert(
    fc.asyncProperty(fc.array(fc.tuple(spot, fc.nat(255)), { minLength: 1, maxLength: 6 }), async (changes) => {
      const bytes = whole.slice()
      for (const [at, value] of changes) bytes[at] = value
      await outcome(bytes)
    }),
    { numRuns: runs(1000) },
  )
  // Numbers and words of the JSON, so that it stays JSON.
  const number = fc.constantFrom('-1', '0', '1', '1e9', '4294967295', '1e308', 'null', '"x"', '[]', '{}', '0.5', '7')
  await fc.assert(
    fc.asyncProperty(fc.array(fc.tuple(fc.nat(), number), { minLength: 1, maxLength: 3 }), async (changes) => {
      let spoilt = text
      for (const [at, value] of changes) {
        const places = [...spoilt.matchAll(/(?<=[:[,])-?\d+(\.\d+)?(?=[,\]}])/g)]
        const place = places[at % places.length]
        spoilt = spoilt.slice(0, place.index) + value + spoilt.slice(place.index + place[0].length)
      }
      await outcome(new TextEncoder().encode(spoilt))
    }),
    { numRuns: runs(1000) },
  )
  assert.ok(refused > 300 && taken > 60, `${refused} refused, ${taken} taken`)
})
