import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import {
  chmodSync,
  existsSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { createServer, request, type Server } from 'node:http';
import type { AddressInfo, Socket } from 'node:net';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { SaveServer } from '../../packages/vite/dist/server.js';

const SHEET = `{
  "sheet": 1, // the quay
  "nodes": [{ "name": "lamp", "translation": [0, 3, 0] }]
}
`;
const SOURCE = `import { Scene } from 'umber-lens';
const scene = new Scene();
scene.createNode({ name: 'lamp', translation: [0, 3, 0] });
`;

let folder: string;
let root: string;
let http: Server;
let saver: SaveServer;
let address: string;

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'umber-save-'));
  root = join(folder, 'project');
  mkdirSync(join(root, 'scenes'), { recursive: true });
  writeFileSync(join(root, 'stage.sheet.json'), SHEET);
  writeFileSync(join(root, 'main.ts'), SOURCE);
  writeFileSync(join(root, 'unused.sheet.json'), SHEET);
  writeFileSync(join(folder, 'secret.sheet.json'), SHEET);
  http = createServer((asked, answer) => {
    void saver.handle(asked, answer).then((isOurs) => {
      if (!isOurs) answer.writeHead(404).end();
    });
  });
  await new Promise<void>((resolve) => http.listen(0, '127.0.0.1', resolve));
  address = `http://127.0.0.1:${(http.address() as AddressInfo).port}`;
  saver = new SaveServer({
    root,
    isOwnOrigin: (origin) => origin === address,
    bodyTime: 500,
    maxBytes: 1 << 20,
  });
  saver.use('stage.sheet.json');
  saver.useSource('main.ts', SOURCE);
});

afterEach(() => {
  http.closeAllConnections();
  http.close();
  rmSync(folder, { recursive: true });
});

type Answered = { status: number } & Record<string, unknown>;

async function ask(what: string, body: unknown, headers: Record<string, string> = {}): Promise<Answered> {
  const response = await fetch(`${address}/__umber/${what}`, {
    method: 'POST',
    headers: {
      'content-type': 'application/json',
      origin: address,
      'x-umber-token': saver.token,
      ...headers,
    },
    body: body instanceof Uint8Array ? new Uint8Array(body) : JSON.stringify(body),
  });
  return { status: response.status, ...((await response.json()) as object) };
}

const raised = (y: number): object => ({
  type: 'set',
  node: 'lamp',
  member: 'translation',
  value: [0, y, 0],
});
const file = 'stage.sheet.json';
const readVersion = async (name = file): Promise<string> =>
  (await ask('read', { file: name }))['version'] as string;
const onDisk = (name = file): string => readFileSync(join(root, name), 'utf8');

