import type { Audience } from '../audiences/audience.ts';
import { type Condition, leavesOf } from '../conditions/condition.ts';
import { everyoneElse } from '../deciding/decide.ts';
import {
  ancestorsOf,
  type Content,
  type Node,
  type Slot,
  slotsOf,
  textOf,
  variantLetter,
  walkContent,
  withText,
} from '../documents/document.ts';
import {
  copyNode,
  dissolveSlot,
  moveVariant,
  removeVariant,
  takeAudiences,
  updateNode,
  updateSlot,
} from '../documents/edit.ts';
import { deviationOf, outerSlotsOf } from '../documents/page-audiences.ts';
import { mergeFieldsOf } from '../documents/text.ts';
import { sayInstant, visitAttributesIn, whyNever } from './condition-findings.ts';
import { type Diagram, never } from './diagrams.ts';
import { slotDiagrams } from './faces.ts';
import type { DocumentFinding, Names } from './finding.ts';
import { endOf } from './moments.ts';
import type { World } from './world.ts';

/** What is proved about a document: its slots, their order, and its merge fields. */
export function documentFindings(
  content: Content,
  world: World,
  names: Names,
  audiences: readonly Audience[],
): DocumentFinding[] {
  const diagrams = slotDiagrams(content, world);
  const findings = slotsOf(content).flatMap((slot, index) =>
    new SlotFindings(content, slot, diagrams[index] ?? never, world, names, audiences).all(),
  );
  return [
    ...findings,
    ...deviationFindings(content, names),
    ...orderFindings(content, world, names),
    ...fallbackFindings(content, names),
  ];
}

class SlotFindings {
  private readonly byId: ReadonlyMap<string, Condition>;

  constructor(
    private readonly content: Content,
    private readonly slot: Slot,
    private readonly diagram: Diagram,
    private readonly world: World,
    private readonly names: Names,
    private readonly audiences: readonly Audience[],
  ) {
    this.byId = new Map(audiences.map((audience) => [audience.id, audience.condition]));
  }

  all(): DocumentFinding[] {
    const found = this.slot.variants.flatMap((_, index) => this.unreachedVariant(index) ?? []);
    return [...found, ...this.everyoneElse()];
  }

  private nameOf(id: string): string {
    return this.names.audience(id) ?? 'a deleted audience';
  }

  private shown(choice: number): Diagram {
    return this.world.possibly(this.world.diagrams.where(this.diagram, choice));
  }

  private about(variant: string | null) {
    return { slot: this.slot.id, variant, block: undefined, people: undefined } as const;
  }

  private unreachedVariant(index: number): DocumentFinding | undefined {
    const { slot, world, content } = this;
    const variant = slot.variants[index];
    if (!variant || this.shown(index) !== never) return undefined;
    const letter = variantLetter(index);
    const remove = {
      label: `Remove variant ${letter}`,
      content: removeVariant(content, slot.id, variant.id),
    };
    const own = world.possibly(world.audience(variant.audience));
    if (own === never) return this.impossible(index, remove);
    return this.shadowed(index, own, remove);
  }

  /** Nobody who can be here is in the audience: why not, here or anywhere. */
  private impossible(index: number, remove: DocumentFinding['repairs'][number]): DocumentFinding {
    const { slot, world, names } = this;
    const variant = slot.variants[index];
    const letter = variantLetter(index);
    const audience = variant?.audience ?? '';
    const condition = this.byId.get(audience);
    const base = { ...this.about(variant?.id ?? null), severity: 'wrong', repairs: [remove] } as const;
    const start = `${slot.name}: nobody gets variant ${letter}, since “${this.nameOf(audience)}”`;
    const ended = this.endedWindow(condition);
    if (ended !== undefined)
      return {
        ...base,
        kind: 'over',
        severity: 'careful',
        sentence: `${slot.name}: variant ${letter} is over. “${this.nameOf(audience)}” ended on ${sayInstant(ended, names)}.`,
      };
    if (world.channel === 'email' && world.audience(audience) !== never) {
      const visit = condition ? visitAttributesIn(condition, names, this.audiences) : [];
      if (visit.length > 0)
        return {
          ...base,
          kind: 'needs-visit',
          sentence: `${start} asks for ${new Intl.ListFormat('en-GB').format([...new Set(visit)])}, which nobody knows while mail is read.`,
        };
      return {
        ...base,
        kind: 'needs-sign-in',
        sentence: `${start} asks for somebody who is signed in, and nobody is while reading an email.`,
      };
    }
    const why = condition ? `: ${whyNever(condition, world, names).sentence}` : '';
    return {
      ...base,
      kind: 'never-true',
      sentence: `${slot.name}: nobody can ever get variant ${letter}, since “${this.nameOf(audience)}” can never be true${why}.`,
    };
  }

  private endedWindow(condition: Condition | undefined): number | undefined {
    const seen = new Set<string>();
    const walk = (part: Condition): number[] =>
      [...leavesOf(part)].flatMap((leaf) => {
        if (leaf.kind === 'test') return [endOf(leaf, this.names.catalogue)];
        const inner = this.byId.get(leaf.audience);
        if (!inner || seen.has(leaf.audience)) return [];
        seen.add(leaf.audience);
        return walk(inner);
      });
    return condition && walk(condition).find((end) => end <= this.world.instant);
  }

