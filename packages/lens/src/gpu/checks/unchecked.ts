/**
 * The twin of checks.ts for production: what was wrong has been told while developing, and what the GPU interface
 * itself refuses it still tells.
 */
export function checkBuffer(_options: unknown): void {}
export function checkTexture(_options: unknown, _limits: unknown): void {}
export function checkSubresource(_texture: unknown, _at: unknown): void {}
export function checkData(_texture: unknown, _expected: number, _given: number): void {}
export function checkWrite(_size: number, _offset: number, _byteLength: number, _label: string): void {}
export function checkTargets(_label: string, _outputs: unknown, _targets: unknown): void {}
export function checkAttachments(_colors: unknown, _depth: unknown, _features: unknown): void {}
const wrong = (): Error => new Error('the device is used wrongly: a build for development says how');
export { wrong as alreadyInPass, wrong as noAttachment, wrong as noIndirect, wrong as noPipeline };
export const missing = (_pipeline: unknown, _kind: string, _what: string): Error => wrong();
export function checkCompiled(_gl: unknown, _stage: unknown): void {}
export function watchGone(_thing: unknown): void {}
export function watchTexture(_texture: unknown, _options: unknown): void {}
export function watchGroup(_group: unknown, _options: unknown): void {}
export function watchShader(_shader: unknown, _options: unknown): void {}
export function watchPipeline(_pipeline: unknown, _options: unknown): void {}
export function checkAlive(_thing: unknown, _use: string): void {}
export function checkPass(_options: unknown): void {}
export function checkFits(_pipeline: unknown, _pass: unknown): void {}
export function checkGroup(_group: unknown, _pass: unknown): void {}
export function checkBindings(_pipeline: unknown, _bound: unknown): void {}
export const depthCannotBeRead = (_texture: unknown): Error => wrong();
export function checkInputs(_options: unknown): void {}
