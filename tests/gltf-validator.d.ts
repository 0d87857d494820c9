declare module 'gltf-validator' {
  export function validateBytes(
    bytes: Uint8Array,
  ): Promise<{ issues: { messages: { code: string; severity: number; pointer?: string }[] } }>;
  const validator: { validateBytes: typeof validateBytes };
  export default validator;
}
