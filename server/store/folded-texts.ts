import { fold } from '../../core/attributes/text-folding.ts';

/**
 * The texts among a contact's values and its address in the form in which texts are compared, by attribute id; those
 * that are in that form already are left out. Stored beside the values, so that the database compares the same bytes as
 * evaluation does. Whatever is a text is in it, whatever type its attribute has now.
 */
export function foldedTexts(
  values: { readonly [attribute: string]: unknown },
  email: string,
): { [attribute: string]: string } {
  const folded: { [attribute: string]: string } = {};
  for (const [id, value] of Object.entries({ ...values, email })) {
    if (typeof value !== 'string') continue;
    const form = fold(value);
    if (form !== value) folded[id] = form;
  }
  return folded;
}
