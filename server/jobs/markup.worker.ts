import { parentPort } from 'node:worker_threads';
import { getAttributeValue, getElementsByTagName } from 'domutils';
import { parseDocument } from 'htmlparser2';
import { blocksFromHtml } from '../../core/exchange/html.ts';
import { newId } from '../ids.ts';

/** What has to be read out of HTML from elsewhere. */
export type MarkupJob =
  | { readonly name: 'blocks'; readonly html: string }
  | { readonly name: 'installed'; readonly html: string };

/** What a page of another site has of this one. */
export interface Installed {
  /** The key that the script is given; null where it has none. Undefined where there is no script. */
  readonly key: string | null | undefined;
  /** The slots that are named, with how often; the first of them only. */
  readonly slots: readonly { readonly key: string; readonly times: number }[];
}

export interface MarkupResults {
  blocks: ReturnType<typeof blocksFromHtml>;
  installed: Installed;
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

parentPort?.on('message', (job: MarkupJob) => {
  try {
    parentPort?.postMessage({
      result: job.name === 'blocks' ? blocksFromHtml(job.html, newId) : installed(job.html),
    });
  } catch (error) {
    parentPort?.postMessage({ failure: error instanceof Error ? error.message : String(error) });
  }
});
