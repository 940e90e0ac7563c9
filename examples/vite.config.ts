import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'

const here = (path: string): string => fileURLToPath(new URL(path, import.meta.url))

export default defineConfig({
  root: here('.'),
  base: './',
  resolve: { tsconfigPaths: true },
  assetsInclude: ['**/*.glb'],
  server: { port: 5173 },
  build: {
    outDir: here('../out/examples'),
    emptyOutDir: true,
    rolldownOptions: {
      input: {
        home: here('./index.html'),
        game: here('./lantern/index.html'),
        workbench: here('./workbench/index.html'),
        reef: here('./reef/index.html'),
        questions: here('./questions/index.html'),
        forces: here('./forces/index.html'),
        joints: here('./joints/index.html'),
        walk: here('./walk/index.html'),
        tiles: here('./tiles/index.html'),
        wreck: here('./wreck/index.html'),
        rover: here('./rover/index.html'),
        together: here('./together/index.html'),
        seafloor: here('./seafloor/index.html'),
      },
    },
  },
})
