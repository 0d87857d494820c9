import type { TextureUse } from '@umber-lens/core/engine';
import type { JSX } from 'preact';
import { useContext, useEffect, useRef } from 'preact/hooks';
import type { Editor } from '../logic/editor.js';
import { ImportsContext } from './imports.js';
import { changeOf, type Field, MIXED, sharedValue } from '../logic/properties/field.js';

/** A texture as a little picture, with its name; another one is chosen from the disk. */
export function TextureField({ editor, field }: { editor: Editor; field: Field }): JSX.Element {
  const imports = useContext(ImportsContext);
  const { label } = field;
  const shared = sharedValue(field);
  const use = shared === MIXED ? undefined : (shared as TextureUse | undefined);
  const input = useRef<HTMLInputElement>(null);
  const take = async (file: File): Promise<void> => {
    try {
      const { texture } = await imports.texture(file);
      editor.make(changeOf(field, { ...use, texture }, editor.editing));
    } catch (error) {
      editor.say((error as Error).message);
    }
  };
  return (
    <div class="texture">
      {use && <Thumb use={use} />}
      <span title={nameOf(use)}>{shared === MIXED ? 'differ' : nameOf(use)}</span>
      <button
        type="button"
        class="plain"
        aria-label={`choose ${label}`}
        onClick={() => input.current?.click()}
      >
        choose
      </button>
      <input
        ref={input}
        type="file"
        hidden
        accept="image/*"
        onChange={(event) => {
          const [file] = event.currentTarget.files ?? [];
          if (file) void take(file);
        }}
      />
    </div>
  );
}

const nameOf = (use: TextureUse | undefined): string =>
  use
    ? ((use.texture as { name?: string }).name ?? (use.texture.image as { name?: string }).name ?? 'picture')
    : 'none';

function Thumb({ use }: { use: TextureUse }): JSX.Element {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { image } = use.texture;
  useEffect(() => {
    const pen = canvas.current?.getContext('2d');
    const { content } = image;
    if (!pen) return;
    if (content.kind === 'host') pen.drawImage(content.source as CanvasImageSource, 0, 0, 32, 32);
    else if (content.kind === 'pixels') void drawPixels(pen, content);
  }, [image]);
  return <canvas ref={canvas} width={32} height={32} aria-hidden="true" />;
}

async function drawPixels(
  pen: CanvasRenderingContext2D,
  { data, height, width }: { data: Uint8Array; height: number; width: number },
): Promise<void> {
  const picture = await createImageBitmap(new ImageData(new Uint8ClampedArray(data), width, height));
  pen.drawImage(picture, 0, 0, 32, 32);
  picture.close();
}
