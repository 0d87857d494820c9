import { WgslFault } from './source.js';
import { type Attribute, type Expr } from './ast.js';
import { type TokenCursor } from './token-cursor.js';
import { parseExpression } from './parse-expressions.js';
import { parseDiagnosticControl } from './parse.js';

export function parseAttributes(p: TokenCursor): Attribute[] {
  const list: Attribute[] = [];
  while (p.peek.text === '@' && p.peek.kind === 'symbol') {
    const start = p.next();
    const name = p.anyName();
    const args: Expr[] = [];
    if (name === 'diagnostic') {
      parseDiagnosticControl(p);
    } else if (p.take('(')) {
      while (!p.take(')')) {
        args.push(parseExpression(p));
        if (!p.take(',')) {
          p.need(')');
          break;
        }
      }
    }
    list.push({ name, args, span: p.from(start) });
  }
  return list;
}

/** The only attribute of blocks and control statements is @diagnostic. */
export function checkControlAttributes(attributes: Attribute[]): void {
  const wrong = attributes.find(({ name }) => name !== 'diagnostic');
  if (wrong) throw new WgslFault('attribute-place', `@${wrong.name} cannot stand here`, wrong.span);
}
