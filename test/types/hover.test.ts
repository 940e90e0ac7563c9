/** What an editor shows over the calls that users write most: short enough to read, and with its documentation. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import ts from 'typescript'

const MOST_LINES = 16

for (const dimension of ['2d', '3d']) {
  test(`${dimension}: hints over watch, decide, add, events and explain are short and documented`, () => {
    const file = `${process.cwd()}/test/types/hovered.ts`
    const text = `import { createWorld, defineLayers, ofType } from '../../src/${dimension}/index.ts'
const layers = defineLayers(['rock', 'craft', 'crate', 'zone', 'shot'])
const world = createWorld({ layers, tags: ['player', 'weak'], data: ofType<{ oxygen: number }>() })
const sub = world.add({ type: 'static', data: { oxygen: 1 } })
world.watch('craft', 'zone', {})
world.decide('craft', 'zone', () => 'pass')
world.events()
world.explain(sub, sub)
`
    const { config } = ts.readConfigFile('tsconfig.json', ts.sys.readFile)
    const { options } = ts.parseJsonConfigFileContent(config, ts.sys, '.')
    const read = (name: string) => (name === file ? text : ts.sys.readFile(name))
    const service = ts.createLanguageService({
      ...ts.sys,
      getScriptFileNames: () => [file],
      getScriptVersion: () => '1',
      getScriptSnapshot: (name) => {
        const found = read(name)
        return found === undefined ? undefined : ts.ScriptSnapshot.fromString(found)
      },
      getCompilationSettings: () => options,
      getDefaultLibFileName: ts.getDefaultLibFilePath,
      fileExists: (name) => name === file || ts.sys.fileExists(name),
      readFile: read,
      useCaseSensitiveFileNames: () => ts.sys.useCaseSensitiveFileNames,
    })
    assert.deepEqual(service.getSemanticDiagnostics(file), [])
    for (const call of ['add', 'watch', 'decide', 'events', 'explain']) {
      const hint = service.getQuickInfoAtPosition(file, text.indexOf(`world.${call}`) + 7)
      const shown = ts.displayPartsToString(hint?.displayParts)
      assert.match(shown, new RegExp(`\\.${call}\\(`))
      assert.doesNotMatch(shown, /WorldCore|WorldOfBodies|\.\.\. \d+ more/, shown)
      assert.ok(shown.split('\n').length <= MOST_LINES, shown)
      assert.ok((hint?.documentation ?? []).length > 0, `${call} has no documentation in a hint`)
    }
  })
}
