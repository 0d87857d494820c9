const STYLE = `
  :root { color-scheme: dark; font: 15px/1.5 system-ui, sans-serif; }
  body { margin: 0; background: #1c1712; color: #f1e7d8; }
  a { color: #f0b36a; }
  a:focus-visible { outline: 2px solid #f0b36a; outline-offset: 2px; }
`;

const escaped = (text: string): string => text.replace(/[&<>"']/g, (sign) => `&#${sign.charCodeAt(0)};`);

/** A page with what a folder has to show. */
export function listingPage(files: readonly string[]): string {
  const items = files
    .map((file) => `<li><a href="/?file=${encodeURIComponent(file)}">${escaped(file)}</a></li>`)
    .join('\n');
  const body =
    files.length > 0
      ? `<ul>${items}</ul>`
      : '<p>There is no model, no sheet and no graph here. Models are .glb, .gltf, .obj, .ply and .stl, sheets are .sheet.json, shader graphs .graph.json.</p>';
  return `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>Models, sheets and graphs</title><style>${STYLE}
  main { max-width: 44rem; margin: 3rem auto; padding: 0 1.5rem; }
  ul { list-style: none; padding: 0; columns: 2; column-gap: 3rem; }
  li { padding: 0.2rem 0; break-inside: avoid; overflow-wrap: anywhere; }
  @media (max-width: 40rem) { ul { columns: 1; } }
</style><main><h1>Models, sheets and graphs</h1>${body}</main></html>`;
}

/** A page that shows one of them. @param hasList whether there is a list to go back to */
export function shownPage(file: string, token: string, allowOutside: boolean, hasList: boolean): string {
  return `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<link rel="icon" href="data:,">
<meta name="umber-save" content="${token}">
<title>${escaped(file)}</title><style>${STYLE}
  html, body { height: 100%; overflow: hidden; }
  canvas { display: block; width: 100vw; height: 100vh; outline: none; }
  canvas:focus-visible { outline: 2px solid #f0b36a; outline-offset: -2px; }
  p { position: fixed; left: 1rem; bottom: 1rem; margin: 0; padding: 0.3rem 0.7rem; max-width: calc(100vw - 4rem);
    background: #1c1712cc; border-radius: 4px; overflow-wrap: anywhere; }
  pre { position: fixed; inset: 0; margin: 0; padding: 2rem; overflow: auto; background: #1c1712f2; white-space: pre-wrap;
    font: 14px/1.5 ui-monospace, monospace; }
  [hidden] { display: none; }
  button { font: inherit; color: #f0b36a; background: none; border: 0; padding: 0; text-decoration: underline; cursor: pointer; }
  button:disabled { opacity: 0.5; cursor: default; }
  button:focus-visible { outline: 2px solid #f0b36a; outline-offset: 2px; }
</style>
<canvas tabindex="0" data-file="${escaped(file)}" data-allow-outside="${allowOutside}"></canvas>
<p>${hasList ? '<a href="/">all</a> · ' : ''}<span id="name">${escaped(file)}</span> · <button id="viewfinder" title="Alt+V" disabled>viewfinder</button></p>
<pre id="failure" role="alert" hidden></pre>
<script src="/serve-page.js"></script></html>`;
}
