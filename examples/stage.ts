import type { Lens, Progress } from 'umber-lens';

/** Shows how far a load has come; call it once more with fraction 1 to take it away. */
export function loadingBar(text: string): (progress: Progress) => void {
  const box = document.createElement('label');
  box.className = 'loading';
  const bar = document.createElement('progress');
  bar.max = 1;
  bar.value = 0;
  box.append(text, bar);
  document.body.append(box);
  return ({ fraction }) => {
    bar.value = fraction;
    if (fraction === 1) box.remove();
  };
}

/** Whether this machine draws without a GPU: pages are drawn with fewer pixels then. */
export function isSoftware(): boolean {
  const gl = document.createElement('canvas').getContext('webgl2');
  // Browsers tell the true name by an extension.
  const known = gl?.getExtension('WEBGL_debug_renderer_info');
  const name = gl ? String(gl.getParameter(known?.UNMASKED_RENDERER_WEBGL ?? gl.RENDERER)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(name);
}

/** A line with frames a second, draws and triangles, twice a second. */
export function figuresLine(lens: Lens): () => void {
  const line = document.createElement('div');
  line.className = 'figures';
  document.body.append(line);
  let shown = 0;
  return () => {
    const now = performance.now();
    if (now - shown < 500) return;
    shown = now;
    const { framesPerSecond, draws, triangles } = lens.ledger;
    line.textContent = `${framesPerSecond.toFixed(0)} frames/s · ${draws} draws · ${triangles.toLocaleString('en')} triangles`;
  };
}

/** Puts an error where the picture would be. */
export function showFailure(error: unknown): void {
  document.querySelector('.loading')?.remove();
  const box = document.createElement('div');
  box.className = 'failure';
  box.textContent = String(error);
  document.body.append(box);
}
