/** In which order members of a node are written. */
export const NODE_ORDER = [
  ...[
    'name',
    'model',
    'sheet',
    'translation',
    'rotation',
    'degrees',
    'scale',
    'matrix',
    'visible',
    'castsShadow',
  ],
  ...[
    'receivesShadow',
    'visibleTo',
    'mesh',
    'camera',
    'light',
    'settings',
    'weights',
    'effects',
    'adjust',
    'extras',
    'children',
  ],
];

/** The same of a sheet. */
export const SHEET_ORDER = [
  ...[
    '$schema',
    'sheet',
    'name',
    'models',
    'textures',
    'materials',
    'nodes',
    'adjust',
    'camera',
    'clearColor',
    'imageLight',
  ],
  ...['backdrop', 'fog', 'clipping', 'finish', 'look', 'view', 'extras'],
];
