const shared = {
  extensionsToTreatAsEsm: ['.ts'],
  transform: {
    '^.+\\.ts$': [
      '<rootDir>/scripts/test-transform.mjs',
      {
        jsc: { target: 'es2022', parser: { syntax: 'typescript' } },
        module: { type: 'es6' },
        sourceMaps: 'inline',
      },
    ],
  },
  moduleNameMapper: {
    '^@umber-lens/core/engine$': '<rootDir>/packages/core/src/engine.ts',
    '^@umber-lens/core/properties$': '<rootDir>/packages/core/src/properties.ts',
    '^@umber-lens/core/formats$': '<rootDir>/packages/core/src/formats/index.ts',
    '^@umber-lens/core/wgsl$': '<rootDir>/packages/core/src/wgsl/index.ts',
    '^@umber-lens/core/shading$': '<rootDir>/packages/core/src/shading/index.ts',
    '^@umber-lens/core/graphs$': '<rootDir>/packages/core/src/graph/index.ts',
    '^@umber-lens/core/sheets$': '<rootDir>/packages/core/src/sheets.ts',
    '^@umber-lens/core/trim$': '<rootDir>/packages/core/src/trim/index.ts',
    '^@umber-lens/core$': '<rootDir>/packages/core/src/index.ts',
    '^@umber-lens/vite/server$': '<rootDir>/packages/vite/src/server.ts',
    '^@umber-lens/vite$': '<rootDir>/packages/vite/src/index.ts',
    '^#watch$': '<rootDir>/packages/core/src/properties/watch.ts',
    '^#messages$': '<rootDir>/packages/lens/src/messages/messages.ts',
    '^#checks$': '<rootDir>/packages/lens/src/gpu/checks/checks.ts',
    '^umber-lens/device$': '<rootDir>/packages/lens/src/device.ts',
    '^umber-lens/figures$': '<rootDir>/packages/lens/src/figures.ts',
    '^umber-lens/shaders$': '<rootDir>/packages/lens/src/shaders/index.ts',
    '^@umber-lens/viewfinder$': '<rootDir>/packages/viewfinder/src/index.ts',
    '^umber-lens$': '<rootDir>/packages/lens/src/index.ts',
    '^(\\.{1,2}/.*)\\.js$': '$1',
  },
  modulePathIgnorePatterns: ['/dist/'],
};

export default {
  testTimeout: 300_000, // against what hangs, not against slow machines
  maxWorkers: 2,
  testSequencer: '<rootDir>/scripts/test-order.mjs',
  // What suites leave behind makes each collection of garbage dearer, and numbers of the heap say less: a worker begins anew.
  workerIdleMemoryLimit: '700MB',
  projects: [
    {
      ...shared,
      displayName: 'unit',
      testMatch: ['<rootDir>/packages/**/*.test.ts', '<rootDir>/examples/**/*.test.ts'],
    },
    {
      ...shared,
      displayName: 'browser',
      testMatch: ['<rootDir>/tests/**/*.test.ts'],
      testPathIgnorePatterns: ['<rootDir>/tests/clone/'],
      globalSetup: '<rootDir>/tests/browser/setup.mjs',
      globalTeardown: '<rootDir>/tests/browser/teardown.mjs',
    },
    // A clone of its own, which is installed and built: for whoever hands something in.
    { ...shared, displayName: 'clone', testMatch: ['<rootDir>/tests/clone/*.test.ts'] },
  ],
};
