import { formSchema } from '../json/form-schema.js';
import { GRAPH_FORM } from './graph-forms.js';

/** The form of graphs as a JSON Schema (2020-12), for editors that complete and explain. What names mean is not in it. */
export const graphSchema = (): Record<string, unknown> =>
  formSchema(GRAPH_FORM, 'Shader graph of Umber Lens');
