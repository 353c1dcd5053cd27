import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { emailField, externalIdField, type Fields, mailField } from '../../../core/exchange/merge.ts';
import { valueText } from '../../../core/exchange/value-text.ts';

const otherLabels: { [field: string]: string } = {
  [externalIdField]: 'external ID',
  [mailField]: 'can be emailed',
};

/** What changes of a contact, by attribute: what was there and what came. */
export function FieldWords({ fields, catalogue }: { fields: Fields; catalogue: Catalogue }) {
  const words = Object.entries(fields)
    .filter(([field, [before]]) => field !== emailField || before !== null)
    .map(([field, [before, now]]) => {
      const attribute = catalogue.get(field);
      const text = (value: unknown): string => {
        if (value === null || value === undefined) return 'no value';
        if (typeof value === 'boolean') return value ? 'yes' : 'no';
        return (attribute && valueText(attribute, value)) || [value].flat().map(String).join(', ');
      };
      const label = attribute?.label ?? otherLabels[field] ?? field;
      return { field, label, before: before === null ? null : text(before), now: text(now) };
    });
  return (
    <span className="flex flex-wrap gap-x-4">
      {words.map(({ field, label, before, now }) => (
        <span key={field}>
          <span className="text-quiet">{label}</span>{' '}
          {before !== null && <s className="text-quiet">{before}</s>} {now}
        </span>
      ))}
    </span>
  );
}
