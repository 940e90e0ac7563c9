/** What must hold of the books of a world between two steps, whatever was done to it: read from its private tables. */
import assert from 'node:assert/strict'
import type { WorldCore } from '../../src/core/world.ts'

// biome-ignore lint/suspicious/noExplicitAny: a world of any kind
type AnyWorld = WorldCore<any, any, any, any>

/** Every link of the ledger belongs to a pair that lives and to a record of a watch that runs, and is counted once. */
export function checkBooks(world: AnyWorld): void {
  const { pairs, ledger } = world['rooms']
  const {
    pairOf,
    record: recordOf,
    response,
  } = {
    pairOf: ledger['linkPair'],
    record: ledger['linkRecord'],
    response: ledger['linkResponse'],
  }
  let byPair = 0
  for (let pair = 0; pair < pairs.table.size; pair++) {
    const a = pairs.a.data[pair]
    const b = pairs.b.data[pair]
    if (a === b) continue
    assert.ok(pairs.alive(pair), `pair ${pair} is gone and its slot is not free`)
    assert.equal(pairs.find(a, b), pair)
    assert.ok(world.population.handles.find(a)?.alive === true, `pair ${pair} of a dead collider`)
    assert.ok(world.population.handles.find(b)?.alive === true, `pair ${pair} of a dead collider`)
    for (let link = pairs.firstLink.data[pair]; link >= 0; link = ledger['nextOfPair'].data[link]) {
      assert.equal(pairOf.data[link], pair, `link ${link} is of another pair`)
      assert.ok(++byPair <= ledger.links.count, 'links of a pair lead in a circle')
    }
  }
  assert.equal(byPair, ledger.links.count, 'links that no pair holds')
  let byRecord = 0
  for (let record = 0; record < ledger.records.size; record++) {
    if (ledger.watchOf[record] == null) continue
    const counts = [0, 0, 0]
    for (let link = ledger['firstLink'].data[record]; link >= 0; link = ledger['nextOfRecord'].data[link]) {
      assert.equal(recordOf.data[link], record, `link ${link} is of another record`)
      assert.ok(++byRecord <= ledger.links.count, 'links of a record lead in a circle')
      counts[response.data[link]]++
    }
    assert.deepEqual(counts, [0, ledger.sense.data[record], ledger.solid.data[record]])
  }
  assert.equal(byRecord, ledger.links.count, 'links that no record holds')
}
