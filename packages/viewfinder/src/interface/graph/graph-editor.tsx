import type { JSX } from 'preact';
import { useEffect, useState } from 'preact/hooks';
import type { Lens } from 'umber-lens';
import type { Editor } from '../../logic/editor.js';
import {
  type GraphConflict,
  onTop,
  type OpenGraph,
  openGraph,
  saveOpenGraph,
} from '../../logic/graph/open-graph.js';
import { allShaded, type Shaded } from '../../logic/graph/shaded.js';
import type { SaveClient } from '../../logic/saving/save-client.js';
import { LiveShader } from '../../stage/live-shader.js';
import type { Stage } from '../../stage/stage.js';
import { BothTexts, Dialog } from '../dialogs.js';
import { GraphPanel } from './graph-panel.js';

interface GraphEditorProps {
  client: SaveClient;
  editor: Editor;
  lens: Lens;
  stage: Stage;
  shaded: Shaded;
  onClose(): void;
}

/** The graph of a material, or of an effect, open over the running scene. */
export function GraphEditor({
  client,
  editor,
  lens,
  onClose,
  shaded,
  stage,
}: GraphEditorProps): JSX.Element | null {
  const [opened, setOpened] = useState<(OpenGraph & { of: Shaded }) | undefined>(undefined);
  const [conflict, setConflict] = useState<GraphConflict | undefined>(undefined);
  useEffect(() => {
    let isGone = false;
    openGraph(shaded, client, document.baseURI).then(
      (found) => {
        if (isGone) return;
        setOpened({ ...found, of: shaded });
        const { madeOf, session } = found;
        editor.say(
          madeOf === undefined
            ? `${session.file} is open`
            : `${madeOf} as a graph: saved, it is ${session.file}`,
        );
      },
      (error: Error) => {
        if (isGone) return;
        editor.say(error.message);
        onClose();
      },
    );
    return () => void (isGone = true);
  }, [shaded]);
  // One of another material goes when that of this one is there.
  const open = opened?.of === shaded ? opened : undefined;
  useEffect(() => {
    if (!open) return;
    const { isJoined = false, session } = open;
    const all = (): Iterable<Shaded> => allShaded(editor.scene, lens.view.finish);
    const live = new LiveShader(all, shaded, session, !isJoined, (text) => editor.say(text));
    return () => live.dispose();
  }, [editor, lens, shaded, open]);
  if (!open) return null;
  const save = (): void => {
    void saveOpenGraph(open, client).then((said) => {
      if (typeof said === 'string') editor.say(said);
      else setConflict(said);
    });
  };
  const join = (both: GraphConflict): void => {
    setConflict(undefined);
    try {
      setOpened({ ...onTop(open, both), of: shaded });
      editor.say('your changes were made in the file as it is now: save it');
    } catch (error) {
      editor.say((error as Error).message);
    }
  };
  return (
    <>
      <GraphPanel
        key={open.session.file}
        editor={editor}
        lens={lens}
        stage={stage}
        session={open.session}
        shaded={shaded}
        onSave={save}
        onClose={onClose}
      />
      {conflict && (
        <ConflictDialog
          conflict={conflict}
          onJoin={() => join(conflict)}
          onClose={() => setConflict(undefined)}
        />
      )}
    </>
  );
}

interface ConflictDialogProps {
  conflict: GraphConflict;
  onJoin(): void;
  onClose(): void;
}

/** A file that changed meanwhile, beside what is here: nothing is lost. */
function ConflictDialog({ conflict, onClose, onJoin }: ConflictDialogProps): JSX.Element {
  const { file, reason, theirs, yours } = conflict;
  return (
    <Dialog
      title="the graph changed meanwhile"
      onClose={onClose}
      footer={
        <button type="button" class="main" onClick={onJoin}>
          make the changes in what is on the disk
        </button>
      }
    >
      <p class="note wrong">
        {file}: {reason}
      </p>
      <BothTexts theirs={theirs.text} yours={yours} />
    </Dialog>
  );
}
