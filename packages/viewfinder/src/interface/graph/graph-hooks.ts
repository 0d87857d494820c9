import { graphCosts, type GraphCosts, type PreviewedGraph, previewGraph } from '@umber-lens/core/graphs';
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'preact/hooks';
import type { Lens } from 'umber-lens';
import type { Editor } from '../../logic/editor.js';
import { onBoard, withFunctionOpen } from '../../logic/graph/board-graph.js';
import {
  asksForPicture,
  numbersOf,
  type Probe,
  type ProbeConditions,
  type ProbedValues,
  valuesAt,
  withGpu,
} from '../../logic/graph/graph-probe.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import type { Shaded } from '../../logic/graph/shaded.js';
import { GpuValues } from '../../stage/gpu-values.js';
import type { GraphPictures } from '../../stage/graph-pictures.js';
import type { PictureShape } from '../../stage/picture-shapes.js';
import { placeOf } from '../../stage/probed-place.js';
import { probeEffectAt, type ProbedPixel } from '../../stage/probe-effect.js';
import { type ProbedHit, probeScene } from '../../stage/probe-scene.js';
import type { Stage } from '../../stage/stage.js';

/** How long nothing is changed before pictures of nodes are drawn anew, milliseconds. */
const PICTURE_REST = 180;
/** How often the GPU is asked again for one place. */
const MOST_ASKED = 3;
/** How long nothing is changed before the compiler looks through all of it. */
const REST = 300;

/** What the graph costs; it is looked through once nothing was changed for a while. */
export function useCosts(session: GraphSession): GraphCosts | undefined {
  const [costs, setCosts] = useState<GraphCosts | undefined>(undefined);
  const { compiled, text } = session;
  useEffect(() => {
    const timer = setTimeout(() => {
      session.lookThrough();
      try {
        setCosts(graphCosts(session.compiled, session));
      } catch {
        // What is wrong is among the findings.
        setCosts(undefined);
      }
    }, REST);
    return () => clearTimeout(timer);
  }, [session, text, compiled]);
  return costs;
}

/** The shader that shows nodes: where cards stand is no other one, and what is changed at once is compiled once. */
export function usePreview(session: GraphSession): PreviewedGraph | undefined {
  const make = (): PreviewedGraph | undefined =>
    previewGraph(withFunctionOpen(session.graph, session.opened), session);
  const [preview, setPreview] = useState(make);
  const { nodes } = session.board;
  const shown = useRef(nodes);
  useEffect(() => {
    if (shown.current === nodes) return;
    const timer = setTimeout(() => {
      shown.current = nodes;
      setPreview(make());
    }, PICTURE_REST);
    return () => clearTimeout(timer);
  }, [session, nodes]);
  return preview;
}

interface ProbeUse {
  isProbing: boolean;
  /** Whether clicks in the scene put the probe there. */
  setProbing(isOn: boolean): void;
  putOnPictures(place: Probe): void;
  probed: ProbedValues;
}

