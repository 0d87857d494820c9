import { stat } from 'node:fs/promises';
import { relative, resolve, sep } from 'node:path';
import { LensError } from '@umber-lens/core/engine';
import chalk from 'chalk';
import { Command } from 'commander';
import { rootOf } from '../serve/root-of.js';
import { parseNumber } from './parse.js';

interface ServeOptions {
  port: number;
  allowOutside?: boolean;
}

export function serveCommand(): Command {
  return new Command('serve')
    .description(
      'Shows a model, a sheet or a shader graph in the browser, without a project, follows changes of its files, and edits it in the viewfinder.',
    )
    .argument(
      '<file>',
      'a model, a sheet (*.sheet.json), a shader graph (*.graph.json), or a folder with some',
    )
    .option('--port <number>', 'where it listens; 0 takes a free one', parseNumber(0, 65535), 4700)
    .option('--allow-outside', 'let models name files outside their folders')
    .addHelpText('after', '\nExamples:\n  umber serve dusk.sheet.json\n  umber serve rim.graph.json')
    .action(async (file: string, { allowOutside = false, port }: ServeOptions) => {
      const found = await stat(file).catch(() => undefined);
      if (!found)
        throw new LensError('file/missing', `there is no file ${file}`, {
          hint: 'See whether the name and the folder are right.',
        });
      const path = resolve(file);
      const isFolder = found.isDirectory();
      // It brings the parser of TypeScript along.
      const { serveFolder } = await import('../serve/serve-folder.js');
      const root = isFolder ? path : await rootOf(path, process.cwd());
      const server = await serveFolder({
        root,
        ...(isFolder ? {} : { file: relative(root, path).split(sep).join('/') }),
        port,
        allowOutside,
      });
      process.stdout.write(
        `${chalk.green('serving')} ${file}\n  ${chalk.bold(server.address)}\n  ${isFolder || file.endsWith('.graph.json') ? '' : `${chalk.bold(`${server.address}?viewfinder`)} ${chalk.dim('edits it')}\n  `}${chalk.dim('what changes on the disk is shown at once; Ctrl+C ends it')}\n`,
      );
      await new Promise<void>((end) => {
        for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, end);
      });
      await server.close();
    });
}
