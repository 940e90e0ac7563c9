/** Tags: names that a collider carries besides its layers. Each different set of them is kept once. */
import { list } from '../util/checks.ts'
import { KeenError, show } from '../util/errors.ts'
import { hint } from '../util/suggestions.ts'

export class Tags<T extends string = string> {
  readonly all: readonly T[]
  /** The members of each set, in the order of definition; set 0 is empty. */
  private readonly sets: (readonly number[])[] = [[]]
  private readonly ids = new Map<string, number>([['', 0]])

  constructor(all: readonly T[]) {
    const seen = new Set<string>()
    for (const name of all as readonly unknown[]) {
      if (typeof name !== 'string' || name === '') {
        throw new KeenError('bad-argument', `a tag is a string other than '', got ${show(name)}`)
      }
      if (seen.has(name)) throw new KeenError('duplicate-name', `two tags are called ${show(name)}`)
      seen.add(name)
    }
    this.all = Object.freeze([...all])
  }

  index(name: T): number {
    const index = this.all.indexOf(name)
    if (index >= 0) return index
    if (typeof name !== 'string') throw new KeenError('unknown-tag', `a tag is named by a string, got ${show(name)}`)
    throw new KeenError('unknown-tag', `no tag is called ${show(name)}; ${hint(name, this.all)}`)
  }

  /** The members of each set, by its number. */
  setsNow(): readonly (readonly number[])[] {
    return this.sets
  }

  /** Makes sure that there are sets with these members. Returns their numbers. */
  adopt(sets: readonly (readonly number[])[]): number[] {
    return sets.map((members) =>
      this.set(
        members.map((index) => this.all[index]),
        'saved tags',
      ),
    )
  }

  /** The number of the set with these members. */
  set(names: readonly T[], what: string): number {
    if (Array.isArray(names) && names.length === 0) return 0
    const members = [...new Set(list(names, what).map((name) => this.index(name as T)))].sort((a, b) => a - b)
    const key = members.join(',')
    let id = this.ids.get(key)
    if (id === undefined) {
      id = this.sets.push(members) - 1
      this.ids.set(key, id)
    }
    return id
  }

  members(set: number): readonly number[] {
    return this.sets[set]
  }

  names(set: number): T[] {
    return this.sets[set].map((index) => this.all[index])
  }

  has(set: number, tag: number): boolean {
    return set !== 0 && this.sets[set].includes(tag)
  }
}
