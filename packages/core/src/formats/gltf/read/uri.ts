import { LensError, type SourcePlace } from '../../../errors/lens-error.js';

/** What a model's URI leads to. */
export type UriKind =
  | { kind: 'data'; mimeType: string; bytes: Uint8Array }
  /** A file beside the model: percent-decoded, with `/` between its parts. */
  | { kind: 'file'; path: string };

/**
 * Understands a URI in a model. Only data URIs and files in the model's own folder or below pass;
 * what leaves the folder or names the network is refused unless `allowOutside` is set.
 *
 * @throws LensError `gltf/uri-outside`, `gltf/uri`, `gltf/data-uri`
 */
export function readUri(uri: string, where: SourcePlace, allowOutside: boolean): UriKind {
  if (/^data:/i.test(uri)) return readDataUri(uri, where);
  let path: string;
  try {
    path = decodeURIComponent(uri);
  } catch (cause) {
    throw new LensError('gltf/uri', `"${shown(uri)}" is not a valid URI`, {
      where,
      cause,
      hint: 'A % must be followed by two hexadecimal digits.',
    });
  }
  if (path === '' || path.includes('\0')) {
    throw new LensError('gltf/uri', `"${shown(uri)}" names no file`, { where });
  }
  if (allowOutside) return { kind: 'file', path: /^[a-z][a-z0-9+.-]*:/i.test(uri) ? uri : path };
  const reason = /^[a-z][a-z0-9+.-]*:/i.test(path)
    ? /^file:/i.test(path)
      ? 'names a place in the file system'
      : 'names the network or another scheme'
    : /^[/\\]/.test(path)
      ? 'is an absolute path'
      : path.split(/[/\\]/).includes('..')
        ? "leaves the model's folder"
        : '';
  if (reason) {
    throw new LensError('gltf/uri-outside', `the URI "${shown(uri)}" ${reason}, which is refused`, {
      where,
      hint: 'Put the file beside the model, or allow outside files explicitly if you trust the model.',
    });
  }
  return { kind: 'file', path: path.replace(/^(\.\/)+/, '') };
}

function readDataUri(uri: string, where: SourcePlace): UriKind {
  const comma = uri.indexOf(',');
  const head = uri.slice(5, comma === -1 ? 5 : comma);
  if (comma === -1)
    throw new LensError('gltf/data-uri', 'a data URI has no comma before its data', { where });
  const mimeType = head.split(';')[0]!.toLowerCase(); // split gives at least one part
  if (!/;base64$/i.test(head)) {
    return { kind: 'data', mimeType, bytes: percentBytes(uri.slice(comma + 1)) };
  }
  const bytes = decodeBase64(uri, comma + 1);
  if (!bytes) throw new LensError('gltf/data-uri', 'the base64 of a data URI is damaged', { where });
  return { kind: 'data', mimeType, bytes };
}

function percentBytes(text: string): Uint8Array {
  const bytes: number[] = [];
  for (let i = 0; i < text.length; i++) {
    const hex = text[i] === '%' ? Number.parseInt(text.slice(i + 1, i + 3), 16) : Number.NaN;
    if (Number.isNaN(hex)) bytes.push(text.charCodeAt(i) & 255);
    else {
      bytes.push(hex);
      i += 2;
    }
  }
  return Uint8Array.from(bytes);
}

const BASE64 = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** Decodes RFC 4648 base64 from `start` on; padding may be missing. Undefined for any other letter. */
export function decodeBase64(text: string, start = 0): Uint8Array | undefined {
  let end = text.length;
  while (end > start && text[end - 1] === '=') end--;
  const n = end - start;
  if (n % 4 === 1 || text.length - end > 2) return undefined;
  const value = new Int16Array(256).fill(-1);
  for (let i = 0; i < 64; i++) value[BASE64.charCodeAt(i)] = i;
  const out = new Uint8Array(Math.floor((n * 3) / 4));
  let bits = 0;
  let held = 0;
  let o = 0;
  for (let i = start; i < end; i++) {
    const code = text.charCodeAt(i);
    const six = code < 256 ? value[code]! : -1; // in range by the test
    if (six < 0) return undefined;
    held = (held << 6) | six;
    bits += 6;
    if (bits >= 8) {
      bits -= 8;
      out[o++] = (held >> bits) & 255;
    }
  }
  return out;
}

function shown(uri: string): string {
  return uri.length > 80 ? `${uri.slice(0, 77)}...` : uri;
}
