import type { Motion } from '@umber-lens/core/engine';
import {
  machineOf,
  motionsOf,
  placingOf,
  type Playback,
  type SceneNode,
  type StateMachine,
} from '@umber-lens/core/engine';
import type { JSX } from 'preact';
import type { Editor } from '../logic/editor.js';
import type { Stage } from '../stage/stage.js';
import { NumberField } from './number-field.js';

interface MotionProps {
  editor: Editor;
  stage: Stage;
  node: SceneNode;
}

/** The motion that moves a node: of itself, or of the nearest node above it that has one. */
function motionAbove(node: SceneNode): { motion?: Motion; top?: SceneNode } {
  for (let at: SceneNode | undefined = node; at; at = at.parent) {
    const [motion] = motionsOf(at);
    if (motion && motion.names.length > 0) return { motion, top: at };
    if ((placingOf(at)?.animations.length ?? 0) > 0) return { top: at };
  }
  return {};
}

/** Animations of a node: played, held at a time, mixed; and the state machine that runs them, with why it does not go on. */
export function MotionView({ editor, node, stage }: MotionProps): JSX.Element | null {
  const { motion, top } = motionAbove(node);
  if (!top) return null;
  const names =
    motion?.names ?? placingOf(top)?.animations.map(({ name }, i) => name ?? `animation ${i}`) ?? [];
  const machine = motion && machineOf(motion);
  const playing = (name: string): Playback | undefined =>
    motion?.playbacks.find((playback) => playback.name === name);
  const play = (name: string): void => {
    // Of a model that nobody moves, the editor does.
    const own = motion ?? stage.move(top);
    const known = playing(name);
    if (known) known.stop({ fade: 0.15 });
    else own.play(name, { fade: 0.15 });
    editor.say(`${known ? 'stopped' : 'plays'}: ${name}`);
  };
  return (
    <fieldset aria-label="animations">
      <legend>
        <span>animations of {top.name || 'the model'}</span>
      </legend>
      {machine && <MachineView machine={machine} editor={editor} />}
      {names.map((name) => {
        const playback = playing(name);
        const length = playback?.bound.animation.duration ?? 1;
        return (
          <div class={`field${playback ? ' other' : ''}`} key={name}>
            <span class="label">{name}</span>
            <div class="with">
              <input
                type="range"
                aria-label={`time of ${name}`}
                disabled={!playback}
                min={0}
                max={length}
                step={0.001}
                value={playback ? playback.time % length : 0}
                onInput={(event) => {
                  playback?.pause().seek(Number(event.currentTarget.value));
                  motion?.update(0);
                  stage.touch();
                }}
              />
              {machine ? (
                <span>{playback ? `${Math.round(playback.weight * 100)} %` : ''}</span>
              ) : (
                <button
                  type="button"
                  aria-label={`${playback ? 'stop' : 'play'} ${name}`}
                  onClick={() => play(name)}
                >
                  {playback ? 'stop' : 'play'}
                </button>
              )}
            </div>
            <span />
          </div>
        );
      })}
    </fieldset>
  );
}

function MachineView({ editor, machine }: { editor: Editor; machine: StateMachine }): JSX.Element {
  return (
    <>
      {Object.entries(machine.parameters).map(([name, { type }]) => (
        <div class="field" key={name}>
          <span class="label">{name}</span>
          {type === 'trigger' ? (
            <button
              type="button"
              aria-label={`trigger ${name}`}
              onClick={() => {
                machine.trigger(name);
                editor.say(`triggered: ${name}`);
              }}
            >
              trigger
            </button>
          ) : type === 'boolean' ? (
            <span>
              <input
                type="checkbox"
                aria-label={name}
                checked={machine.get(name) === true}
                onChange={(event) => void machine.set(name, event.currentTarget.checked)}
              />
            </span>
          ) : (
            <NumberField
              label={name}
              property={{ line: '', type: 'number' }}
              value={Number(machine.get(name))}
              onValue={(value) => void machine.set(name, value ?? 0)}
            />
          )}
          <span />
        </div>
      ))}
      <dl>
        {machine.inspect().map(({ name, reasons, state, transition }) => (
          <Layer
            key={name}
            name={name}
            state={transition ? `${transition.from} → ${state}` : state}
            reasons={reasons}
          />
        ))}
      </dl>
    </>
  );
}

interface LayerProps {
  name: string;
  state: string;
  reasons: readonly { to: string; passed: boolean; why: string }[];
}

function Layer({ name, reasons, state }: LayerProps): JSX.Element {
  return (
    <>
      <dt>{name || 'state'}</dt>
      <dd>
        {state}
        {reasons
          .filter(({ passed }) => !passed)
          .map(({ to, why }) => (
            <div key={to}>
              not to {to}: {why}
            </div>
          ))}
      </dd>
    </>
  );
}
