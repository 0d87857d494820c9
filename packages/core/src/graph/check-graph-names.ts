import { nearHint } from '../errors/near-names.js';
import { HOOKS } from '../shading/hook-outline.js';
import type { Draft } from './draft.js';
import { isBuiltin, isIdentifier, isType, TAKEN } from './names.js';

/** Names that mean something else already, or that WGSL does not take. */
export function checkNames(draft: Draft): void {
  const { attributes, functions, hooks, instanceSettings, nodes, settings, textures } = draft.graph;
  for (const name of Object.keys(nodes ?? {}))
    if (TAKEN.has(name))
      draft.fault(
        'error',
        'graph/name-taken',
        ['nodes', name],
        `a node cannot be called "${name}"`,
        `"@${name}" is what hooks are given. Call it otherwise.`,
        { isKey: true, node: name },
      );
  for (const [group, named] of Object.entries({
    settings,
    instanceSettings,
    attributes,
    textures,
    functions,
  }))
    for (const name of Object.keys(named ?? {})) {
      const isTaken = group === 'functions' && (isBuiltin(name) || isType(name) || name in HOOKS);
      if (!isIdentifier(name) || isTaken)
        draft.fault(
          'error',
          'graph/name-taken',
          [group, name],
          `"${name}" cannot be a name in WGSL here`,
          'Use letters and digits, and no word of the language.',
          { isKey: true },
        );
    }
  for (const name of Object.keys(hooks))
    if (!(name in HOOKS))
      draft.fault(
        'error',
        'graph/hook',
        ['hooks', name],
        `there is no hook "${name}"`,
        nearHint(name, Object.keys(HOOKS)),
        { isKey: true },
      );
    else if (name !== 'effect' && draft.isEffect)
      draft.fault(
        'error',
        'graph/hook',
        ['hooks', name],
        `an effect on pictures has no "${name}"`,
        'Put hooks of materials into a graph of their own.',
        { isKey: true },
      );
  if (Object.keys(hooks).length === 0)
    draft.fault(
      'error',
      'graph/no-hook',
      ['hooks'],
      'the graph gives nothing',
      `Give one or more of ${Object.keys(HOOKS).join(', ')}.`,
    );
}