describe('saving', () => {
  test('a sheet is read, its change is shown as a diff, and written as the smallest edit', async () => {
    const version = await readVersion();
    const proposal = await ask('propose', { file, version, changes: [raised(4)] });
    expect(proposal).toMatchObject({ status: 200, edits: [{ length: 1, content: '4' }] });
    expect(proposal['diff']).toContain(
      '-  "nodes": [{ "name": "lamp", "translation": [0, 3, 0] }]\n+  "nodes": [{ "name": "lamp", "translation": [0, 4, 0] }]',
    );
    expect(onDisk()).toBe(SHEET);
    chmodSync(join(root, file), 0o640);
    const written = await ask('write', { file, version, changes: [raised(4)] });
    expect(written.status).toBe(200);
    expect(onDisk()).toBe(SHEET.replace('3, 0', '4, 0'));
    expect(statSync(join(root, file)).mode & 0o777).toBe(0o640);
    expect(await readVersion()).toBe(written['version']);
    expect(readdirSync(root).filter((name) => name.startsWith('.'))).toEqual([]);
  });

  test('line ends of Windows and the mark of byte order stay', async () => {
    const windows = `\uFEFF${SHEET.replaceAll('\n', '\r\n')}`;
    writeFileSync(join(root, file), windows);
    await ask('write', { file, version: await readVersion(), changes: [raised(4)] });
    expect(onDisk()).toBe(windows.replace('3, 0', '4, 0'));
  });

  test('a literal in a source, as long as it is as it was noted', async () => {
    const call = { line: 3, column: 7, call: 'createNode' };
    const wanted = {
      file: 'main.ts',
      version: await readVersion('main.ts'),
      calls: [
        {
          call,
          changes: [
            { member: 'translation', value: [0, 5, 0] },
            { member: 'parent', value: 1 },
          ],
        },
      ],
    };
    expect(await ask('write', wanted)).toMatchObject({ status: 200, refused: [] });
    expect(onDisk('main.ts')).toContain("{ name: 'lamp', translation: [0, 5, 0], parent: 1 }");
    // Until the page has the new one, its places are not those of the file.
    const again = { ...wanted, version: await readVersion('main.ts') };
    expect(await ask('write', again)).toMatchObject({ status: 409, code: 'save/changed' });
    saver.useSource('main.ts', onDisk('main.ts'));
    expect(
      await ask('write', { ...again, calls: [{ call, made: 3, changes: [{ member: 'name', value: 'x' }] }] }),
    ).toMatchObject({
      status: 200,
      edits: [],
      refused: [{ code: 'code/several' }],
    });
  });

  test('a shader that the page has is read, and neither written nor made', async () => {
    const shader = 'rim.wgsl';
    const text = 'fn surface(p: Fragment) -> Surface { return surfaceDefaults(p); }\n';
    writeFileSync(join(root, shader), text);
    expect((await ask('read', { file: shader })).status).toBe(404);
    saver.useShader(shader);
    const { text: read, version } = await ask('read', { file: shader });
    expect(read).toBe(text);
    for (const wanted of [{ changes: [raised(4)] }, { calls: [] }, { text: 'other' }])
      for (const what of ['propose', 'write'])
        expect(await ask(what, { file: shader, version, ...wanted })).toMatchObject({
          status: 404,
          code: 'save/file',
        });
    expect(await ask('write', { file: shader, version: null, text })).toMatchObject({
      status: 400,
      code: 'save/new',
    });
    expect(onDisk(shader)).toBe(text);
  });

  test('where the file changed meanwhile nothing is written, and both are given', async () => {
    const version = await readVersion();
    const theirs = SHEET.replace('the quay', 'the pier');
    writeFileSync(join(root, file), theirs);
    expect(await ask('write', { file, version, changes: [raised(4)] })).toMatchObject({
      status: 409,
      code: 'save/changed',
      theirs: { text: theirs },
      yours: { text: SHEET.replace('3, 0', '4, 0') },
    });
    expect(onDisk()).toBe(theirs);
  });

  test('new sheets and what is dropped in, once', async () => {
    const text = '{ "sheet": 1, "adjust": { "lamp": { "visible": false } } }';
    const made = { file: 'scenes/adjust.sheet.json', version: null, text };
    expect(await ask('write', made)).toMatchObject({ status: 200 });
    expect(onDisk('scenes/adjust.sheet.json')).toBe(text);
    expect(await ask('write', made)).toMatchObject({ status: 409, code: 'save/exists' });
    expect(await ask('read', { file: 'scenes/adjust.sheet.json' })).toMatchObject({ status: 200, text });
    expect(
      await ask('write', { ...made, file: 'scenes/wrong.sheet.json', text: '{ "sheet": 1, "node": [] }' }),
    ).toMatchObject({ status: 422, code: 'sheet/unknown' });
    const png = Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAQAAAC1HAwCAAAAC0lEQVR42mNk+A8AAQUBAScY42YAAAAASUVORK5CYII=',
      'base64',
    );
    const add = (name: string, size = png.length, bytes: Uint8Array = png): Promise<Answered> =>
      ask(`add?file=${name}&size=${size}`, bytes);
    expect(await add('scenes/mark.png')).toMatchObject({ status: 200, kind: 'image/png' });
    expect(readFileSync(join(root, 'scenes/mark.png'))).toEqual(png);
    expect(await add('scenes/mark.png')).toMatchObject({ status: 409, code: 'save/exists' });
    expect(await add('scenes/mark.jpg')).toMatchObject({ status: 415, code: 'save/kind' });
    expect(await add('scenes/more.png', 5)).toMatchObject({ status: 400, code: 'save/size' });
    expect(await add('scenes/page.html', 4, new TextEncoder().encode('<b/>'))).toMatchObject({ status: 415 });
    expect(await add('../mark.png')).toMatchObject({ status: 400, code: 'save/path' });
  });
});

