import type { Statement } from '../parse/ast.js';

/** Statements within a statement. */
export function statementsIn(statement: Statement): readonly Statement[] {
  switch (statement.kind) {
    case 'block':
      return statement.body;
    case 'if':
      return statement.otherwise ? [statement.then, statement.otherwise] : [statement.then];
    case 'switch':
      return statement.cases.map(({ body }) => body);
    case 'loop':
      return [...statement.body, ...(statement.continuing?.body ?? [])];
    case 'for':
      return [statement.init, statement.update, statement.body].filter((one) => one !== undefined);
    case 'while':
      return [statement.body];
    default:
      return [];
  }
}
