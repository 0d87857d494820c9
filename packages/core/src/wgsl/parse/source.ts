import { LensError } from '../../errors/lens-error.js';

/** A text with its name, as the author knows it. */
export interface Source {
  file: string;
  text: string;
  /** The text with imports and left-out parts blanked, when that differs. */
  code?: string;
}

/** A stretch of a source, in UTF-16 code units. */
export interface Span {
  source: Source;
  from: number;
  to: number;
}

export type Severity = 'error' | 'warning';

/** Something to tell the author about a place. Lines and columns are 1-based. */
export interface Finding {
  file: string;
  line: number;
  column: number;
  severity: Severity;
  code: string;
  message: string;
  hint: string;
  /** The line it is in, and how many columns are meant. */
  lineText: string;
  length: number;
}

/** Thrown inside the compiler for one fault; collected into findings. */
export class WgslFault extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly span: Span,
    readonly hint = '',
  ) {
    super(message);
  }
}

export function findingOf(fault: WgslFault, severity: Severity = 'error'): Finding {
  const { source, from, to } = fault.span;
  const start = Math.min(from, source.text.length);
  const lineStart = lastBreak(source.text, start);
  let lineEnd = lineStart;
  while (lineEnd < source.text.length && !isBreak(source.text.charCodeAt(lineEnd))) lineEnd++;
  return {
    file: source.file,
    line: lineOf(fault.span),
    column: start - lineStart + 1,
    severity,
    code: `wgsl/${fault.code}`,
    message: fault.message,
    hint: fault.hint,
    lineText: source.text.slice(lineStart, Math.min(lineEnd, lineStart + 400)),
    length: Math.max(1, Math.min(to, lineEnd) - start),
  };
}

/** The line that a span begins in, from 1. */
export function lineOf({ from, source: { text } }: Span): number {
  const lineStart = lastBreak(text, Math.min(from, text.length));
  let line = 1;
  for (let i = 0; i < lineStart; i++) {
    const code = text.charCodeAt(i);
    if (isBreak(code) && !(code === 13 && text.charCodeAt(i + 1) === 10)) line++;
  }
  return line;
}

function lastBreak(text: string, at: number): number {
  let start = at;
  while (start > 0 && !isBreak(text.charCodeAt(start - 1))) start--;
  return start;
}

/** Line breaks of WGSL: LF, VT, FF, CR, NEL, LS, PS. */
export function isBreak(code: number): boolean {
  return (code >= 10 && code <= 13) || code === 0x85 || code === 0x2028 || code === 0x2029;
}

/** `file:line:column`, severity and message; the line and a caret; the hint. */
export function formatFinding(finding: Finding): string {
  const { file, line, column, severity, message, hint, lineText, length } = finding;
  const gutter = `${line} | `;
  const lead = lineText.slice(0, column - 1).replace(/[^\t]/g, ' ');
  return [
    `${file}:${line}:${column}: ${severity}: ${message}`,
    `  ${gutter}${lineText}`,
    `  ${' '.repeat(gutter.length)}${lead}${'^'.repeat(Math.max(1, Math.min(length, lineText.length - column + 2)))}`,
    ...(hint ? [`  hint: ${hint}`] : []),
  ].join('\n');
}

/** All findings as one error. */
export function wgslError(findings: readonly Finding[]): LensError {
  const errors = findings.filter(({ severity }) => severity === 'error');
  const first = errors[0]!; // called only when there is one
  const more = errors.length > 1 ? `\n(${errors.length - 1} more)` : '';
  return new LensError(first.code, `${formatFinding({ ...first, hint: '' })}${more}`, {
    hint: first.hint,
    where: { file: first.file, line: first.line, column: first.column },
  });
}
