/**
 * What each kind of thing may hold: type, unit, range, default and a line for every member, and how to read and write it on a
 * running scene. Checks while developing, docs, comparisons of models and tools for scenes are made from it.
 *
 * @module @umber-lens/core/properties
 */
export { readMember, writeMember } from './access/member.js';
export { instanceSettingsTable, parametersTable, settingsTable } from './access/settings-table.js';
export { type Fault, faultsOf } from './properties/faults.js';
export { inUnits, unitOf } from './properties/in-units.js';
export { type Kind, type KindName, KINDS, OPTION_KINDS } from './properties/kinds.js';
export type { Meant, Property, PropertyType, Table, Unit } from './properties/property.js';
