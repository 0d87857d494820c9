import { Command } from 'commander';
import { openModel } from '../open/open-model.js';
import { surveyModel } from '../survey/survey-model.js';
import { withProgress } from '../report/progress.js';
import { surveyReport } from '../report/survey-report.js';

export function surveyCommand(): Command {
  return new Command('survey')
    .description('Tells what a model holds and what it will cost to draw.')
    .argument('<file>', 'a model (glTF, GLB, OBJ, PLY, STL) or a sheet (.sheet.json)')
    .option('--json', 'print one JSON object and nothing else')
    .option('--allow-outside', 'let the model name files outside its folder')
    .addHelpText(
      'after',
      '\nExamples:\n  umber survey harbour.glb\n  umber survey harbour.glb --json | jq .drawCalls',
    )
    .action(async (file: string, options: { json?: boolean; allowOutside?: boolean }) => {
      const { model, survey } = await withProgress(`reading ${file}`, async () => {
        const opened = await openModel(file, { allowOutside: options.allowOutside ?? false });
        return { model: opened, survey: await surveyModel(opened) };
      });
      process.stdout.write(
        options.json ? `${JSON.stringify(survey, null, 2)}\n` : surveyReport(file, model, survey),
      );
    });
}
