import { getAttributeValue, getElementsByTagName } from 'domutils';
import { parseDocument } from 'htmlparser2';
import { blocksFromHtml } from '../../core/exchange/html.ts';
import { newId } from '../ids.ts';
import type { Doing } from '../work/job-thread.ts';

/** What has to be read out of HTML from elsewhere. */
export type MarkupJobs = {
  blocks: { given: string; result: ReturnType<typeof blocksFromHtml> };
  installed: { given: string; result: Installed };
};

/** What a page of another site has of this one. */
export interface Installed {
  /** The key that the script is given; null where it has none. Undefined where there is no script. */
  readonly key: string | null | undefined;
  /** The slots that are named, with how often; the first of them only. */
  readonly slots: readonly { readonly key: string; readonly times: number }[];
}

const mostSlots = 500;
const longestKey = 200;

function installed(html: string): Installed {
  const elements = getElementsByTagName('*', parseDocument(html).children);
  const times = new Map<string, number>();
  for (const element of elements) {
    const key = getAttributeValue(element, 'data-porch-slot')?.trim().slice(0, longestKey);
    if (key !== undefined && (times.has(key) || times.size < mostSlots))
      times.set(key, (times.get(key) ?? 0) + 1);
  }
  const script = elements.find(
    (element) =>
      element.name === 'script' && /\/embed\/porch\.js$/.test(getAttributeValue(element, 'src') ?? ''),
  );
  return {
    key: script && (getAttributeValue(script, 'data-key') || null),
    slots: [...times].map(([key, found]) => ({ key, times: found })),
  };
}

export const jobs: Doing<MarkupJobs> = { blocks: (html) => blocksFromHtml(html, newId), installed };
