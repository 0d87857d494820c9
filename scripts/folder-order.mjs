import { dirname, relative, resolve } from 'node:path';

/** Which folders of the lens each may use: arrows point to the left. `.` is what stands in no folder. */
const floors = ['compiled', 'gpu', 'ledger', 'resources', 'batches', 'frame', 'features', 'view', '.'];
const beside = {
  messages: ['features'],
  input: ['inspect', '.'],
  load: ['resources', 'shaders'],
  shaders: ['gpu', 'resources', 'features'],
  inspect: floors,
  figures: ['gpu', 'ledger', '.'],
  worker: ['view', '.'],
  jest: ['gpu', '.'],
};
export const LENS_FOLDERS = {
  ...Object.fromEntries(floors.map((folder, i) => [folder, floors.slice(0, i)])),
  ...beside,
  // What is loaded when it is asked for, and what pages name.
  '.': [...floors, ...Object.keys(beside)],
};

/** Features know nothing of each other, but for these. */
export const LENS_FEATURES = {
  culling: ['swarms'],
  environment: ['exposure'],
  exposure: ['look'],
  look: ['debug-views'],
};

/** A rule that holds the order of folders: what a file may import, by the folder that it stands in. */
export const folderOrder = {
  meta: { type: 'problem', schema: [{ type: 'object' }] },
  create(context) {
    const { root, folders } = context.options[0];
    const base = resolve(context.cwd, root);
    const folderOf = (file) => {
      const [first, ...rest] = relative(base, file).split(/[\\/]/);
      return rest.length > 0 ? first : '.';
    };
    const from = folderOf(context.filename);
    const look = (node) => {
      if (node.source?.type !== 'Literal' || !String(node.source.value).startsWith('.')) return;
      const to = resolve(dirname(context.filename), node.source.value);
      if (relative(base, to).startsWith('..')) return;
      const folder = folderOf(to);
      if (folder === from || folders[from]?.includes(folder)) return;
      context.report({
        node,
        message: `${root}: ${from} may use ${folders[from]?.join(', ') || 'no other folder'}, and not ${folder}.`,
      });
    };
    return {
      ImportDeclaration: look,
      ImportExpression: look,
      ExportNamedDeclaration: look,
      ExportAllDeclaration: look,
    };
  },
};
