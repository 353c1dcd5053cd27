import { valuesSchema } from '../../../contract/people.ts';
import { type Attribute, choiceLabel, choicesOf } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { countryName } from '../../../core/attributes/countries.ts';
import { formatValue } from '../../../core/attributes/format.ts';
import { factsOf, valueOfFact } from '../../../core/attributes/viewer.ts';
import { useApi } from '../../data/api.ts';
import { count, countOf } from '../../data/count.ts';
import { personLabel, useLooking } from '../../data/looking.tsx';
import { typeWord } from './type-words.ts';

const valuesShown = 7;

/** Describes an attribute: its type, its actual values, and its value for the current viewer. */
export function AttributeHint({ attribute, catalogue }: { attribute: Attribute; catalogue: Catalogue }) {
  const isContact = attribute.source === 'contact';
  const { data } = useApi(isContact ? `/attributes/${attribute.id}/values` : null, valuesSchema);
  const { look, viewer } = useLooking();
  const fact = factsOf(catalogue, viewer).at(catalogue.indexOf(attribute.id) ?? -1);
  const own =
    fact === undefined
      ? undefined
      : formatValue(attribute, valueOfFact(attribute, fact), 'en-GB', catalogue.zone);
  const most = Math.max(1, ...(data?.values ?? []).map((value) => value.count));
  return (
    <div className="flex h-full flex-col gap-2">
      <div>
        <div className="font-semibold first-letter:uppercase">{attribute.label}</div>
        <div className="text-[12px] leading-4 text-quiet">
          {[typeWord(attribute), attribute.description].filter((text) => text !== '').join(' · ')}
        </div>
      </div>
      {data && data.values.length > 0 && (
        <ul className="flex flex-col gap-1">
          {data.values.slice(0, valuesShown).map((value) => (
            <li key={value.value} className="text-[12px] leading-4">
              <span className="flex gap-2">
                <span className="min-w-0 flex-1 truncate">{sayValue(attribute, value.value)}</span>
                <span className="text-quiet">{count(value.count)}</span>
              </span>
              <span className="mt-0.5 block h-1 rounded-full bg-line" aria-hidden>
                <span
                  className="block h-full rounded-full bg-leaf"
                  style={{ width: `${(100 * value.count) / most}%` }}
                />
              </span>
            </li>
          ))}
        </ul>
      )}
      {data && (
        <div className="text-[12px] leading-4 text-quiet">
          {data.values.length > valuesShown &&
            `${data.complete ? '' : 'more than '}${count(data.values.length - valuesShown)} other values · `}
          {data.lacking === 0
            ? 'everybody has one'
            : countOf(data.lacking, 'person has none', 'people have none')}
        </div>
      )}
      {!isContact && choicesOf(attribute).length > 0 && (
        <div className="text-[12px] leading-4 text-quiet">
          {choicesOf(attribute)
            .map((choice) => choice.label)
            .join(', ')}
        </div>
      )}
      <div className="mt-auto border-t border-line pt-2 text-[12px] leading-4">
        <span className="text-quiet">{personLabel(look).name}: </span>
        {own ?? <span className="text-quiet">no value</span>}
      </div>
    </div>
  );
}

function sayValue(attribute: Attribute, value: string): string {
  if (attribute.type === 'country') return countryName(value, 'en');
  if (attribute.type === 'choice' || attribute.type === 'set') return choiceLabel(attribute, value);
  return attribute.type === 'yes-no' ? (value === 'true' || value === '1' ? 'yes' : 'no') : value;
}
