import { createRequire } from 'node:module';
import { LensError } from '@umber-lens/core/engine';
import { Command } from 'commander';
import { bakeCommand } from './commands/bake.js';
import { budgetCommand } from './commands/budget.js';
import { checkCommand } from './commands/check.js';
import { compareCommand } from './commands/compare.js';
import { diffCommand } from './commands/diff.js';
import { recastCommand } from './commands/recast.js';
import { serveCommand } from './commands/serve.js';
import { shaderCommand } from './commands/shader.js';
import { shootCommand } from './commands/shoot.js';
import { surveyCommand } from './commands/survey.js';
import { typesCommand } from './commands/types.js';
import { trimCommand } from './commands/trim.js';
import { reportFailure } from './report/failure.js';
import { systemError } from './report/write-output.js';

const { version } = createRequire(import.meta.url)('@umber-lens/cli/package.json') as { version: string };

const program = new Command('umber')
  .description('Looks into 3D models and shaders, and draws both without a screen.')
  .version(version)
  .option('--verbose', 'add the stack to errors')
  .showHelpAfterError('(umber --help shows what is possible)')
  .addCommand(surveyCommand())
  .addCommand(shootCommand())
  .addCommand(serveCommand())
  .addCommand(checkCommand())
  .addCommand(shaderCommand())
  .addCommand(bakeCommand())
  .addCommand(compareCommand())
  .addCommand(budgetCommand())
  .addCommand(typesCommand())
  .addCommand(trimCommand())
  .addCommand(recastCommand())
  .addCommand(diffCommand());

for (const command of program.commands) command.option('--verbose', 'add the stack to errors');

// A reader that closes the pipe early (head) is no failure of ours.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  const { summary } = systemError('standard output', 'written to', error);
  process.stderr.write(`error ${summary}\n`);
  process.exit(1);
});

try {
  await program.parseAsync();
} catch (error) {
  const isJson = process.argv.includes('--json');
  if (isJson && error instanceof LensError) {
    const { code, hint, summary, where } = error;
    process.stdout.write(`${JSON.stringify({ error: { code, message: summary, hint, where } }, null, 2)}\n`);
  } else reportFailure(error, process.argv.includes('--verbose'));
  process.exitCode = 1;
}
