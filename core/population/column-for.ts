import type { Attribute } from '../attributes/attribute.ts';
import { CodedColumn } from './coded-column.ts';
import type { Column } from './column.ts';
import { NumberColumn } from './number-column.ts';

/** An empty column for the values of an attribute. */
export function columnFor(attribute: Attribute): Column {
  return attribute.type === 'number' ||
    attribute.type === 'date' ||
    attribute.type === 'date-time' ||
    attribute.type === 'time'
    ? new NumberColumn()
    : new CodedColumn(attribute.type === 'set');
}
