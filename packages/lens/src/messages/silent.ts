/** The twin of `Messages` for production: it says nothing and weighs nothing. */
export class Messages {
  constructor(_tell?: (message: never) => void) {}
  scene(_scene: unknown): string[] {
    return [];
  }
  list(_list: unknown, _scene: unknown): void {}
  show(_show: unknown): void {}
  settings(_material: unknown, _shader: unknown): void {}
  numbers(_material: unknown, _values: unknown): void {}
}
