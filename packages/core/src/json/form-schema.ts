import type { Property } from '../properties/property.js';
import { type Form, type Member, type MembersForm } from './forms.js';

type Schema = Record<string, unknown>;

/** A form as a JSON Schema (2020-12), for editors that complete and explain. */
export const formSchema = (form: MembersForm, title: string): Schema => new SchemaWriter().whole(form, title);

class SchemaWriter {
  private readonly names = new Map<MembersForm, string>();
  private readonly defs: Record<string, Schema> = {};

  whole(form: MembersForm, title: string): Schema {
    const { description, ...root } = this.members(form);
    return {
      $schema: 'https://json-schema.org/draft/2020-12/schema',
      title,
      description,
      // What editors ask by this name.
      allowTrailingCommas: true,
      ...root,
      $defs: this.defs,
    };
  }

  private members({ apart = [], line, members, needs = [], needsOne }: MembersForm): Schema {
    return {
      description: line,
      type: 'object',
      additionalProperties: false,
      ...(needs.length > 0 ? { required: [...needs] } : {}),
      ...(needsOne ? { anyOf: needsOne.map((name) => ({ required: [name] })) } : {}),
      ...(apart.length > 0
        ? { allOf: apart.flatMap((names) => pairsOf(names).map((pair) => ({ not: { required: pair } }))) }
        : {}),
      properties: Object.fromEntries(
        Object.entries(members()).map(([name, member]) => [name, this.member(member)]),
      ),
    };
  }

  private member({ default: usual, form, line, only }: Member): Schema {
    const counts = only ? ` Counts for ${only.join(', ')}.` : '';
    return {
      description: line + unitOf(form) + counts,
      ...this.form(form),
      ...(usual === undefined || usual === Infinity ? {} : { default: usual }),
    };
  }

  private form(form: Form): Schema {
    switch (form.kind) {
      case 'any':
        return {};
      case 'nothing':
        return { type: 'null' };
      case 'name':
      case 'address':
        return { type: 'string', minLength: 1 };
      case 'list':
        return {
          type: 'array',
          items: this.form(form.of),
          ...(form.length === undefined ? {} : { minItems: form.length, maxItems: form.length }),
          ...(form.least === undefined ? {} : { minItems: form.least }),
          ...(form.most === undefined ? {} : { maxItems: form.most }),
        };
      case 'map':
        return { type: 'object', additionalProperties: this.form(form.of) };
      case 'either':
        return { anyOf: form.forms.map((one) => this.form(one)) };
      case 'by':
        return { anyOf: form.forms.map((one) => this.form(one)) };
      case 'members':
        return { $ref: `#/$defs/${this.nameOf(form)}` };
      case 'value':
        return valueSchema(form.property);
    }
  }

  /** Objects stand once, by a name: they may hold themselves. */
  private nameOf(form: MembersForm): string {
    const known = this.names.get(form);
    if (known !== undefined) return known;
    const stem = form.what.replace(/^an? |^the /, '').replaceAll(' ', '-');
    let name = stem;
    for (let number = 2; name in this.defs; number++) name = `${stem}-${number}`;
    this.names.set(form, name);
    this.defs[name] = {};
    this.defs[name] = this.members(form);
    const shape = (this.defs[name]['properties'] as Record<string, Schema>)['shape'];
    // Which shape it is decides what it takes.
    if (shape?.['enum'] && (shape['enum'] as string[]).includes(stem)) shape['enum'] = [stem];
    return name;
  }
}

function valueSchema({
  isOpen = false,
  isWhole = false,
  length,
  or = [],
  range,
  type,
  words,
}: Property): Schema {
  const [min, max] = range ?? [-Infinity, Infinity];
  const number: Schema = {
    type: isWhole ? 'integer' : 'number',
    ...(Number.isFinite(min) ? { [isOpen ? 'exclusiveMinimum' : 'minimum']: min } : {}),
    ...(Number.isFinite(max) ? { [isOpen ? 'exclusiveMaximum' : 'maximum']: max } : {}),
  };
  const of = (one: string): Schema[] => {
    switch (one) {
      case 'number':
        return [number];
      case 'numbers':
        return [
          {
            type: 'array',
            items: number,
            ...(length === undefined ? {} : { minItems: length, maxItems: length }),
          },
        ];
      case 'boolean':
      case 'string':
        return [{ type: one }];
      case 'word':
        return [{ enum: words }];
      default:
        return [];
    }
  };
  const all = [type, ...or].flatMap(of);
  return all.length === 1 ? all[0]! : { anyOf: all }; // one
}

function unitOf(form: Form): string {
  if (form.kind !== 'value') return '';
  const { color, unit } = form.property;
  const space = color === undefined ? '' : ` ${color === 'linear' ? 'Linear' : 'sRGB-encoded'}.`;
  if (unit === undefined) return space;
  const all =
    typeof unit === 'string'
      ? unit
      : Object.entries(unit)
          .map(([type, one]) => `${type}: ${one}`)
          .join('; ');
  return ` ${all.slice(0, 1).toUpperCase()}${all.slice(1)}.${space}`;
}

const pairsOf = (names: readonly string[]): string[][] =>
  names.flatMap((name, i) => names.slice(i + 1).map((other) => [name, other]));