/** The probe: where it is, and what nodes are there. */
export function useProbe({
  editor,
  pictures,
  shape,
  lens,
  light,
  preview,
  session,
  shaded,
  stage,
}: {
  editor: Editor;
  lens: Lens;
  pictures: GraphPictures;
  shape: PictureShape;
  /** From where light comes on pictures. */
  light: ProbeConditions['light'];
  preview: PreviewedGraph | undefined;
  session: GraphSession;
  shaded: Shaded;
  stage: Stage;
}): ProbeUse {
  const [onPictures, setOnPictures] = useState<Probe>({ x: 0.35, y: -0.35 });
  const [hit, setHit] = useState<ProbedHit | undefined>(undefined);
  /** Of an effect: where the running picture was probed. */
  const [pixel, setPixel] = useState<(ProbedPixel & { of: unknown; at: [number, number] }) | undefined>(
    undefined,
  );
  const [isProbing, setProbing] = useState(false);
  const [gpu, setGpu] = useState<{ of: unknown; values: ReadonlyMap<string, readonly number[]> } | undefined>(
    undefined,
  );
  const gpuValues = useMemo(() => new GpuValues(lens), [lens]);
  useEffect(() => () => gpuValues.dispose(), [gpuValues]);
  // Settings are written to in place.
  const settings = JSON.stringify(numbersOf(shaded.settings));
  /** Another where the effect is another. */
  const state = useMemo(() => ({}), [session.graph, settings]);
  const latest = useRef(state);
  latest.current = state;
  const asks = useRef(0);
  /** What was probed in the scene or the picture counts no more, and what is still asked is not waited for. */
  const forget = (): void => {
    setHit(undefined);
    setPixel(undefined);
    asks.current++;
  };
  const probePixel = (x: number, y: number, isAgain = false): void => {
    const of = latest.current;
    const number = ++asks.current;
    probeEffectAt(lens, editor.scene, stage, session, shaded, x, y).then(
      (found) => {
        // It was put elsewhere meanwhile, or taken away.
        if (number !== asks.current) return;
        const isTold = typeof found !== 'string';
        setPixel(isTold ? { ...found, of, at: [x, y] } : undefined);
        if (!isAgain) editor.say(isTold ? `the probe is on pixel ${found.x}, ${found.y}` : found);
      },
      (error: Error) => editor.say(error.message),
    );
  };
  useEffect(() => {
    if (!pixel || pixel.of === state) return;
    const timer = setTimeout(() => probePixel(...pixel.at, true), REST);
    return () => clearTimeout(timer);
  }, [pixel, state]);
  // At once: the next click counts.
  useLayoutEffect(() => {
    if (!isProbing) return;
    stage.probing = (x, y) => {
      if (session.graph.hooks.effect !== undefined) {
        probePixel(x, y);
        return;
      }
      void probeScene(lens, editor.scene, stage, x, y).then(
        (found) => {
          setHit(found);
          editor.say(
            found ? `the probe is on ${found.node.path}` : 'there is nothing to probe: click on a thing',
          );
        },
        (error: Error) => editor.say(error.message),
      );
    };
    return () => {
      stage.probing = stage.probed = undefined;
      stage.touch();
      forget();
    };
  }, [editor, isProbing, lens, session, shaded, stage]);
  const time = stage.heldTime ?? 0;
  const conditions = useMemo(() => ({ light, time }), [light, time]);
  // A ball is one by its formula; others are as they are drawn.
  const { placings } = pictures;
  const onShape = useMemo(
    () => (shape === 'ball' ? undefined : pictures.probe(onPictures)),
    [onPictures, pictures, placings, shape],
  );
  // It may be taken away meanwhile, by whom ever.
  const alive = [hit, onShape].find((one) => one?.node.isAlive);
  // What the graph was is not what it is.
  const told = pixel?.of === state ? pixel : undefined;
  const { wgsl } = session.compiled;
  const isWhole = useMemo(() => asksForPicture(wgsl, session.sources), [session, wgsl]);
  const computed = useMemo(() => {
    // The GPU alone has the picture.
    if (told) return new Map<string, unknown>();
    if (!alive && shape !== 'ball') return new Map<string, unknown>();
    return valuesAt(
      preview,
      placeOf(alive ?? onPictures, isWhole, conditions),
      JSON.parse(settings) as Record<string, unknown>,
      session,
      conditions,
    );
  }, [conditions, alive, isWhole, onPictures, preview, session, settings, shape, told]);
  // The GPU is asked where the probe was put, once; and again, where the graph became another meanwhile.
  const asked = useRef<Probe | ProbedHit>(onPictures);
  const place = alive ?? (shape === 'ball' ? onPictures : undefined);
  const now = useRef({ computed, conditions, place, preview });
  now.current = { computed, conditions, place, preview };
  useEffect(() => {
    const put = hit ?? onPictures;
    if (asked.current === put) return;
    asked.current = put;
    const ask = async (times = 0): Promise<void> => {
      const of = now.current;
      if (!of.preview || !of.place) return;
      const isWhole = asksForPicture(session.compiled.wgsl, session.sources);
      const values = await gpuValues.at(
        ...([of.preview, session, of.place, shaded.settings, of.conditions, isWhole] as const),
      );
      if (asked.current !== put) return;
      if (now.current.computed === of.computed) setGpu({ of: of.computed, values });
      // What never rests is not waited for.
      else if (times < MOST_ASKED) await ask(times + 1);
    };
    ask().catch((error: Error) => editor.say(error.message));
  }, [hit, onPictures]);
  const { compiled, opened, types } = session;
  const probed = useMemo(
    () =>
      withGpu(
        onBoard(computed, opened),
        told ? onBoard(told.values, opened) : gpu?.of === computed ? onBoard(gpu.values, opened) : undefined,
        types,
      ),
    [compiled, computed, gpu, opened, told],
  );
  return {
    isProbing,
    setProbing,
    putOnPictures: (place) => {
      forget();
      setOnPictures(place);
    },
    probed,
  };
}
