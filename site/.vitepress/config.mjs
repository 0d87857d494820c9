import { readFileSync } from 'node:fs';
import { defineConfig } from 'vitepress';

const page = (text, name) => ({ text, link: `/guide/${name}` });
const reference = JSON.parse(
  readFileSync(new URL('../reference/typedoc-sidebar.json', import.meta.url), 'utf8'),
);

const examples = JSON.parse(readFileSync(new URL('../examples.json', import.meta.url), 'utf8'));

export default defineConfig({
  title: 'Umber Lens',
  description: 'Interactive 3D in the browser, on WebGPU and WebGL2.',
  // Where it is put below the root of a host, say so: UMBER_DOCS_BASE=/docs/ npm run docs
  base: process.env.UMBER_DOCS_BASE ?? '/',
  head: [['link', { rel: 'icon', href: 'data:,' }]],
  outDir: '../docs',
  cacheDir: '../vitepress',
  cleanUrls: false,
  // The examples are whole pages of their own.
  ignoreDeadLinks: [/^\/live\//],
  markdown: {
    theme: { light: 'github-light', dark: 'github-dark' },
  },
  themeConfig: {
    search: { provider: 'local' },
    nav: [
      { text: 'Guide', link: '/guide/start', activeMatch: '/guide/' },
      { text: 'Examples', link: '/examples/', activeMatch: '/examples/' },
      { text: 'Reference', link: '/reference/', activeMatch: '/reference/' },
    ],
    outline: [2, 3],
    sidebar: {
      '/guide/': [
        {
          text: 'Basics',
          items: [
            page('Getting started', 'start'),
            page('Nodes, transforms, units', 'nodes'),
            page('Shapes and arrays', 'shapes'),
            page('Cameras and framing', 'cameras'),
            page('Materials', 'materials'),
            page('Lights, shadows, fog', 'light'),
            page('Effects on the picture', 'effects'),
            page('Motion', 'motion'),
            page('Input', 'input'),
            page('Model formats', 'formats'),
          ],
        },
        {
          text: 'Many things, fast',
          items: [
            page('Swarms', 'swarms'),
            page('Many moving nodes', 'moving-things'),
            page('Performance', 'performance'),
            page('Memory and disposal', 'memory'),
          ],
        },
        {
          text: 'Closer to the GPU',
          items: [
            page('Writing shaders', 'shaders'),
            page('The device by itself', 'low-level'),
            page('WebGPU, WebGL2, Node', 'backends'),
          ],
        },
        {
          text: 'To look things up',
          items: [
            page('Properties', 'properties'),
            page('Errors by code', 'errors'),
            page('Bundlers, types, servers', 'bundlers'),
          ],
        },
        {
          text: 'The project',
          items: [
            page('Architecture', 'architecture'),
            page('Measurements', 'measurements'),
            page('Contributing', 'contributing'),
            page('Changes', 'changelog'),
          ],
        },
      ],
      '/examples/': [{ text: 'Examples', items: examples }],
      '/reference/': [{ text: 'Reference', items: reference }],
    },
  },
});
