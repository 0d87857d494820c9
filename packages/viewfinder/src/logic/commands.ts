import type { Editor } from './editor.js';
import { SIDES } from './camera/own-view.js';

/** What commands ask of what shows the scene. */
export interface CommandStage {
  readonly aspect: number;
  isPaused: boolean;
  pause(isPaused: boolean): void;
  step(): void;
  touch(): void;
  toggleLive(): void;
  nudge(axis: 0 | 1 | 2, by: number): void;
}

/** What dialogs and places of the interface commands open. */
export interface CommandInterface {
  open(what: 'add' | 'save' | 'shortcuts' | 'messages' | 'frames'): void;
  find(): void;
}

export interface Command {
  /** What it is called, on its button and in the list of shortcuts. */
  name: string;
  about: string;
  /** As `tinykeys` has them; the first is shown. */
  keys: readonly string[];
  group: 'tools' | 'edit' | 'view' | 'page';
  run(event?: { shiftKey: boolean }): void;
}

/** Everything that has a key. */
export function commandsOf(editor: Editor, stage: CommandStage, shown: CommandInterface): Command[] {
  const tool = (name: 'move' | 'rotate' | 'scale', key: string): Command => ({
    name,
    about: `handles that ${name}`,
    keys: [key],
    group: 'tools',
    run: () => {
      editor.tool = name;
      editor.tell();
    },
  });
  const nudges = (['x', 'y', 'z'] as const).map((axis, k): Command => ({
    name: `nudge ${axis}`,
    about: `by a step along or about ${axis}; with shift the other way`,
    keys: [axis, `Shift+${axis.toUpperCase()}`],
    group: 'tools',
    run: (event) => stage.nudge(k as 0 | 1 | 2, event?.shiftKey ? -1 : 1),
  }));
  const side = (name: (typeof SIDES)[number], i: number): Command => ({
    name: `from ${name}`,
    about: `looks straight from the ${name}`,
    keys: [`Alt+${i + 1}`],
    group: 'view',
    run: () => {
      editor.own.lookFrom(name);
      stage.touch();
      editor.tell();
    },
  });
  return [
    tool('move', 'm'),
    tool('rotate', 'r'),
    tool('scale', 's'),
    ...nudges,
    {
      name: 'undo',
      about: 'takes the last change back',
      keys: ['$mod+z'],
      group: 'edit',
      run: () => editor.undo(),
    },
    {
      name: 'redo',
      about: 'makes it again',
      keys: ['$mod+Shift+Z', '$mod+y'],
      group: 'edit',
      run: () => editor.redo(),
    },
    {
      name: 'save',
      about: 'shows what files do not have yet, to be written',
      keys: ['$mod+s'],
      group: 'edit',
      run: () => shown.open('save'),
    },
    {
      name: 'add',
      about: 'adds a shape, a light, a camera',
      keys: ['a'],
      group: 'edit',
      run: () => shown.open('add'),
    },
    {
      name: 'duplicate',
      about: 'what is chosen once more',
      keys: ['$mod+d'],
      group: 'edit',
      run: () => editor.duplicate(),
    },
    {
      name: 'group',
      about: 'what is chosen below a new node',
      keys: ['$mod+g'],
      group: 'edit',
      run: () => editor.group(),
    },
    {
      name: 'delete',
      about: 'takes away what is chosen',
      keys: ['Delete', 'Backspace'],
      group: 'edit',
      run: () => editor.remove(),
    },
    {
      name: 'hide',
      about: 'hides what is chosen, or shows it',
      keys: ['h'],
      group: 'edit',
      run: () => editor.toggleVisible(),
    },
    {
      name: 'choose all',
      about: 'every node that draws something',
      keys: ['$mod+a'],
      group: 'edit',
      run: () => editor.selection.choose(editor.scene.meshes.keys()),
    },
    {
      name: 'choose nothing',
      about: 'lets go of what is chosen',
      keys: ['Escape'],
      group: 'edit',
      run: () => editor.selection.clear(),
    },
    {
      name: 'find',
      about: 'looks for a node by its name',
      keys: ['/', '$mod+f'],
      group: 'view',
      run: () => shown.find(),
    },
    {
      name: 'frame',
      about: 'turns to what is chosen, or to all',
      keys: ['f'],
      group: 'view',
      run: () => {
        editor.frame(stage.aspect);
        stage.touch();
      },
    },
    {
      name: 'flat view',
      about: 'with or without perspective',
      keys: ['o'],
      group: 'view',
      run: () => {
        editor.own.isFlat = !editor.own.isFlat;
        stage.touch();
        editor.tell();
      },
    },
    ...SIDES.map(side),
    {
      name: 'live view',
      about: "the page's own picture, which hears the hands",
      keys: ['v'],
      group: 'page',
      run: () => stage.toggleLive(),
    },
    {
      name: 'pause',
      about: 'holds the page, or lets it go on',
      keys: ['p'],
      group: 'page',
      run: () => stage.pause(!stage.isPaused),
    },
    { name: 'step', about: 'a sixtieth of a second', keys: ['.'], group: 'page', run: () => stage.step() },
    {
      name: 'messages',
      about: 'what the library has to say',
      keys: ['w'],
      group: 'page',
      run: () => shown.open('messages'),
    },
    {
      name: 'frames',
      about: 'times of frames, and what they cost',
      keys: ['t'],
      group: 'page',
      run: () => shown.open('frames'),
    },
    { name: 'shortcuts', about: 'this list', keys: ['?'], group: 'page', run: () => shown.open('shortcuts') },
  ];
}
