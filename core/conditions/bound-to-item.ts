import type { Catalogue } from '../attributes/catalogue.ts';
import { readValue } from '../attributes/parse.ts';
import { factsOf } from '../attributes/viewer.ts';
import { all, any, type Condition, type Test, test as testOf } from './condition.ts';
import { compile } from './evaluate.ts';
import { mapTests } from './rewrite.ts';
import { validate } from './validate.ts';

/**
 * A condition as it is for whoever looks at one item: what it asks of the item is answered, and what it compares with
 * the viewer's own value is asked of that value alone. It has the same outcome for every viewer with that item before
 * them. A test with an error stays as it is.
 *
 * @param values what conditions see of the item, see `itemValues`
 * @param instant the moment, in milliseconds since 1970 UTC, for what is asked of dates of the item
 */
export function boundToItem(
  condition: Condition,
  values: { readonly [attribute: string]: unknown },
  catalogue: Catalogue,
  instant: number,
): Condition {
  const facts = factsOf(catalogue, {
    contact: null,
    signedIn: false,
    visit: {},
    item: { ...values },
    instant,
  });
  return mapTests(condition, (test): Condition => {
    const attribute = catalogue.get(test.attribute);
    if (attribute?.source !== 'item') return test;
    if (validate(test, { catalogue, hasAudience: () => true }).length > 0) return test;
    const own = ownValueAsked(test, readValue(attribute, values[attribute.id]));
    if (own) return own;
    return compile(test, catalogue)(facts) ? all() : any();
  });
}

/** What a comparison with the viewer's own value asks of it; undefined for a test of the item alone. */
function ownValueAsked({ op, values: [own] }: Test, value: unknown): Condition | undefined {
  if (op !== 'includes-own' && op !== 'same-as') return undefined;
  const wanted = Array.isArray(value) ? value.map(String) : typeof value === 'string' ? [value] : [];
  return wanted.length === 0 ? any() : testOf(String(own), 'is-one-of', ...wanted);
}
