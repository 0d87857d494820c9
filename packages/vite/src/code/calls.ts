import ts from 'typescript';

/** A call that makes something of a scene, and where its name stands; both from 1. */
export interface NotedCall {
  line: number;
  column: number;
  call: 'createNode' | 'setLight' | 'Scene';
}

export type MakingCall = ts.CallExpression | ts.NewExpression;

/** All calls of a file that make nodes and scenes, or give nodes a light. */
export function callsIn(source: ts.SourceFile): { node: MakingCall; noted: NotedCall }[] {
  const found: { node: MakingCall; noted: NotedCall }[] = [];
  const look = (node: ts.Node): void => {
    const name = nameOfCall(node);
    if (name) {
      const { character, line } = source.getLineAndCharacterOfPosition(name.getStart(source));
      const call = name.text as NotedCall['call'];
      found.push({ node: node as MakingCall, noted: { line: line + 1, column: character + 1, call } });
    }
    ts.forEachChild(node, look);
  };
  look(source);
  return found;
}

/** The name of a call that is noted. */
function nameOfCall(node: ts.Node): ts.Identifier | undefined {
  if (ts.isNewExpression(node))
    return ts.isIdentifier(node.expression) && node.expression.text === 'Scene' ? node.expression : undefined;
  if (!ts.isCallExpression(node) || !ts.isPropertyAccessExpression(node.expression)) return undefined;
  const { name } = node.expression;
  return ts.isIdentifier(name) && (name.text === 'createNode' || name.text === 'setLight') ? name : undefined;
}

/** The call that stands at a place. */
export const callAt = (source: ts.SourceFile, { call, column, line }: NotedCall): MakingCall | undefined =>
  callsIn(source).find(({ noted }) => noted.call === call && noted.line === line && noted.column === column)
    ?.node;
