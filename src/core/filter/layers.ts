/** Layers: up to 32 named bits, and the pair table that says how each two of them treat each other. Immutable. */
import { list, oneOf, onlyFields, word } from '../util/checks.ts'
import { KeenError, show } from '../util/errors.ts'
import { hint } from '../util/suggestions.ts'

/** How two colliders treat each other: they press, they pass through each other and it is reported, or nothing. */
export type Response = 'solid' | 'sense' | 'pass'

export const RESPONSES = ['pass', 'sense', 'solid'] as const satisfies readonly Response[]
const MAX_LAYERS = 32

/** One row of the pair table; `'*'` is every layer. */
export type PairRow<L extends string> = readonly [L | '*', L | '*', Response]

/** Some layers: one name, several, or the unsigned 32-bit mask itself. */
export type LayerSet<L extends string> = L | readonly L[] | number

/** What `defineLayers` takes besides the names. */
export interface LayerOptions<L extends string> {
  /** What two layers do that no row matches. Default `'solid'`. */
  otherwise?: Response | undefined
  /** Rows in order; later rows win. */
  pairs?: readonly PairRow<L>[] | undefined
}

/** A set of layers and their pair table; made by {@link defineLayers}, can be shared between worlds. */
export class Layers<L extends string = string> {
  /** The names, in the order of their bits. */
  readonly all: readonly L[]
  /** For each layer the mask of those it is solid to; signed words. */
  private readonly solid: Int32Array
  private readonly sense: Int32Array
  private readonly indexes: Map<string, number>

  /** @internal */
  constructor(all: readonly L[], solid: Int32Array, sense: Int32Array) {
    this.all = all
    this.solid = solid
    this.sense = sense
    this.indexes = new Map(all.map((name, index) => [name, index]))
    Object.freeze(this)
  }

  /** The place of a layer in the definition, 0 to 31. Throws `unknown-layer`. */
  index(name: L): number {
    const index = this.indexes.get(name)
    if (index !== undefined) return index
    if (typeof name !== 'string')
      throw new KeenError('unknown-layer', `a layer is named by a string, got ${show(name)}`)
    throw new KeenError('unknown-layer', `no layer is called ${show(name)}; ${hint(name, this.all)}`)
  }

  /** Whether a layer of that name was defined. */
  has(name: string): name is L {
    return this.indexes.has(name)
  }

  /** The mask with the one bit of this layer, unsigned. Throws `unknown-layer`. */
  bit(name: L): number {
    return (1 << this.index(name)) >>> 0
  }

  /** The mask of several layers, unsigned. No name gives 0, nobody. Throws `unknown-layer`. */
  mask(...names: readonly L[]): number {
    let bits = 0
    for (const name of names) bits |= 1 << this.index(name)
    return bits >>> 0
  }

  /** The names of the bits that are set in a mask; bits without a layer are left out. */
  names(mask: number): L[] {
    const bits = word(mask, 'mask')
    return this.all.filter((_, index) => (bits & (1 << index)) !== 0)
  }

  /** What the pair table says of two layers. Throws `unknown-layer`. */
  pair(a: L, b: L): Response {
    const bit = 1 << this.index(b)
    const from = this.index(a)
    return (this.solid[from] & bit) !== 0 ? 'solid' : (this.sense[from] & bit) !== 0 ? 'sense' : 'pass'
  }

  /** A copy in which one pair answers otherwise. `'*'` is every layer. The original is left as it is. */
  withPair(a: L | '*', b: L | '*', response: Response): Layers<L> {
    const solid = this.solid.slice()
    const sense = this.sense.slice()
    writeRow(this, solid, sense, a, b, oneOf(response, RESPONSES, 'the response of a pair'))
    return new Layers(this.all, solid, sense)
  }

  /** The pair table: of each layer the mask of those it is solid to, and of those it senses. @internal */
  words(): readonly [Int32Array, Int32Array] {
    return [this.solid, this.sense]
  }

