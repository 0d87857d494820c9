/* eslint-disable @typescript-eslint/consistent-type-imports -- modules that are declared have no imports */
// What the guides import from files of WGSL: hooks, or a module with entry points.
declare module '*/ring.wgsl' {
  const shader: import('umber-lens').ImportedShader;
  export default shader;
}
declare module '*/ball.wgsl' {
  const shader: import('umber-lens').ImportedShader<{ edge: number }>;
  export default shader;
}
declare module '*.wgsl' {
  const shader: import('umber-lens').MaterialShader<{ edge: number }>;
  export default shader;
}
declare module '*.graph.json' {
  const shader: import('umber-lens').MaterialShader<{ edge: number }>;
  export default shader;
}