describe('refusals', () => {
  test.each([
    ['another origin', { origin: 'http://evil.example' }, 403, 'save/origin'],
    ['no origin', { origin: '' }, 403, 'save/origin'],
    ['a page of a file', { origin: 'null' }, 403, 'save/origin'],
    ['a wrong token', { 'x-umber-token': randomBytes(32).toString('hex') }, 403, 'save/token'],
    ['no token', { 'x-umber-token': '' }, 403, 'save/token'],
    ['a form', { 'content-type': 'text/plain' }, 415, 'save/type'],
  ])('%s', async (_what, headers, status, code) => {
    expect(await ask('read', { file }, headers as Record<string, string>)).toMatchObject({ status, code });
  });

  const paths = [
    '../secret.sheet.json',
    'scenes/../../secret.sheet.json',
    './stage.sheet.json',
    'scenes//stage.sheet.json',
    '%2e%2e/secret.sheet.json',
    '..%2fsecret.sheet.json',
    '..\\secret.sheet.json',
    '/etc/passwd',
    'C:/stage.sheet.json',
    'stage.sheet.json\u0000.png',
    'con.sheet.json',
    'scenes/NUL',
    'stage.sheet.json.',
    'stage.sheet.json ',
    '.git/config',
    'node_modules/a/b.sheet.json',
    'stage.sheet.json:stream',
    'a'.repeat(2000),
    '',
    7,
    null,
    ['stage.sheet.json'],
  ];
  test.each(paths.map((path): [string, unknown] => [JSON.stringify(path).slice(0, 40), path]))(
    'the path %s',
    async (_shown, path) => {
      for (const what of ['read', 'propose', 'write'])
        expect(await ask(what, { file: path, version: 'x', changes: [] })).toMatchObject({
          status: 400,
          code: 'save/path',
        });
    },
  );

  test('what the page does not use, links and devices are as if they were not there', async () => {
    symlinkSync(join(folder, 'secret.sheet.json'), join(root, 'link.sheet.json'));
    symlinkSync(folder, join(root, 'up'));
    linkSync(join(folder, 'secret.sheet.json'), join(root, 'hard.sheet.json'));
    symlinkSync('/dev/zero', join(root, 'zero.sheet.json'));
    mkdirSync(join(root, 'folder.sheet.json'));
    const hidden = [
      'link.sheet.json',
      'up/secret.sheet.json',
      'hard.sheet.json',
      'zero.sheet.json',
      'folder.sheet.json',
      'none.sheet.json',
      'unused.sheet.json',
      'STAGE.sheet.json',
    ];
    for (const name of hidden) if (name !== 'unused.sheet.json') saver.use(name);
    const answers = await Promise.all(hidden.map((name) => ask('read', { file: name })));
    expect(new Set(answers.map((answer) => JSON.stringify(answer)))).toEqual(
      new Set([
        JSON.stringify({
          status: 404,
          code: 'save/file',
          reason: 'there is no such file that this page may have',
        }),
      ]),
    );
    // Nor is anything made through them.
    expect(await ask('write', { file: 'up/new.sheet.json', version: null, text: SHEET })).toMatchObject({
      status: 404,
    });
    expect(existsSync(join(folder, 'new.sheet.json'))).toBe(false);
    expect(readFileSync(join(folder, 'secret.sheet.json'), 'utf8')).toBe(SHEET);
  });

  test('methods, names and bodies that are none', async () => {
    expect((await fetch(`${address}/__umber/read`)).status).toBe(405);
    expect(await ask('delete', {})).toMatchObject({ status: 404, code: 'save/unknown' });
    expect(await ask('read', new TextEncoder().encode('{"file":'))).toMatchObject({
      status: 400,
      code: 'save/json',
    });
    expect(await ask('read', [])).toMatchObject({ status: 400, code: 'save/json' });
    const version = await readVersion();
    expect(await ask('write', { file, version, changes: 'all' })).toMatchObject({
      status: 400,
      code: 'save/changes',
    });
    expect(
      await ask('write', {
        file,
        version,
        changes: [{ type: 'set', node: 'lmap', member: 'name', value: 'x' }],
      }),
    ).toMatchObject({ status: 422, code: 'edit/no-node' });
    expect(
      await ask('write', {
        file,
        version,
        changes: [{ type: 'set', node: 'lamp', member: 'visible', value: 'no' }],
      }),
    ).toMatchObject({ status: 422, code: 'sheet/value' });
    expect(onDisk()).toBe(SHEET);
  });

  /** Sends the head of a request, and its body once the server has read the head. @returns what comes back, and how many bytes were read */
  const sendLater = (
    length: number,
    rest: (send: (text: string) => void) => void,
  ): Promise<{ text: string; bytesRead: number }> =>
    new Promise((resolve, reject) => {
      const { hostname, port } = new URL(address);
      const socket = connect(Number(port), hostname, () =>
        socket.write(
          `POST /__umber/read HTTP/1.1\r\nHost: x\r\nOrigin: ${address}\r\nX-Umber-Token: ${saver.token}\r\nContent-Type: application/json\r\nContent-Length: ${length}\r\nConnection: close\r\n\r\n`,
        ),
      );
      let asked: Socket | undefined;
      http.once('request', (request) => {
        asked = request.socket;
        rest((piece) => socket.write(piece));
      });
      let text = '';
      socket.on('data', (piece) => (text += piece.toString()));
      socket.on('close', () => resolve({ text, bytesRead: asked?.bytesRead ?? 0 })).on('error', reject);
    });

  test('huge and slow bodies', async () => {
    const huge = await ask('read', { file, more: 'x'.repeat(2 << 20) });
    expect(huge).toMatchObject({ status: 413, code: 'save/body' });
    // Without a length, it is counted.
    const streamed = await new Promise<number>((resolve, reject) => {
      const asked = request(
        `${address}/__umber/read`,
        {
          method: 'POST',
          headers: { 'content-type': 'application/json', origin: address, 'x-umber-token': saver.token },
        },
        (answer) => {
          answer.resume();
          resolve(answer.statusCode ?? 0);
        },
      );
      asked.on('error', reject);
      for (let i = 0; i < 3; i++) asked.write('x'.repeat(1 << 19));
    });
    expect(streamed).toBe(413);
    const { text: slow } = await sendLater(100, (send) => send('{'));
    expect(slow).toContain('408');
    expect(slow).toContain('save/body');
  });

  test('a body that came in time is read, however busy the server was meanwhile', async () => {
    const body = JSON.stringify({ file });
    const { text } = await sendLater(body.length, (send) =>
      // The body is sent at once, and nothing is read for longer than a body may take.
      setImmediate(() => {
        send(body);
        const end = performance.now() + 700;
        while (performance.now() < end);
      }),
    );
    expect(text).toMatch(/^HTTP\/1.1 200/);
  });

  test('whoever still sends is told why it was refused', async () => {
    const { text, bytesRead } = await sendLater(3 << 20, (send) => {
      // More than the buffers of a connection hold, while nobody reads yet; and the rest a little later.
      for (let k = 0; k < 4; k++) send('x'.repeat(1 << 19));
      for (let k = 0; k < 2; k++) setTimeout(() => send('x'.repeat(1 << 19)), 100 * (k + 1));
    });
    expect(text).toMatch(/^HTTP\/1.1 413[^]*save\/body/);
    // A connection closed with bytes unread is one reset, and the answer is lost with it.
    expect(bytesRead).toBeGreaterThan(3 << 20);
  });

  test('a thousand requests at once: one writes, the others are told what it wrote', async () => {
    const version = await readVersion();
    const answers = await Promise.all(
      Array.from({ length: 1000 }, (_, i) => ask('write', { file, version, changes: [raised(10 + i)] })),
    );
    const written = answers.filter(({ status }) => status === 200);
    expect(written).toHaveLength(1);
    expect(answers.filter(({ code, status }) => status === 409 && code === 'save/changed')).toHaveLength(999);
    expect(onDisk()).toMatch(/\[0, 1?\d\d, 0\]|\[0, \d+, 0\]/);
    expect(readdirSync(root).filter((name) => name.startsWith('.'))).toEqual([]);
  });
});