  /** The word of a {@link LayerSet}, signed. Throws `unknown-layer` or `bad-number`, naming `what`. @internal */
  word(set: LayerSet<L>, what: string): number {
    if (typeof set === 'number') return word(set, what)
    if (typeof set === 'string') return 1 << this.index(set)
    if (Array.isArray(set)) {
      let bits = 0
      for (let i = 0; i < set.length; i++) bits |= 1 << this.index(set[i] as L)
      return bits
    }
    throw new KeenError('bad-argument', `${what} must be a layer, a list of layers or a mask, got ${show(set)}`)
  }

  /** What a layer, or any of several, is solid to: a mask. */
  solidBits(of: LayerSet<L>): number {
    return gather(this.solid, this.word(of, 'solidBits')) >>> 0
  }

  /** What a layer, or any of several, senses: a mask. */
  senseBits(of: LayerSet<L>): number {
    return gather(this.sense, this.word(of, 'senseBits')) >>> 0
  }
}

function gather(words: Int32Array, bits: number): number {
  let all = 0
  for (let index = 0; index < words.length; index++) if ((bits & (1 << index)) !== 0) all |= words[index]
  return all
}

function writeRow(
  layers: Layers,
  solid: Int32Array,
  sense: Int32Array,
  a: string,
  b: string,
  response: Response,
): void {
  const each = (name: string): number[] => (name === '*' ? layers.all.map((_, index) => index) : [layers.index(name)])
  const set = (i: number, j: number): void => {
    solid[i] = response === 'solid' ? solid[i] | (1 << j) : solid[i] & ~(1 << j)
    sense[i] = response === 'sense' ? sense[i] | (1 << j) : sense[i] & ~(1 << j)
  }
  for (const i of each(a)) {
    for (const j of each(b)) {
      set(i, j)
      set(j, i)
    }
  }
}

/**
 * Names the layers of a world and says how each two treat each other.
 *
 * @param names 1 to 32 different names; the first is bit 0
 * @throws KeenError `too-many-layers`, `duplicate-name`, `unknown-layer` (in a row), `bad-argument`
 * @example defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })
 */
export function defineLayers<const L extends string>(
  names: readonly L[],
  options: LayerOptions<NoInfer<L>> = {},
): Layers<L> {
  if (!Array.isArray(names) || names.length === 0) {
    throw new KeenError('bad-argument', `defineLayers takes a list of at least one name, got ${show(names)}`)
  }
  if (names.length > MAX_LAYERS) {
    throw new KeenError('too-many-layers', `there can be at most ${MAX_LAYERS} layers, got ${names.length}`)
  }
  const seen = new Set<string>()
  for (const name of names as readonly unknown[]) {
    if (typeof name !== 'string' || name === '' || name === '*') {
      throw new KeenError('bad-argument', `a layer is named by a string other than '' and '*', got ${show(name)}`)
    }
    if (seen.has(name)) throw new KeenError('duplicate-name', `two layers are called ${show(name)}`)
    seen.add(name)
  }
  onlyFields(options, ['otherwise', 'pairs'], 'the options of defineLayers')
  const otherwise = oneOf(options.otherwise ?? 'solid', RESPONSES, 'otherwise')
  const everything = names.length === 32 ? -1 : (1 << names.length) - 1
  const solid = new Int32Array(names.length).fill(otherwise === 'solid' ? everything : 0)
  const sense = new Int32Array(names.length).fill(otherwise === 'sense' ? everything : 0)
  const layers = new Layers<L>(Object.freeze([...names]), solid, sense)
  const rows = list(options.pairs ?? [], "'pairs' of defineLayers")
  for (const [index, row] of rows.entries()) {
    if (!Array.isArray(row) || row.length !== 3) {
      throw new KeenError('bad-argument', `pairs[${index}] must be [layer, layer, response], got ${show(row)}`)
    }
    writeRow(layers, solid, sense, row[0], row[1], oneOf(row[2], RESPONSES, `the response of pairs[${index}]`))
  }
  return layers
}
