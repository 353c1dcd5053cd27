import { audiencesIn, type Condition } from '../conditions/condition.ts';
import { kindOf } from './blocks/blocks.ts';
import { type Content, type Document, slotsOf, textOf, walkContent } from './document.ts';
import { mergeFieldsOf } from './text.ts';

/** The audiences that the slots of a document are for. */
export function audiencesOf(content: Content): Set<string> {
  const used = new Set<string>();
  for (const slot of slotsOf(content)) for (const variant of slot.variants) used.add(variant.audience);
  return used;
}

/** Every audience that a document needs: those of its slots or set for them, of its lists, and of who may open it. */
export function audiencesOfDocument({ content, access }: Pick<Document, 'content' | 'access'>): Set<string> {
  const used = new Set(audiencesNeededBy(content));
  if (access) used.add(access.audience);
  return used;
}

const needed = new WeakMap<Content, ReadonlySet<string>>();

/** Every audience that a content needs; found once for each content, which does not change. */
function audiencesNeededBy(content: Content): ReadonlySet<string> {
  const known = needed.get(content);
  if (known) return known;
  const used = new Set([...audiencesOf(content), ...(content.audiences ?? [])]);
  for (const condition of listConditions(content)) for (const id of audiencesIn(condition)) used.add(id);
  for (const { node } of walkContent(content))
    if (node.kind !== 'slot') for (const id of kindOf(node).audiences?.(node) ?? []) used.add(id);
  needed.set(content, used);
  return used;
}

/** Attributes that merge fields of a document print. */
export function mergedAttributes(content: Content): Set<string> {
  const used = new Set<string>();
  for (const { node } of walkContent(content)) {
    for (const field of mergeFieldsOf(textOf(node))) used.add(field.attrs.attribute);
    if (node.kind !== 'slot') for (const id of kindOf(node).prints?.(node) ?? []) used.add(id);
  }
  return used;
}

/** What the lists of a document ask of their entries. */
export function listConditions(content: Content): Condition[] {
  const found: Condition[] = [];
  for (const { node } of walkContent(content))
    if (node.kind !== 'slot') found.push(...(kindOf(node).conditions?.(node) ?? []));
  return found;
}

/** The fields that lists of a document sort by or say of their entries. */
export function listedFields(content: Content): Set<string> {
  const used = new Set<string>();
  for (const { node } of walkContent(content)) {
    if (node.kind !== 'list') continue;
    used.add(node.sort);
    const { variants = [], otherwise } = node.remarks ?? {};
    for (const remark of otherwise ? [...variants, otherwise] : variants)
      if (remark.field !== null) used.add(remark.field);
  }
  return used;
}

/** The files that a document shows, by their ids. */
export function filesIn(content: Content): Set<string> {
  const found = new Set<string>();
  for (const { node } of walkContent(content))
    if (node.kind !== 'slot') for (const file of kindOf(node).files?.(node) ?? []) found.add(file);
  return found;
}
