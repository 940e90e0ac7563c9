/** The model test of the ledger over both dimensions: one model, two stages. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { LedgerModel } from '../helpers/ledger-model.ts'
import { Random } from '../helpers/random.ts'
import { Stage2, Stage3 } from '../helpers/stages.ts'

const LONG = process.env['KEEN_LONG'] === '1'

/** Runs many worlds and asks that enough happened in them. */
function runModels(
  make: (seed: number) => { run(steps: number): void; operations: number; events: number; crossings: number },
  worlds: number,
  most: number,
  least: { operations: number; crossings: number },
): void {
  let operations = 0
  let events = 0
  let crossings = 0
  fc.assert(
    fc.property(fc.integer(), fc.integer({ min: 1, max: most }), (seed, steps) => {
      const model = make(seed)
      model.run(steps)
      operations += model.operations
      events += model.events
      crossings += model.crossings
    }),
    { numRuns: worlds },
  )
  assert.ok(operations > least.operations, `only ${operations} operations`)
  assert.ok(events > operations / 2, `only ${events} events of ${operations} operations`)
  assert.ok(crossings > least.crossings, `only ${crossings} crossings`)
}

test('2d: every begin gets its end, and what was told is what the shapes and the filter say', () => {
  const make = (seed: number) => new LedgerModel(new Stage2(new Random(seed), false))
  if (LONG) runModels(make, 25_000, 60, { operations: 1_000_000, crossings: 5000 })
  else runModels(make, 80, 60, { operations: 1500, crossings: 4 })
})

test('3d: every begin gets its end, and what was told is what the shapes and the filter say', () => {
  const make = (seed: number) => new LedgerModel(new Stage3(new Random(seed), false))
  if (LONG) runModels(make, 25_000, 60, { operations: 1_000_000, crossings: 2000 })
  else runModels(make, 45, 60, { operations: 700, crossings: 2 })
})

for (const [name, Stage, worlds] of [
  ['2d', Stage2, 70],
  ['3d', Stage3, 45],
] as const)
  test(`${name}: the same holds where bodies fall, strike, bounce, sleep and change their type`, () => {
    let events = 0
    let bounces = 0
    fc.assert(
      fc.property(fc.integer(), fc.integer({ min: 1, max: 90 }), (seed, steps) => {
        const model =
          Stage === Stage2
            ? new LedgerModel(new Stage2(new Random(seed), true))
            : new LedgerModel(new Stage3(new Random(seed), true))
        model.run(steps)
        events += model.events
        bounces += model.bounces
      }),
      { numRuns: LONG ? 25_000 : worlds },
    )
    assert.ok(events > 500, `only ${events} events`)
    // Few worlds may have none.
    if (LONG) assert.ok(bounces > 0, `only ${bounces} bounces`)
  })
