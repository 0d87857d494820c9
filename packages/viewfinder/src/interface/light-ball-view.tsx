import type { JSX } from 'preact';
import { useEffect, useRef } from 'preact/hooks';
import type { Editor } from '../logic/editor.js';
import { lightTurn, turnLight } from '../logic/turn-light.js';
import { BALL, BALL_PIXELS, type LightBall } from '../stage/light-ball.js';

/** Radians to a CSS pixel: across the ball is half a turn. */
const PER_PIXEL = Math.PI / BALL;
const DEGREE = Math.PI / 180;

/** What turns the image light: in the corner that the live picture has while something is chosen. */
export function LightBallView({ ball, editor }: { ball: LightBall; editor: Editor }): JSX.Element {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    ball.onPicture = (picture) => canvas.current?.getContext('2d')?.putImageData(picture, 0, 0);
    ball.again();
    return () => void (ball.onPicture = undefined);
  }, [ball]);
  const held = useRef<{ x: number; turn: number; pull: number } | undefined>(undefined);
  const pulls = useRef(0);
  const { scene } = editor;
  const turn = (angle: number, merge: string): void =>
    void editor.make(turnLight(editor.editing, angle), `image light ${merge}`);
  const degrees = Math.round(lightTurn(scene) / DEGREE);
  return (
    <div
      class="ball"
      role="slider"
      tabIndex={0}
      aria-label="turn the image light"
      aria-valuemin={-180}
      aria-valuemax={180}
      aria-valuenow={degrees}
      aria-valuetext={`${degrees}°`}
      title="drag it: the image light turns"
      onKeyDown={(event) => {
        const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
        if (by === undefined) return;
        event.preventDefault();
        event.stopPropagation();
        turn(lightTurn(scene) + by * (event.shiftKey ? 15 : 1) * DEGREE, 'keys');
      }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        held.current = { x: event.clientX, turn: lightTurn(scene), pull: pulls.current++ };
      }}
      onPointerMove={(event) => {
        const { current } = held;
        if (current) turn(current.turn + (event.clientX - current.x) * PER_PIXEL, `pull ${current.pull}`);
      }}
      onPointerUp={() => void (held.current = undefined)}
      onPointerCancel={() => void (held.current = undefined)}
    >
      <canvas ref={canvas} width={BALL_PIXELS} height={BALL_PIXELS} aria-hidden="true" />
      <span>
        image light
        <br />
        {degrees}°
      </span>
    </div>
  );
}
