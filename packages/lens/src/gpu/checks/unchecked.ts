/**
 * The twin of checks.ts for production: what was wrong has been told while developing, and what the GPU interface
 * itself refuses it still tells.
 */
export function checkBuffer(_options: unknown): void {}
export function checkTexture(_options: unknown, _limits: unknown): void {}
export function checkSubresource(_texture: unknown, _at: unknown): void {}
export function checkWrite(_size: number, _offset: number, _byteLength: number, _label: string): void {}
export function checkTargets(_label: string, _outputs: unknown, _targets: unknown): void {}
export function checkAttachments(_colors: unknown, _depth: unknown, _features: unknown): void {}
export const alreadyInPass = (): Error => new Error('a render pass is still open');
export function checkCompiled(_gl: unknown, _stage: unknown): void {}
