import { InvalidArgumentError } from 'commander';

export function parseSize(text: string): { width: number; height: number } {
  const match = /^(\d{1,5})x(\d{1,5})$/i.exec(text.trim());
  const [width, height] = [Number(match?.[1]), Number(match?.[2])];
  if (!match || width < 1 || height < 1 || width > 8192 || height > 8192) {
    throw new InvalidArgumentError('Give it as 1280x800; each side 1 to 8192.');
  }
  return { width, height };
}

/** Reads a number within bounds. */
export function parseNumber(least: number, most: number): (text: string) => number {
  return (text) => {
    const value = Number(text);
    if (text.trim() === '' || !(value >= least && value <= most))
      throw new InvalidArgumentError(`Give a number from ${least} to ${most}.`);
    return value;
  };
}

/** A size that help prints as a person writes it. */
export const asSize = (width: number, height: number): { width: number; height: number } =>
  Object.defineProperty({ width, height }, 'toJSON', { value: () => `${width}x${height}` });
