import type { Image } from '../../../material/material.js';

/**
 * Names of files for pictures beside a model: those that they came by, as far as they stay in its folder, else by what pictures
 * are called. No two are alike.
 */
export class PictureFiles {
  private readonly taken = new Set<string>();

  /** @param prefix of those that have no name of their own as files */
  constructor(private readonly prefix = '') {}

  nameOf(image: Image, index: number, mimeType: string): string {
    const { name, uri } = image;
    const ending = mimeType === 'image/jpeg' ? 'jpg' : mimeType.replace('image/', '');
    const isInside = uri !== undefined && !/^([a-z][a-z0-9+.-]*:|[/\\])|(^|[/\\])\.\.([/\\]|$)/i.test(uri);
    const own = (name ?? (this.prefix ? String(index) : `picture ${index}`)).replace(
      /[^\p{L}\p{N}. _-]+|^\.+/gu,
      '-',
    );
    const wished = isInside ? uri : `${this.prefix && `${this.prefix}-`}${own}.${ending}`;
    let found = wished;
    for (let n = 2; this.taken.has(found.toLowerCase()); n++)
      found = wished.replace(/(\.\w+)?$/, (end) => ` ${n}${end}`);
    this.taken.add(found.toLowerCase());
    return found;
  }
}