  private shadowed(index: number, own: Diagram, remove: DocumentFinding['repairs'][number]): DocumentFinding {
    const { slot, world, content } = this;
    const { diagrams } = world;
    const variant = slot.variants[index];
    const letter = variantLetter(index);
    const before = slot.variants.slice(0, index);
    const one = before.findIndex(
      (earlier) => diagrams.and(own, diagrams.not(world.audience(earlier.audience))) === never,
    );
    const touching = before.filter(
      (earlier) => diagrams.and(own, world.audience(earlier.audience)) !== never,
    );
    const blocking = one >= 0 ? before.slice(one, one + 1) : touching;
    const firstBlocking = before.findIndex((earlier) => blocking.includes(earlier));
    const moved = moveVariant(content, slot.id, variant?.id ?? '', firstBlocking);
    // A repair is offered only where it is one: moving must not leave another variant without viewers.
    const helps = firstBlocking >= 0 && unreached(moved, slot.id, world) < unreached(content, slot.id, world);
    const above = blocking.map((earlier) => `“${this.nameOf(earlier.audience)}”`).join(' or ');
    return {
      ...this.about(variant?.id ?? null),
      kind: 'shadowed',
      severity: 'wrong',
      people: { kind: 'audience', audience: variant?.audience ?? '' },
      sentence: `${slot.name}: nobody gets variant ${letter}, since everybody in “${this.nameOf(variant?.audience ?? '')}” is in ${above} above it.`,
      repairs: [
        ...(helps ? [{ label: `Move ${letter} above ${variantLetter(firstBlocking)}`, content: moved }] : []),
        remove,
      ],
    };
  }

  private everyoneElse(): DocumentFinding[] {
    const { slot, world, content } = this;
    const others = this.shown(everyoneElse);
    const [first] = slot.variants;
    const here = world.possibly(world.diagrams.not(world.diagrams.where(this.diagram, -2)));
    if (first && here !== never && this.shown(0) === here)
      return [
        {
          ...this.about(first.id),
          kind: 'always-true',
          severity: 'careful',
          sentence: `${slot.name}: everybody gets variant A, since “${this.nameOf(first.audience)}” is always true here; it does not differ.`,
          repairs: [{ label: 'Show it to all', content: dissolveSlot(content, slot.id, first.id) }],
        },
      ];
    if (others === never && slot.otherwise.length > 0)
      return [
        {
          ...this.about(null),
          kind: 'everyone-else-unreached',
          severity: 'careful',
          sentence: `${slot.name}: nobody is left for everyone else; what is written there is never shown.`,
          repairs: [
            {
              label: 'Show nothing there',
              content: updateSlot(content, slot.id, (old) => ({ ...old, otherwise: [] })),
            },
          ],
        },
      ];
    const last = slot.variants.at(-1);
    if (others === never || slot.otherwise.length > 0 || slot.variants.length < 2 || !last) return [];
    const newId = freshIds(content);
    return [
      {
        ...this.about(null),
        kind: 'gap',
        severity: 'careful',
        people: {
          kind: 'not',
          of: { kind: 'any', of: slot.variants.map(({ audience }) => ({ kind: 'audience', audience })) },
        },
        sentence: `${slot.name}: who is in none of ${slot.variants.map((variant) => `“${this.nameOf(variant.audience)}”`).join(', ')} gets nothing.`,
        repairs: [
          {
            label: `Show them what ${variantLetter(slot.variants.length - 1)} shows`,
            content: updateSlot(content, slot.id, (old) => ({
              ...old,
              otherwise: last.content.map((node) => copyNode(node, newId)),
            })),
          },
        ],
      },
    ];
  }
}

/** Ids that nothing in a document has yet. */
function freshIds(content: Content): () => string {
  const taken = new Set<string>();
  for (const { node } of walkContent(content)) {
    taken.add(node.id);
    if (node.kind === 'slot') for (const { id } of node.variants) taken.add(id);
  }
  let number = 0;
  return () => {
    do number++;
    while (taken.has(`copy${number}`));
    return `copy${number}`;
  };
}

/** How many variants of a slot nobody can get. */
function unreached(content: Content, slotId: string, world: World): number {
  const at = slotsOf(content).findIndex((slot) => slot.id === slotId);
  const diagram = slotDiagrams(content, world)[at] ?? never;
  const variants = slotsOf(content)[at]?.variants ?? [];
  return variants.filter((_, index) => world.possibly(world.diagrams.where(diagram, index)) === never).length;
}

