import { readdirSync } from 'node:fs';
import js from '@eslint/js';
import tseslint from 'typescript-eslint';
import { folderOrder, LENS_FEATURES, LENS_FOLDERS } from './scripts/folder-order.mjs';

/** What each folder of core may use of the others: arrows point one way. */
const CORE = {
  // Written by the build.
  compiled: [],
  errors: [],
  pauses: [],
  effects: [],
  properties: ['errors', 'effects'],
  // Texts in JSON: forms, places, edits.
  json: ['errors', 'properties'],
  math: ['errors'],
  geometry: ['errors', 'math'],
  material: ['compiled', 'geometry', 'errors', 'math', 'wgsl'],
  columns: ['compiled', 'math'],
  light: ['errors', 'math'],
  scene: ['errors', 'effects', 'math', 'geometry', 'material', 'columns', 'light'],
  draw: ['errors', 'math', 'geometry', 'material', 'columns', 'scene'],
  flat: ['errors', 'math', 'geometry', 'material', 'scene'],
  swarm: ['compiled', 'errors', 'math', 'geometry', 'material', 'columns', 'scene', 'draw'],
  pose: ['errors', 'math', 'geometry', 'columns', 'scene'],
  animation: ['errors', 'properties', 'math', 'material', 'columns', 'scene'],
  procedural: ['errors', 'math', 'scene'],
  pace: [],
  figures: ['errors'],
  access: ['errors', 'effects', 'properties', 'scene', 'material', 'animation'],
  explain: ['errors', 'geometry', 'material', 'scene', 'draw'],
  scatter: ['errors', 'pauses', 'math', 'geometry', 'procedural', 'wgsl'],
  pick: ['errors', 'pauses', 'math', 'geometry', 'columns', 'scene', 'draw', 'swarm'],
  decal: ['errors', 'math', 'geometry', 'material', 'scene', 'pick'],
  // Its own folders come after what others have.
  formats: [
    ...[
      'errors',
      'effects',
      'properties',
      'math',
      'geometry',
      'material',
      'animation',
      'light',
      'scene',
      'pose',
      'swarm',
      'scatter',
    ],
    ...['asset', 'bytes', 'apart', 'gltf', 'draco', 'meshopt', 'obj', 'ply', 'stl', 'hdr', 'png', 'cube'],
    ...['ktx2', 'basis', 'blocks', 'read', 'write', 'extensions'],
  ],
  trim: ['errors', 'math', 'geometry', 'material', 'scene', 'formats'],
  sheet: [
    ...[
      'errors',
      'json',
      'effects',
      'properties',
      'math',
      'geometry',
      'material',
      'columns',
      'light',
      'scene',
    ],
    ...['animation', 'swarm', 'formats'],
  ],
  shading: ['errors', 'material', 'wgsl'],
  graph: ['errors', 'json', 'properties', 'math', 'wgsl', 'shading'],
  // The compiler's own folders come after errors.
  wgsl: ['errors', 'math', 'parse', 'types', 'check', 'bound', 'emit', 'run'],
};
const PACKAGES = {
  core: [],
  lens: ['@umber-lens/core'],
  cli: ['@umber-lens/core', 'umber-lens', '@umber-lens/vite', '@umber-lens/viewfinder'],
  vite: ['@umber-lens/core'],
  viewfinder: ['@umber-lens/core', 'umber-lens'],
};
const OURS = [
  '@umber-lens/core',
  'umber-lens',
  '@umber-lens/cli',
  '@umber-lens/vite',
  '@umber-lens/viewfinder',
];

const folderRules = Object.entries(CORE).map(([folder, allowed]) => ({
  files: [`packages/core/src/${folder}/**/*.ts`],
  ignores: ['**/*.test.ts'],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          {
            regex: `^(\\.\\./)+(?!${[folder, ...allowed].map((name) => `${name}/`).join('|')}|\\.\\./)[a-z]+/`,
            message: `core/src/${folder} may use ${allowed.join(', ') || 'no other folder'}.`,
          },
          { group: [...OURS, 'node:*'], message: 'core stands alone: no GPU, no DOM, no Node.' },
        ],
      },
    ],
  },
}));

const packageRules = Object.entries(PACKAGES)
  .filter(([name]) => name !== 'core')
  .map(([name, allowed]) => ({
    files: [`packages/${name}/src/**/*.{ts,tsx}`],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: OURS.filter((other) => !allowed.includes(other)),
              message: `${name} may use ${allowed.join(' and ')}.`,
            },
            { group: ['**/packages/**', '../../../*'], message: 'Packages meet by their names alone.' },
          ],
        },
      ],
    },
  }));

export default tseslint.config(
  { ignores: ['**/dist/**', '**/node_modules/**', '.cache/**', '**/draco-module.ts'] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': 'error',
      'no-console': 'off',
      eqeqeq: 'error',
    },
  },
  {
    files: ['**/*.mjs'],
    languageOptions: {
      globals: Object.fromEntries(
        ['process', 'console', 'URL', 'globalThis', 'Buffer', 'window', 'btoa'].map((name) => [
          name,
          'readonly',
        ]),
      ),
    },
  },
  ...folderRules,
  ...packageRules,
  {
    files: ['packages/lens/src/**/*.ts'],
    ignores: ['**/*.test.ts'],
    plugins: { folders: { rules: { order: folderOrder } } },
    rules: { 'folders/order': ['error', { root: 'packages/lens/src', folders: LENS_FOLDERS }] },
  },
  {
    files: ['packages/lens/src/features/*/**/*.ts'],
    ignores: ['**/*.test.ts'],
    plugins: { features: { rules: { order: folderOrder } } },
    rules: {
      'features/order': [
        'error',
        {
          root: 'packages/lens/src/features',
          // What all have in common stands beside them.
          folders: Object.fromEntries(
            readdirSync('packages/lens/src/features', { withFileTypes: true })
              .filter((entry) => entry.isDirectory())
              .map(({ name }) => [name, ['.', ...(LENS_FEATURES[name] ?? [])]]),
          ),
        },
      ],
    },
  },
);
