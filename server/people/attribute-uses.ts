import type { Use } from '../../contract/audiences.ts';
import type { StatedFact } from '../../core/audiences/fact.ts';
import { attributesIn, type Condition, leavesOf } from '../../core/conditions/condition.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { type Content, walkContent } from '../../core/documents/document.ts';
import { listConditions, listedFields, mergedAttributes } from '../../core/documents/uses.ts';

/** Where an attribute is used: in audiences that test it, in pages and emails that print it. */
export function usesOfAttribute(id: string, snapshot: Snapshot): Use[] {
  const audiences = snapshot.audiences
    .filter(({ condition }) => attributesIn(condition).has(id))
    .map((audience) => ({ what: 'audience' as const, id: audience.id, name: audience.name }));
  const documents = snapshot.documents
    .filter(
      ({ content }) =>
        mergedAttributes(content).has(id) ||
        listedFields(content).has(id) ||
        listConditions(content).some((condition) => attributesIn(condition).has(id)),
    )
    .map((document) => ({ what: document.kind, id: document.id, name: document.name }));
  const facts = (snapshot.facts ?? [])
    .filter((fact) => factNames(fact, id))
    .map((fact) => ({ what: 'fact' as const, id: fact.id, name: 'a data rule' }));
  return [...audiences, ...documents, ...facts.slice(0, 1)];
}

/** Whether a list's condition or a form's choices name a choice of an attribute. */
export function listsName(content: Content, attribute: string, choice: string): boolean {
  return (
    listConditions(content).some((condition) => namesChoice(condition, attribute, choice)) ||
    [...walkContent(content)].some(
      ({ node }) =>
        node.kind === 'form' &&
        node.fields.some((field) => field.attribute === attribute && field.only?.includes(choice)),
    )
  );
}

export function factNames({ who, also }: StatedFact, attribute: string): boolean {
  return attributesIn(who).has(attribute) || attributesIn(also).has(attribute);
}

/** Whether a condition tests an attribute against one of its choices. */
export function namesChoice(condition: Condition, attribute: string, choice: string): boolean {
  for (const leaf of leavesOf(condition))
    if (leaf.kind === 'test' && leaf.attribute === attribute && leaf.values.includes(choice)) return true;
  return false;
}