test('killed at any moment: the old file or the new one, whole', async () => {
  const module = fileURLToPath(new URL('../../packages/vite/dist/save/write-whole.js', import.meta.url));
  const size = 1 << 20;
  const letterOf = (written: number): number => 97 + (written % 26);
  // Writes one letter after the other, a file full of it each time, and says each when it is written.
  const script = `
    import { writeWhole } from ${JSON.stringify(module)};
    for (let letter = 1; ; letter++) {
      await writeWhole(process.argv[1], new Uint8Array(${size}).fill(97 + (letter % 26)));
      process.stdout.write('.');
    }
  `;
  const kill = async (i: number): Promise<void> => {
    const path = join(root, `large${i % 4}.sheet.json`);
    writeFileSync(path, Buffer.alloc(size, letterOf(0)));
    const child = spawn(process.execPath, ['--input-type=module', '-e', script, path]);
    // After some writes, however long they take here, and a moment within a later one.
    const asked = i % 4;
    let written = 0;
    await new Promise<void>((resolve) => {
      child.once('close', () => resolve());
      child.stdout.on('data', (said: Buffer) => {
        written += said.length;
        if (written >= asked) setTimeout(() => child.kill('SIGKILL'), (i * 7) % 30);
      });
      if (asked === 0) setTimeout(() => child.kill('SIGKILL'), 40 + i);
    });
    const bytes = readFileSync(path);
    expect(written).toBeGreaterThanOrEqual(asked);
    expect(bytes).toHaveLength(size);
    // What was said to be written is not lost; at most the one after it is there already.
    expect([letterOf(written), letterOf(written + 1)]).toContain(bytes[0]);
    expect(bytes.equals(Buffer.alloc(size, bytes[0]))).toBe(true);
  };
  for (let i = 0; i < 100; i += 4) await Promise.all([0, 1, 2, 3].map((k) => kill(i + k)));
});
