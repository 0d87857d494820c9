import type { IncomingMessage } from 'node:http';
import { Refusal } from './refusal.js';

/** Most bytes of bodies on their way at once, as many requests as there are. */
const MOST_HELD = 256 << 20;

/**
 * The body of a request.
 *
 * @param most bytes
 * @param time milliseconds in which it has to be there
 * @param held bytes that all requests together hold
 * @throws Refusal `save/body` for one that is too large, too slow, or breaks off
 */
export function readBody(
  request: IncomingMessage,
  most: number,
  time: number,
  held: { bytes: number },
): Promise<Uint8Array> {
  return new Promise((resolve, reject) => {
    const pieces: Buffer[] = [];
    let size = 0;
    const refuse = (status: number, reason: string): void => {
      done();
      reject(new Refusal(status, 'save/body', reason));
    };
    const tooLarge = (): void => refuse(413, `the body has more than ${most} bytes`);
    const onData = (piece: Buffer): void => {
      size += piece.length;
      held.bytes += piece.length;
      if (size > most) tooLarge();
      else if (held.bytes > MOST_HELD) refuse(503, 'too much is sent at once: try again');
      else pieces.push(piece);
    };
    const onEnd = (): void => {
      done();
      resolve(new Uint8Array(Buffer.concat(pieces)));
    };
    const onBreak = (): void => refuse(400, 'the body broke off');
    // Bytes that came in time may wait to be read, where the server was busy: it reads as long as there are some.
    const readOn = (): void => {
      const before = size;
      turn = setImmediate(() => {
        if (size > before) readOn();
        else refuse(408, `the body was not there after ${time} ms`);
      });
    };
    let turn: NodeJS.Immediate | undefined;
    const timer = setTimeout(readOn, time);
    const done = (): void => {
      clearTimeout(timer);
      clearImmediate(turn);
      held.bytes -= size;
      request.off('data', onData).off('end', onEnd).off('aborted', onBreak).off('error', onBreak);
      // What still comes is not kept.
      request.pause();
    };
    if (Number(request.headers['content-length'] ?? 0) > most) {
      tooLarge();
      return;
    }
    request.on('data', onData).on('end', onEnd).on('aborted', onBreak).on('error', onBreak);
  });
}
