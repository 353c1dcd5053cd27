import { dequal } from 'dequal';
import type { Collection, Item } from '../collections/collection.ts';
import {
  type Content,
  type Document,
  type Slot,
  slotsOf,
  variantLetter,
  walkContent,
} from '../documents/document.ts';
import { areAlike, KeptOfTwo } from './alike.ts';
import type { Snapshot } from './release.ts';

export interface Change {
  what: 'page' | 'email' | 'shared' | 'collection' | 'item' | 'audience' | 'attribute' | 'settings';
  id: string;
  name: string;
  change: 'new' | 'changed' | 'removed';
  /** What changed inside, in words; empty if the change itself says it all. */
  details: string[];
}

/**
 * Lists every difference between the live release (undefined if nothing is live yet) and the drafts, in words. Comparisons
 * are cached, so neither argument may be mutated.
 */
export function changesBetween(live: Snapshot | undefined, drafts: Snapshot): Change[] {
  const changes: Change[] = [
    ...listChanges(live?.documents ?? [], drafts.documents, aDocument),
    ...listChanges(live?.audiences ?? [], drafts.audiences, anAudience),
    // A new attribute affects nobody until something uses it, and whatever uses it is listed as a change itself.
    ...listChanges(live?.attributes ?? [], drafts.attributes, anAttribute).filter(
      ({ change }) => change !== 'new',
    ),
    ...listChanges(live?.collections ?? [], drafts.collections ?? [], aCollection),
    ...listChanges(live?.items ?? [], drafts.items ?? [], anItem),
  ];
  if (live && !areAlike(live.settings, drafts.settings))
    changes.push({
      what: 'settings',
      id: 'settings',
      name: 'Site settings',
      change: 'changed',
      details: settingsDetails(live.settings, drafts.settings),
    });
  return changes;
}

/** Describes changes to one kind of entity. */
interface Telling<Thing extends { readonly id: string }> {
  readonly what: (thing: Thing) => Change['what'];
  readonly name: (thing: Thing) => string;
  /** What changed in one entity, in words. */
  readonly details: KeptOfTwo<Thing, Thing, string[]>;
}

function telling<Thing extends { readonly id: string }>(
  what: (thing: Thing) => Change['what'],
  name: (thing: Thing) => string,
  details: (before: Thing, after: Thing) => string[],
): Telling<Thing> {
  return { what, name, details: new KeptOfTwo(details) };
}

const aDocument = telling<Document>(
  ({ kind }) => kind,
  ({ name }) => name,
  documentDetails,
);
const anAudience = telling<Snapshot['audiences'][number]>(
  () => 'audience',
  ({ name }) => name,
  audienceDetails,
);
const anAttribute = telling<Snapshot['attributes'][number]>(
  () => 'attribute',
  ({ label }) => label,
  () => [],
);
const aCollection = telling<Collection>(
  () => 'collection',
  ({ name }) => name,
  collectionDetails,
);
const anItem = telling<Item>(
  () => 'item',
  ({ title }) => title,
  itemDetails,
);

function listChanges<Thing extends { readonly id: string }>(
  before: readonly Thing[],
  after: readonly Thing[],
  { what, name, details }: Telling<Thing>,
): Change[] {
  const changes: Change[] = [];
  const described = (thing: Thing) => ({ what: what(thing), id: thing.id, name: name(thing) });
  const left = new Map(before.map((thing) => [thing.id, thing]));
  for (const thing of after) {
    const old = left.get(thing.id);
    left.delete(thing.id);
    if (!old) changes.push({ ...described(thing), change: 'new', details: [] });
    else if (!areAlike(old, thing))
      changes.push({ ...described(thing), change: 'changed', details: details.of(old, thing) });
  }
  for (const thing of left.values()) changes.push({ ...described(thing), change: 'removed', details: [] });
  return changes;
}

function audienceDetails(before: Snapshot['audiences'][number], after: typeof before): string[] {
  const details: string[] = [];
  if (before.name !== after.name) details.push(`renamed from “${before.name}”`);
  if (!dequal(before.condition, after.condition)) details.push('who is in it');
  return details;
}

