import type { PreviewedGraph } from '@umber-lens/core/graphs';
import { useEffect, useMemo, useRef, useState } from 'preact/hooks';
import { type Lens, loadModel } from 'umber-lens';
import type { Editor } from '../../logic/editor.js';
import type { BoardLook } from '../../logic/graph/board-look.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import type { Shaded } from '../../logic/graph/shaded.js';
import { GraphPictures } from '../../stage/graph-pictures.js';
import { type PictureShape, shapeOfModel } from '../../stage/picture-shapes.js';

/** How often settings, and time, are looked at, milliseconds. */
const LOOK_AGAIN = 400;
const DEGREE = Math.PI / 180;
/** Degrees about Y from where pictures are lit first. */
const LIGHT = 39;
/** And over the horizon. */
const HEIGHT = 37;

/** Degrees from -180 on. */
const around = (degrees: number): number => ((((degrees + 180) % 360) + 360) % 360) - 180;
const upTo = (degrees: number): number => Math.max(-90, Math.min(90, degrees));

/** The light on pictures: degrees about Y, and over the horizon. */
export interface PictureLight {
  light: number;
  height: number;
  /** Whence it comes, in the world. */
  from: [number, number, number];
  setLight(degrees: number): void;
  setHeight(degrees: number): void;
  turn(right: number, up: number): void;
}

export function usePictureLight(): PictureLight {
  const [light, setLight] = useState(LIGHT);
  const [height, setHeight] = useState(HEIGHT);
  const from = useMemo<[number, number, number]>(() => {
    const [across, up] = [light * DEGREE, height * DEGREE];
    return [Math.sin(across) * Math.cos(up), Math.sin(up), Math.cos(across) * Math.cos(up)];
  }, [height, light]);
  return {
    light,
    height,
    from,
    setLight,
    setHeight: (degrees) => setHeight(upTo(degrees)),
    turn: (right, up) => {
      setLight((now) => around(now + right));
      setHeight((now) => upTo(now + up));
    },
  };
}

interface PicturesUse {
  pictures: GraphPictures;
  shape: PictureShape;
  setShape(shape: PictureShape): void;
  /** Puts pictures on a model out of a file. */
  takeModel(file: File): void;
}

/** Pictures of nodes, drawn anew where something of them changed. */
export function usePictures({
  editor,
  inSight,
  lens,
  light,
  looked,
  preview,
  session,
  shaded,
}: {
  editor: Editor;
  /** Names of the nodes that are seen. Asked when pictures are drawn: looking elsewhere draws nothing by itself. */
  inSight: { readonly current: () => ReadonlySet<string> };
  lens: Lens;
  light: PictureLight['from'];
  looked: BoardLook;
  preview: PreviewedGraph | undefined;
  session: GraphSession;
  shaded: Shaded;
}): PicturesUse {
  // A picture lies flat.
  const [shape, setShape] = useState<PictureShape>(
    session.graph.hooks.effect === undefined ? 'ball' : 'plane',
  );
  const [, setDrawn] = useState(0);
  const pictures = useMemo(() => new GraphPictures(lens), [lens]);
  useEffect(() => () => pictures.dispose(), [pictures]);
  const { primary } = editor.selection;
  const lookBefore = useRef(looked.now);
  useEffect(() => {
    const draw = (): void => {
      if (!preview) return;
      pictures.shape = shape;
      pictures.light = light;
      pictures.chosen = primary?.mesh?.primitives[0]?.geometry;
      // Those that only pass by are not drawn.
      if (looked.now === lookBefore.current) pictures.seen = inSight.current();
      lookBefore.current = looked.now;
      pictures.draw(preview, session, shaded.settings).then(
        (isNew) => isNew && setDrawn((n) => n + 1),
        (error: Error) => editor.say(error.message),
      );
    };
    draw();
    const timer = setInterval(draw, LOOK_AGAIN);
    return () => {
      clearInterval(timer);
    };
  }, [editor, light, looked, pictures, preview, primary, session, shaded, shape]);
  const takeModel = (file: File): void => {
    const address = URL.createObjectURL(file);
    loadModel(address, { shared: false })
      .then((model) => {
        pictures.model = shapeOfModel(model);
        setShape('model');
        editor.say(`pictures of nodes are on ${file.name}`);
      })
      .catch((error: Error) => editor.say(`${file.name}: ${error.message}`))
      .finally(() => URL.revokeObjectURL(address));
  };
  return { pictures, shape, setShape, takeModel };
}