/** Slots whose audiences are not those that are set for the whole document, in their order. */
function deviationFindings(content: Content, names: Names): DocumentFinding[] {
  const { audiences } = content;
  if (!audiences) return [];
  const quoted = (ids: readonly string[]) =>
    new Intl.ListFormat('en').format(ids.map((id) => `“${names.audience(id) ?? 'a deleted audience'}”`));
  return outerSlotsOf(content).flatMap((slot): DocumentFinding[] => {
    const deviation = deviationOf(slot, audiences);
    if (!deviation) return [];
    const { lacking, extra, swapped } = deviation;
    const how = [
      ...(lacking.length > 0 ? [`has no variant for ${quoted(lacking)}`] : []),
      ...(extra.length > 0 ? [`has one for ${quoted(extra)}`] : []),
      ...(swapped ? [`asks ${quoted([swapped[0]])} before ${quoted([swapped[1]])}`] : []),
    ];
    const taken = takeAudiences(content, slot.id, audiences, freshIds(content));
    return [
      {
        kind: 'deviates',
        severity: 'careful',
        slot: slot.id,
        variant: null,
        block: undefined,
        people: undefined,
        sentence: `${slot.name} ${new Intl.ListFormat('en').format(how)}, unlike what is set for all slots.`,
        repairs: [
          ...(lacking.length > 0 || swapped
            ? [{ label: 'Give it the audiences and order that are set', content: taken }]
            : []),
          ...extra.map((id) => ({
            label: `Take its variant for ${quoted([id])} away`,
            content: updateSlot(content, slot.id, (old) => ({
              ...old,
              variants: old.variants.filter(({ audience }) => audience !== id),
            })),
          })),
        ],
      },
    ];
  });
}

/** Two slots whose variants stand in opposite order for audiences that share people. */
function orderFindings(content: Content, world: World, names: Names): DocumentFinding[] {
  const found: DocumentFinding[] = [];
  const first = new Map<string, Slot>();
  for (const slot of slotsOf(content)) {
    const audiences = slot.variants.map((variant) => variant.audience);
    const told = new Set<Slot>();
    for (const [index, before] of audiences.entries())
      for (const after of audiences.slice(index + 1)) {
        const other = first.get(`${after}\n${before}`);
        const overlap = world.possibly(world.diagrams.and(world.audience(before), world.audience(after)));
        if (other && !told.has(other) && overlap !== never) {
          told.add(other);
          const alike = inOrderOf(content, slot, other);
          const helps = unreached(alike, slot.id, world) <= unreached(content, slot.id, world);
          found.push({
            kind: 'order',
            severity: 'careful',
            slot: slot.id,
            variant: null,
            block: undefined,
            people: {
              kind: 'all',
              of: [
                { kind: 'audience', audience: before },
                { kind: 'audience', audience: after },
              ],
            },
            sentence: `${slot.name} asks “${names.audience(before)}” before “${names.audience(after)}”; ${other.name} asks them the other way round.`,
            repairs: helps ? [{ label: `Put them in the order of ${other.name}`, content: alike }] : [],
          });
        }
        if (!first.has(`${before}\n${after}`)) first.set(`${before}\n${after}`, slot);
      }
  }
  return found;
}

/** A slot with the variants that another one has too in that one's order, the rest where they were. */
function inOrderOf(content: Content, slot: Slot, other: Slot): Content {
  const place = new Map(other.variants.map(({ audience }, index) => [audience, index]));
  const shared = slot.variants
    .filter(({ audience }) => place.has(audience))
    .sort((left, right) => (place.get(left.audience) ?? 0) - (place.get(right.audience) ?? 0));
  const next = shared.values();
  return updateSlot(content, slot.id, (old) => ({
    ...old,
    variants: old.variants.map((variant) =>
      place.has(variant.audience) ? (next.next().value ?? variant) : variant,
    ),
  }));
}

/** Merge fields that would leave a hole in the text for who has no value. */
function fallbackFindings(content: Content, { catalogue }: Names): DocumentFinding[] {
  return [...walkContent(content)].flatMap(({ node }) => {
    const lacking = [...mergeFieldsOf(textOf(node))].filter(({ attrs }) => attrs.fallback.trim() === '');
    const ids = [...new Set(lacking.map(({ attrs }) => attrs.attribute))];
    return ids.flatMap((id): DocumentFinding[] => {
      const attribute = catalogue.get(id);
      if (!attribute) return [];
      const words = /name/.test(id) ? 'friend' : `your ${attribute.label}`;
      const slot = ancestorsOf(content, node.id).findLast((above) => above.kind === 'slot');
      return [
        {
          kind: 'no-fallback',
          severity: 'careful',
          slot: slot?.id,
          variant: null,
          block: node.id,
          people: { kind: 'test', attribute: id, op: 'has-no-value', values: [] },
          sentence: `Who has no ${attribute.label} gets a hole in the text: its merge field has no fallback.`,
          repairs: [
            {
              label: `Say “${words}” there`,
              content: updateNode(content, node.id, (old) => withFallback(old, id, words)),
            },
          ],
        },
      ];
    });
  });
}

function withFallback(node: Node, attribute: string, fallback: string): Node {
  return node.kind === 'slot'
    ? node
    : withText(node, (one) => [
        one.type === 'mergeField' && one.attrs.attribute === attribute && one.attrs.fallback.trim() === ''
          ? { ...one, attrs: { ...one.attrs, fallback } }
          : one,
      ]);
}
