/** The twin of `Messages` for production: it says nothing and weighs nothing. */
export class Messages {
  constructor(_tell?: (message: never) => void) {}
  scene(_scene: unknown): string[] {
    return [];
  }
  static opening(_canvas: unknown, _options: unknown): void {}
  static rig(_what: string, _options: unknown, _element: unknown): void {}
  static drawing(_scene: unknown, _camera: unknown): void {}
  static source(_what: string, _source: unknown): void {}
  opened(_canvas: unknown, _by: number): void {}
  around(_scene: unknown): void {}
  look(_look: unknown, _culling: unknown): void {}
  camera(_scene: unknown, _eye: unknown, _drawn: number, _aspect: number): void {}
  failed(_material: unknown, error: unknown): void {
    console.error(String(error));
  }
  list(_list: unknown, _scene: unknown): void {}
  settings(_material: unknown, _shader: unknown): void {}
  numbers(_material: unknown, _values: unknown): void {}
}
