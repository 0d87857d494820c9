import { join } from 'node:path';
import { LensError } from '@umber-lens/core/engine';
import type sharpType from 'sharp';
import { encodePng } from './picture-file.js';
import { writeOutput } from './write-output.js';

/** Pictures of a film at the most. */
export const MOST_FRAMES = 2000;

/** Pictures one after the other, into an animated WebP or a folder of PNGs. */
export interface FilmFile {
  add(pixels: Uint8Array, number: number): Promise<void>;
  /** Writes what is not written yet. @returns bytes of all */
  end(): Promise<number>;
}

/**
 * A file `.webp`, or a folder; both are made where they are not there yet.
 *
 * @throws LensError `shoot/film-file` for another kind of file
 */
export function openFilm(out: string, size: { width: number; height: number }, fps: number): FilmFile {
  if (/\.webp$/i.test(out)) return new WebpFilm(out, size, fps);
  const isFile = /\.[a-z0-9]{2,4}$/i.test(out);
  if (isFile)
    throw new LensError('shoot/film-file', `"${out}" holds no film`, {
      hint: 'Name a .webp file, or a folder for PNGs: --out turn.webp.',
    });
  return new FolderFilm(out, size);
}

class FolderFilm implements FilmFile {
  private written = 0;

  constructor(
    private readonly folder: string,
    private readonly size: { width: number; height: number },
  ) {}

  async add(pixels: Uint8Array, number: number): Promise<void> {
    const png = await encodePng(pixels, this.size);
    await writeOutput(join(this.folder, `${String(number + 1).padStart(4, '0')}.png`), png);
    this.written += png.length;
  }

  end(): Promise<number> {
    return Promise.resolve(this.written);
  }
}

class WebpFilm implements FilmFile {
  /** Without loss, and packed: raw ones would fill the memory. */
  private readonly frames: Buffer[] = [];

  constructor(
    private readonly file: string,
    private readonly size: { width: number; height: number },
    private readonly fps: number,
  ) {}

  async add(pixels: Uint8Array): Promise<void> {
    this.frames.push(await encodePng(pixels, this.size, 3));
  }

  async end(): Promise<number> {
    const { default: sharp } = (await import('sharp')) as { default: typeof sharpType };
    // Whole milliseconds, whose sum is that of the film.
    const at = (i: number): number => Math.round((i * 1000) / this.fps);
    const delay = this.frames.map((_, i) => at(i + 1) - at(i));
    const film = await sharp(this.frames, { join: { animated: true }, limitInputPixels: false })
      .webp({ delay, loop: 0, quality: 85, effort: 3 })
      .toBuffer();
    await writeOutput(this.file, film);
    return film.length;
  }
}