const settingsParts: { readonly [Part in keyof Snapshot['settings']]-?: string } = {
  name: 'the name',
  zone: 'the time zone',
  locale: 'the language',
  postalAddress: 'the postal address',
  fromAddress: 'the address that emails come from',
  menu: 'the menu',
  notFoundPage: 'the not-found page',
  afterSignIn: 'the page after signing in',
  theme: 'colours and fonts',
  ownPages: 'the words of the site’s own pages',
};

function settingsDetails(before: Snapshot['settings'], after: typeof before): string[] {
  return Object.entries(settingsParts).flatMap(([part, words]) => {
    const valueIn = (settings: Snapshot['settings']) => new Map(Object.entries(settings)).get(part) ?? null;
    return dequal(valueIn(before), valueIn(after)) ? [] : [words];
  });
}

function collectionDetails(before: Collection, after: Collection): string[] {
  return [
    ...(before.name !== after.name ? [`renamed from “${before.name}”`] : []),
    ...(before.slug !== after.slug ? [`address was “/${before.slug}/”`] : []),
    ...(before.access !== after.access ? ['who may open its items'] : []),
    ...(before.locked !== after.locked ? ['whether closed items are listed'] : []),
    ...(dequal(before.fields, after.fields) ? [] : ['its fields']),
  ];
}

function itemDetails(before: Item, after: Item): string[] {
  return [
    ...(before.title !== after.title ? [`title was “${before.title}”`] : []),
    ...(before.slug !== after.slug ? [`address was “${before.slug}”`] : []),
    ...(before.access !== after.access ? ['who may open it'] : []),
    ...(dequal(before.listed ?? null, after.listed ?? null) ? [] : ['whom lists show it to']),
    ...(before.from !== after.from || before.until !== after.until ? ['when it is published'] : []),
    ...(dequal(before.values, after.values) && before.teaser === after.teaser ? [] : ['what it says']),
  ];
}

function documentDetails(before: Document, after: Document): string[] {
  const details: string[] = [];
  if (before.name !== after.name) details.push(`renamed from “${before.name}”`);
  if (before.slug !== after.slug) details.push(`address was “/${before.slug}”`);
  if (!dequal(before.access ?? null, after.access ?? null)) details.push('who may open it');
  const old = new Map(slotsOf(before.content).map((slot) => [slot.id, slot]));
  for (const slot of slotsOf(after.content)) {
    const was = old.get(slot.id);
    old.delete(slot.id);
    if (!was) details.push(`${slot.name}: now differs by audience`);
    else details.push(...slotDetails(was, slot).map((detail) => `${slot.name}: ${detail}`));
  }
  for (const slot of old.values()) details.push(`${slot.name}: no longer differs`);
  if (!dequal(outsideSlots(before.content), outsideSlots(after.content))) details.push('what everyone sees');
  return details;
}

function slotDetails(before: Slot, after: Slot): string[] {
  const details: string[] = [];
  const letters = new Map(before.variants.map((variant, index) => [variant.id, { variant, index }]));
  for (const [index, variant] of after.variants.entries()) {
    const letter = variantLetter(index);
    const was = letters.get(variant.id);
    letters.delete(variant.id);
    if (!was) details.push(`variant ${letter} is new`);
    else {
      if (was.variant.audience !== variant.audience) details.push(`variant ${letter} has another audience`);
      if (!dequal(was.variant.content, variant.content)) details.push(`variant ${letter} reads differently`);
      if (was.index !== index) details.push(`variant ${letter} was ${variantLetter(was.index)}`);
    }
  }
  for (const { index } of letters.values()) details.push(`variant ${variantLetter(index)} is gone`);
  if (!dequal(before.otherwise, after.otherwise)) details.push('everyone else sees something else');
  if (before.name !== after.name) details.push(`renamed from “${before.name}”`);
  return details;
}

/** The blocks outside every slot; slots are reduced to their ids. */
function outsideSlots(content: Content): unknown {
  const inside = new Set<string>();
  for (const slot of slotsOf(content))
    for (const { node } of walkContent({ subject: [], preview: [], body: [slot] }))
      if (node !== slot) inside.add(node.id);
  return [...walkContent(content)]
    .filter(({ node }) => !inside.has(node.id))
    .map(({ node, depth, region }) => {
      if (node.kind === 'slot') return [region, depth, node.id];
      return [
        region,
        depth,
        node.kind === 'section' || node.kind === 'links' ? { ...node, children: [] } : node,
      ];
    });
}
