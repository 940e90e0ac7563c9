/**
 * Every public name has a docstring, and every member of one: found through the compiler, from the entry points. What the map of the code
 * names is there.
 */
import assert from 'node:assert/strict'
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { test } from 'node:test'
import ts from 'typescript'

const ENTRIES = [
  ...['core', '2d', '3d', 'record', 'draw'].map((room) => `src/${room}/index.ts`),
  ...['scene', 'gltf', 'levels'].map((room) => `scenes-package/src/${room}/index.ts`),
]

/** Whether something is told to nobody: private, protected, or marked internal. */
function isHidden(node: ts.Declaration): boolean {
  const flags = ts.getCombinedModifierFlags(node)
  if ((flags & (ts.ModifierFlags.Private | ts.ModifierFlags.Protected)) !== 0) return true
  return ts.getJSDocTags(node).some((tag) => tag.tagName.text === 'internal')
}

function isDocumented(symbol: ts.Symbol, checker: ts.TypeChecker): boolean {
  return symbol.getDocumentationComment(checker).length > 0 || symbol.getJsDocTags(checker).length > 0
}

/** The members that a class or an interface declares itself. */
function membersOf(node: ts.Declaration): readonly (ts.ClassElement | ts.TypeElement)[] {
  if (ts.isClassDeclaration(node) || ts.isInterfaceDeclaration(node)) {
    return [...node.members].filter((member) => member.name !== undefined && !ts.isConstructorDeclaration(member))
  }
  return []
}

function undocumented(): string[] {
  const config = ts.readConfigFile('tsconfig.json', ts.sys.readFile).config
  const { options } = ts.parseJsonConfigFileContent(config, ts.sys, '.')
  const program = ts.createProgram(ENTRIES, options)
  const checker = program.getTypeChecker()
  const missing = new Set<string>()
  let seen = 0
  for (const entry of ENTRIES) {
    const source = program.getSourceFile(entry)
    assert.ok(source, `no ${entry}`)
    const module = checker.getSymbolAtLocation(source)
    assert.ok(module, `${entry} exports nothing`)
    for (const exported of checker.getExportsOfModule(module)) {
      const symbol = (exported.flags & ts.SymbolFlags.Alias) !== 0 ? checker.getAliasedSymbol(exported) : exported
      const [declaration] = symbol.declarations ?? []
      if (declaration === undefined || isHidden(declaration)) continue
      seen++
      if (!isDocumented(symbol, checker)) missing.add(symbol.name)
      for (const member of membersOf(declaration)) {
        const own = checker.getSymbolAtLocation(member.name as ts.Node)
        if (own === undefined || isHidden(member)) continue
        seen++
        if (!isDocumented(own, checker)) missing.add(`${symbol.name}.${own.name}`)
      }
    }
  }
  assert.ok(seen > 800, `only ${seen} public names were found`)
  return [...missing]
}

test('every public name and member has a docstring', () => {
  assert.deepEqual(undocumented(), [])
})

test('the files that docs/architecture.md and its figures name are there, and every room of the core is named', () => {
  const map = readFileSync('docs/architecture.md', 'utf8')
  const figures = ['tick', 'query'].map((name) => readFileSync(`docs/figures/${name}.svg`, 'utf8'))
  const files = new Set([map, ...figures].flatMap((text) => text.match(/[\w./-]*\w\.ts\b/g) ?? []))
  assert.ok(files.size > 40, `only ${files.size} files are named`)
  const roots = [
    '',
    'src/',
    'src/core/',
    'src/2d/',
    'src/3d/',
    'scenes-package/src/',
    'scenes-package/src/scene/',
    'src/draw/',
    'src/core/watch/',
    'src/2d/narrow/',
    'src/3d/narrow/',
  ]
  const lost = [...files].filter((file) => !roots.some((root) => existsSync(root + file)))
  assert.deepEqual(lost, [])
  const rooms = [
    'core',
    '2d',
    '3d',
    'core/state',
    'core/filter',
    'core/step',
    'core/watch',
    'core/query',
    'core/solve',
    'core/travel',
    'core/joints',
  ]
  const names = rooms.flatMap((room) => readdirSync(`src/${room}`).filter((name) => name.endsWith('.ts')))
  const unnamed = names.map((name) => name.slice(0, -3)).filter((name) => !new RegExp(`\\b${name}\\b`).test(map))
  assert.deepEqual(unnamed, [])
})
