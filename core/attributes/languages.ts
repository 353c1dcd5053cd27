/** A well-formed language tag as far as RFC 5646 asks for letters, digits and hyphens in parts of 1 to 8. */
const tagForm = /^[a-z]{2,8}(-[a-z0-9]{1,8})*$/i;
export const mostLanguages = 20;

export function isLanguageTag(text: string): boolean {
  return text.length <= 60 && tagForm.test(text);
}

/**
 * Lookup (RFC 4647, section 3.4): the tag that fits a list of language ranges best. Each range in turn is shortened
 * from its end until it is one of the tags; a single letter or digit left at the end goes too. Case does not count.
 *
 * @returns one of `tags` as written there, or undefined where nothing fits
 * @example lookup(['zh-Hant-CN-x-private1-private2'], ['zh', 'zh-Hant']) // 'zh-Hant'
 */
export function lookup(ranges: readonly string[], tags: readonly string[]): string | undefined {
  const byName = new Map(tags.map((tag) => [tag.toLowerCase(), tag]));
  for (const range of ranges) {
    // A range of `*` alone fits nothing in particular and is skipped.
    let parts = range.toLowerCase().split('-');
    while (parts.length > 0) {
      const found = byName.get(parts.join('-'));
      if (found !== undefined) return found;
      parts = parts.slice(0, -1);
      if (parts.at(-1)?.length === 1) parts = parts.slice(0, -1);
    }
  }
  return undefined;
}

/**
 * The tags of an Accept-Language header (RFC 9110, section 12.5.4) or a plain list, most preferred first; what is
 * refused with a weight of 0, and what is no tag, is left out.
 *
 * @example readLanguages('fr;q=0.5, de-CH') // ['de-CH', 'fr']
 */
export function readLanguages(text: string): string[] {
  const weighed = text
    .slice(0, 2000)
    .split(/[,;](?!\s*q\s*=)/i)
    .map((part) => {
      const [tag = '', quality] = part.split(/;\s*q\s*=/i);
      const weight = quality === undefined ? 1 : Number(quality);
      return { tag: tag.trim(), weight: weight >= 0 && weight <= 1 ? weight : 0 };
    })
    .filter(({ tag, weight }) => weight > 0 && isLanguageTag(tag));
  weighed.sort((left, right) => right.weight - left.weight);
  return [...new Set(weighed.map(({ tag }) => tag))].slice(0, mostLanguages);
}
