import { fileURLToPath } from 'node:url';
import { saving, sheets, wgsl } from '@umber-lens/vite';
import { defineConfig } from 'vite';
import { PAGES } from './pages.js';
import { pages } from './pages-plugin.js';

const here = fileURLToPath(new URL('.', import.meta.url));

export default defineConfig({
  root: here,
  base: './',
  plugins: [wgsl(), sheets(), saving(), pages(here)],
  build: {
    outDir: 'dist',
    emptyOutDir: true,
    target: 'es2022',
    rollupOptions: {
      input: [`${here}index.html`, ...PAGES.map(({ folder }) => `${here}${folder}/index.html`)],
    },
  },
  preview: { port: 4173, strictPort: false },
});
