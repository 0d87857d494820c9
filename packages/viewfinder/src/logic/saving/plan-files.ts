import type { CallPlace, Proposed, Refused, SaveClient, WantedFile } from './save-client.js';
import type { FileChanges, LeftOver } from './gather.js';

/** A file as it is to be written, with what that would change, or why it cannot be. */
export interface PlannedFile {
  kind: FileChanges['kind'];
  wanted: WantedFile;
  diff: string;
  about: readonly string[];
  refused?: Refused;
}

/** Asks for the diff of each file; nothing is written. What a source computes goes into the sheet of adjustments. */
export async function planFiles(
  client: SaveClient,
  files: readonly FileChanges[],
  adjustments: string,
  size: number,
): Promise<{ files: PlannedFile[]; left: LeftOver[] }> {
  const planned: PlannedFile[] = [];
  const left: LeftOver[] = [];
  for (const file of files) {
    if (file.kind === 'adjustments') continue;
    const plan =
      file.kind === 'sheet' ? await planSheet(client, file, size) : await planCode(client, file, size, left);
    if (plan) planned.push(plan);
  }
  const own = files.find(({ kind }) => kind === 'adjustments');
  if (own) planned.push(await planAdjustments(client, own, adjustments, size));
  return { files: planned, left };
}

async function planSheet(client: SaveClient, file: FileChanges, size: number): Promise<PlannedFile> {
  const { about, changes, kind } = file;
  const found = await client.find(file.file);
  if (!found.ok)
    return { kind, about, diff: '', wanted: { file: file.file, version: '' }, refused: found.refused };
  const wanted: WantedFile = { file: found.value.file, version: found.value.version, changes, size };
  return proposed(client, { kind, about, wanted, diff: '' });
}

async function planCode(
  client: SaveClient,
  file: FileChanges,
  size: number,
  left: LeftOver[],
): Promise<PlannedFile | undefined> {
  const { about, kind } = file;
  const found = await client.read(file.file);
  if (!found.ok)
    return { kind, about, diff: '', wanted: { file: file.file, version: '' }, refused: found.refused };
  const calls = file.calls.map(({ call, changes }) => ({
    call: { line: call.line, column: call.column, call: call.call } satisfies CallPlace,
    changes,
    made: call.made,
  }));
  const wanted: WantedFile = { file: file.file, version: found.value.version, calls, size };
  const answer = await client.propose(wanted);
  if (!answer.ok) return { kind, about, diff: '', wanted, refused: answer.refused };
  for (const { change, reason } of answer.value.refused)
    left.push({ what: `${file.file}: ${[change.member].flat().join(' ')}`, reason });
  return answer.value.diff === '' && answer.value.refused.length > 0
    ? undefined
    : { kind, about, wanted, diff: answer.value.diff };
}

async function planAdjustments(
  client: SaveClient,
  { about, changes, kind }: FileChanges,
  file: string,
  size: number,
): Promise<PlannedFile> {
  const found = await client.find(file);
  const wanted: WantedFile = found.ok
    ? { file, version: found.value.version, changes, size }
    : { file, version: null, text: newSheet(changes) };
  return proposed(client, { kind, about, wanted, diff: '' });
}

async function proposed(client: SaveClient, plan: PlannedFile): Promise<PlannedFile> {
  const answer = await client.propose(plan.wanted);
  return answer.ok ? { ...plan, diff: answer.value.diff } : { ...plan, refused: answer.refused };
}

/** A sheet of adjustments that is not there yet. */
function newSheet(changes: FileChanges['changes']): string {
  const sheet: Record<string, unknown> = { sheet: 1 };
  for (const change of changes) {
    if (change.type !== 'set' || !('at' in change)) continue;
    let holder = sheet;
    for (const name of change.at.slice(0, -1)) holder = (holder[name] ??= {}) as Record<string, unknown>;
    holder[change.at.at(-1)!] = plainOf(change.value); // a place has a name
  }
  return `${JSON.stringify(sheet, undefined, 2)}\n`;
}

/** Numbers as finely as can be seen. */
const plainOf = (value: unknown): unknown =>
  JSON.parse(
    JSON.stringify(value, (_, one: unknown) =>
      typeof one === 'number' ? Number(one.toPrecision(6)) : one,
    ) ?? 'null',
  );

/** Writes files one by one, sources last, since the page is loaded anew by them; each with what became of it. */
export async function writeFiles(client: SaveClient, files: readonly PlannedFile[]): Promise<PlannedFile[]> {
  const done: PlannedFile[] = [];
  const sources = files.filter(({ kind }) => kind === 'code');
  for (const file of [...files.filter(({ kind }) => kind !== 'code'), ...sources]) {
    const answer = await client.write(file.wanted);
    const { refused: _refused, ...rest } = file;
    done.push(
      answer.ok ? { ...rest, diff: (answer.value as Proposed).diff } : { ...rest, refused: answer.refused },
    );
  }
  return done;
}
