import type { LensError } from '@umber-lens/core/engine';
import { faultOf } from './fault.js';

/** The twin of `Messages` for production: it says nothing and weighs nothing. */
export class Messages {
  constructor(private readonly tell: (message: LensError) => void = console.error) {}
  fault(what: string, error: unknown): void {
    this.tell(faultOf(what, error));
  }
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
  part(_target: unknown, _part: unknown): void {}
  finish(_finish: unknown, _scene: unknown): void {}
  tiles(_finish: unknown): void {}
  camera(_scene: unknown, _eye: unknown, _drawn: number, _aspect: number): void {}
  failed(_material: unknown, error: unknown): void {
    this.fault('a material cannot be drawn', error);
  }
  list(_list: unknown, _scene: unknown): void {}
  settings(_material: unknown, _shader: unknown): void {}
  numbers(_material: unknown, _values: unknown): void {}
}
