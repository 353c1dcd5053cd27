import { createHash } from 'node:crypto';
import type { Snapshot } from '../../core/deciding/release.ts';

const known = new WeakMap<object, string>();

/** What tells drafts from any other drafts; of what did not change since it was asked last, nothing is read again. */
export function fingerprintOf(snapshot: Snapshot): string {
  const { settings, attributes, audiences, documents, facts = [], collections = [], items = [] } = snapshot;
  const whole = createHash('sha256').update(printOf(settings));
  for (const things of [attributes, audiences, documents, facts, collections, items]) {
    whole.update(`${things.length}:`);
    for (const thing of things) whole.update(printOf(thing));
  }
  return whole.digest('hex').slice(0, 32);
}

function printOf(thing: object): string {
  let print = known.get(thing);
  if (print === undefined) {
    print = createHash('sha256').update(JSON.stringify(thing)).digest('base64');
    known.set(thing, print);
  }
  return print;
}
