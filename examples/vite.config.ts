import { readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { wgsl } from '@umber-lens/vite';
import { defineConfig } from 'vite';

const here = fileURLToPath(new URL('.', import.meta.url));
const pages = readdirSync(here, { withFileTypes: true })
  .filter(
    (entry) =>
      entry.isDirectory() && entry.name !== 'dist' && readdirSync(here + entry.name).includes('index.html'),
  )
  .map((entry) => entry.name);

/** Every folder with an index.html is a page of the gallery. */
export default defineConfig({
  root: here,
  base: './',
  plugins: [wgsl()],
  build: {
    outDir: 'dist',
    emptyOutDir: true,
    target: 'es2022',
    rollupOptions: {
      input: [`${here}index.html`, ...pages.map((page) => `${here}${page}/index.html`)],
    },
  },
  preview: { port: 4173, strictPort: false },
});
