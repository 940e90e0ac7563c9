/** The numbers of glTF accessors, and the places of nodes. What is read here has been found sound in `form.ts`. */
import type { Form } from './form.ts'

type Accessor = NonNullable<Form['accessors']>[number]

export const COMPONENT_BYTES: Readonly<Record<number, number>> = {
  5120: 1,
  5121: 1,
  5122: 2,
  5123: 2,
  5125: 4,
  5126: 4,
}
export const COMPONENTS: Readonly<Record<Accessor['type'], number>> = {
  SCALAR: 1,
  VEC2: 2,
  VEC3: 3,
  VEC4: 4,
  MAT2: 4,
  MAT3: 9,
  MAT4: 16,
}
/** What a whole number stands for 1 with, where numbers are normalized. */
const ONE: Readonly<Record<number, number>> = { 5120: 127, 5121: 255, 5122: 32767, 5123: 65535, 5125: 4294967295 }

/** Reads one number of a type. */
function read(view: DataView, at: number, type: number): number {
  switch (type) {
    case 5120:
      return view.getInt8(at)
    case 5121:
      return view.getUint8(at)
    case 5122:
      return view.getInt16(at, true)
    case 5123:
      return view.getUint16(at, true)
    case 5125:
      return view.getUint32(at, true)
    default:
      return view.getFloat32(at, true)
  }
}

/** Elements of so many numbers, one after the other within a view of a buffer. */
interface Run {
  readonly bufferView: number | undefined
  readonly byteOffset: number | undefined
  readonly componentType: number
  readonly width: number
  readonly count: number
}

function fill(
  form: Form,
  buffers: readonly Uint8Array[],
  run: Run,
  put: (element: number, k: number, value: number) => void,
) {
  if (run.bufferView === undefined) return
  const view = form.bufferViews![run.bufferView]
  const bytes = buffers[view.buffer]
  const size = COMPONENT_BYTES[run.componentType]
  const data = new DataView(bytes.buffer, bytes.byteOffset + (view.byteOffset ?? 0) + (run.byteOffset ?? 0))
  const stride = view.byteStride ?? size * run.width
  for (let i = 0; i < run.count; i++) {
    for (let k = 0; k < run.width; k++) put(i, k, read(data, i * stride + k * size, run.componentType))
  }
}

/** All numbers of an accessor, element after element: zeros where it has no bytes, sparse ones put in. */
export function numbersOf(form: Form, buffers: readonly Uint8Array[], index: number): Float64Array {
  const accessor = form.accessors![index]
  const { componentType, count, sparse, normalized } = accessor
  const width = COMPONENTS[accessor.type]
  const out = new Float64Array(count * width)
  const one = normalized === true && componentType !== 5126 ? ONE[componentType] : 1
  const scaled = (value: number): number => (one === 1 ? value : Math.max(value / one, -1))
  fill(
    form,
    buffers,
    { ...accessor, bufferView: accessor.bufferView, byteOffset: accessor.byteOffset, width },
    (i, k, value) => {
      out[i * width + k] = scaled(value)
    },
  )
  if (sparse === undefined) return out
  const places = new Uint32Array(sparse.count)
  const { indices, values } = sparse
  fill(form, buffers, { byteOffset: undefined, ...indices, width: 1, count: sparse.count }, (i, _, value) => {
    places[i] = value
  })
  fill(
    form,
    buffers,
    { byteOffset: undefined, ...values, componentType, width, count: sparse.count },
    (i, k, value) => {
      if (places[i] < count) out[places[i] * width + k] = scaled(value)
    },
  )
  return out
}

type Node = NonNullable<Form['nodes']>[number]

/** A matrix of 4 by 4, column after column. */
export type Matrix = readonly number[]

export const IDENTITY: Matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]

/** The matrix of a node within the one above it: as given, or translation times rotation times scale. */
export function matrixOf(node: Node): Matrix {
  if (node.matrix !== undefined) return node.matrix
  const [x, y, z, w] = node.rotation ?? [0, 0, 0, 1]
  const [sx, sy, sz] = node.scale ?? [1, 1, 1]
  const [tx, ty, tz] = node.translation ?? [0, 0, 0]
  return [
    ...[(1 - 2 * (y * y + z * z)) * sx, 2 * (x * y + z * w) * sx, 2 * (x * z - y * w) * sx, 0],
    ...[2 * (x * y - z * w) * sy, (1 - 2 * (x * x + z * z)) * sy, 2 * (y * z + x * w) * sy, 0],
    ...[2 * (x * z + y * w) * sz, 2 * (y * z - x * w) * sz, (1 - 2 * (x * x + y * y)) * sz, 0],
    ...[tx, ty, tz, 1],
  ]
}

/** One matrix after another. */
export function product(a: Matrix, b: Matrix): Matrix {
  return Array.from({ length: 16 }, (_, at) => {
    const row = at % 4
    const column = at - row
    return a[row] * b[column] + a[4 + row] * b[column + 1] + a[8 + row] * b[column + 2] + a[12 + row] * b[column + 3]
  })
}
