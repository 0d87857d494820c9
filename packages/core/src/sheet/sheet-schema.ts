import { formSchema } from '../json/form-schema.js';
import { SHEET_FORM } from './sheet-forms.js';

/**
 * The form of sheets as a JSON Schema (2020-12), for editors that complete and explain. It takes what `readSheet` takes, but for
 * what names mean and which members go together.
 */
export const sheetSchema = (): Record<string, unknown> => formSchema(SHEET_FORM, 'Sheet of Umber Lens');
