import ts from 'typescript';
import { readFileSync, writeFileSync } from 'node:fs';
const list = readFileSync(process.argv[2], 'utf8').split('\n').filter((l) => l.trim() && !l.startsWith('#')).map((l) => l.split('\t'));
const cfg = ts.getParsedCommandLineOfConfigFile('tsconfig.check.json', {}, { ...ts.sys, onUnRecoverableConfigFileDiagnostic: console.error });
const files = new Map(cfg.fileNames.map((f) => [f, { version: 0, text: undefined }]));
const get = (f) => { const e = files.get(f); if (e) return (e.text ??= readFileSync(f, 'utf8')); return ts.sys.readFile(f); };
const host = { getScriptFileNames: () => [...files.keys()], getScriptVersion: (f) => String(files.get(f)?.version ?? 0), getScriptSnapshot: (f) => { const t = get(f); return t === undefined ? undefined : ts.ScriptSnapshot.fromString(t); }, getCurrentDirectory: () => process.cwd(), getCompilationSettings: () => cfg.options, getDefaultLibFileName: (o) => ts.getDefaultLibFilePath(o), fileExists: ts.sys.fileExists, readFile: ts.sys.readFile, readDirectory: ts.sys.readDirectory, directoryExists: ts.sys.directoryExists, getDirectories: ts.sys.getDirectories };
const service = ts.createLanguageService(host);
const touched = new Set();
for (const [file, pattern, old, next, both] of list) {
  const path = `${process.cwd()}/${file}`;
  const text = get(path);
  if (text === undefined) { console.log('NO FILE', file); continue; }
  const m = new RegExp(pattern, 'm').exec(text);
  if (!m) { console.log('NO MATCH', file, pattern); continue; }
  const at = m.index + m[0].search(new RegExp(`\\b${old.replace('$', '\\$')}\\b`));
  const locations = service.findRenameLocations(path, at, false, false, { providePrefixAndSuffixTextForRename: both !== 'both' });
  if (!locations) { console.log('CANNOT', file, pattern, service.getRenameInfo(path, at)); continue; }
  const byFile = new Map();
  for (const l of locations) { if (!byFile.has(l.fileName)) byFile.set(l.fileName, []); byFile.get(l.fileName).push(l); }
  let n = 0;
  for (const [f, ls] of byFile) {
    if (f.includes('node_modules') || f.includes('/dist/')) continue;
    let t = get(f);
    for (const l of ls.sort((a, b) => b.textSpan.start - a.textSpan.start)) { t = t.slice(0, l.textSpan.start) + (l.prefixText ?? '') + next + (l.suffixText ?? '') + t.slice(l.textSpan.start + l.textSpan.length); n++; }
    const e = files.get(f) ?? { version: 0 }; e.text = t; e.version++; files.set(f, e); touched.add(f);
  }
  console.log(`${old} -> ${next}: ${n} in ${byFile.size} files`);
}
for (const f of touched) writeFileSync(f, files.get(f).text);
