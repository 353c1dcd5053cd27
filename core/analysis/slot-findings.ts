import { type Condition, inAudience } from '../conditions/condition.ts';
import { everyoneElse } from '../deciding/decide.ts';
import { type Content, slotsOf, variantLetter } from '../documents/document.ts';
import { copyNode, dissolveSlot, moveVariant, removeVariant, updateSlot } from '../documents/edit.ts';
import { visitAttributesIn, whyNobody } from './condition-findings.ts';
import { sayViewers } from './describe.ts';
import { type Diagram, never } from './diagrams/diagrams.ts';
import type { DocumentContext, Draft } from './document-context.ts';
import { either, listed, quoteAudience, sayInstant } from './finding.ts';
import { allOf, noneOf, type PlacedSlot } from './placed.ts';
import { whoSeesChange } from './slot-change.ts';
import { opensAt } from './windows.ts';

/** What is proved about one slot among those who come to it. */
export function slotFindings(
  content: Content,
  placed: PlacedSlot,
  context: DocumentContext,
): readonly Draft[] {
  // Where nobody comes to a slot, that is said of what stands around it.
  if (placed.reach === never) return [];
  const known = context.found.get(placed.slot) ?? new Map<string, readonly Draft[]>();
  context.found.set(placed.slot, known);
  const key = `${placed.reach} ${placed.diagram}`;
  const found = known.get(key) ?? new SlotProof(content, placed, context).all();
  known.set(key, found);
  return found;
}

class SlotProof {
  private readonly name: string;

  constructor(
    private readonly content: Content,
    private readonly placed: PlacedSlot,
    private readonly context: DocumentContext,
  ) {
    this.name = placed.slot.name;
  }

  all(): Draft[] {
    const found = this.placed.slot.variants.flatMap((_, index) => this.variant(index) ?? []);
    return [...found, ...this.everyoneElse()];
  }

  /** Who gets a choice, of those who come here or not. */
  private getting(choice: number): Diagram {
    return this.context.world.diagrams.where(this.placed.diagram, choice);
  }

  /** Who of those who come here gets a choice. */
  private shown(choice: number): Diagram {
    return this.context.world.diagrams.and(this.placed.reach, this.getting(choice));
  }

  private isShown(choice: number): boolean {
    return this.context.world.diagrams.meets(this.placed.reach, this.getting(choice));
  }

  private quoted(index: number): string {
    return quoteAudience(this.placed.slot.variants[index]?.audience ?? '', this.context.names);
  }

  private edit(
    label: string,
    content: Content,
  ): { label: string; content: Content; changes: Condition | null } {
    const { placed, context } = this;
    const after = slotsOf(content).find(({ id }) => id === placed.slot.id);
    return { label, content, changes: whoSeesChange(placed, after ?? [], context.world) };
  }

  private variant(index: number): Draft | undefined {
    const { placed, context } = this;
    const { world, names } = context;
    const variant = placed.slot.variants[index];
    if (!variant) return undefined;
    const condition = context.conditionOf(variant.audience);
    const about = { slot: placed.slot.id, variant: variant.id, block: undefined } as const;
    if (this.isShown(index)) {
      const shown = () => this.shown(index);
      const start = condition && opensAt(shown, condition, context.conditionOf, world, names.catalogue);
      if (start === undefined) return undefined;
      return {
        ...about,
        kind: 'coming',
        severity: 'note',
        people: undefined,
        sentence: () =>
          `${this.name}: variant ${variantLetter(index)} starts on ${sayInstant(start, names)}.`,
        candidates: () => [],
      };
    }
    const remove = () => [
      this.edit(
        `Remove variant ${variantLetter(index)}`,
        removeVariant(this.content, placed.slot.id, variant.id),
      ),
    ];
    if (world.diagrams.meets(placed.reach, world.audience(variant.audience)))
      return this.shadowed(index, world.diagrams.and(placed.reach, world.audience(variant.audience)), remove);
    return { ...about, people: undefined, candidates: remove, ...this.impossible(index, condition) };
  }

  /** Nobody who comes here is in the audience: why not, here or anywhere. */
  private impossible(
    index: number,
    condition: Condition | undefined,
  ): Pick<Draft, 'kind' | 'severity' | 'sentence'> {
    const { placed, context } = this;
    const { world, names } = context;
    const letter = variantLetter(index);
    const audience = placed.slot.variants[index]?.audience ?? '';
    const start = `${this.name}: nobody gets variant ${letter}, since ${this.quoted(index)}`;
    const circle = context.circleOf(audience);
    if (circle)
      return {
        kind: 'circle',
        severity: 'wrong',
        sentence: () =>
          `${start} builds on a circle: ${quoteAudience(circle[0] ?? '', names)} builds on ${circle
            .slice(1)
            .map((id) => quoteAudience(id, names))
            .join(', which builds on ')}.`,
      };
    if (!condition || context.problemOf(audience) !== undefined)
      return {
        kind: 'never-true',
        severity: 'wrong',
        sentence: () => `${start} ${condition ? 'can’t be evaluated: it has an error' : 'no longer exists'}.`,
      };
    const why = whyNobody(condition, context.conditionOf, world.anywhere, world, names);
    if (why.closed !== undefined) {
      const ended = why.closed;
      return {
        kind: 'over',
        severity: 'careful',
        sentence: () =>
          Number.isFinite(ended)
            ? `${this.name}: variant ${letter} is over. ${this.quoted(index)} ended on ${sayInstant(ended, names)}.`
            : `${this.name}: variant ${letter} is never shown. The window of ${this.quoted(index)} never opens.`,
      };
    }
    if (world.channel === 'email' && world.audience(audience) !== never) {
      const visit = visitAttributesIn(condition, context.conditionOf, names);
      if (visit.length > 0)
        return {
          kind: 'needs-visit',
          severity: 'wrong',
          sentence: () => `${start} asks for ${listed(visit)}, which nobody knows while an email is read.`,
        };
      return {
        kind: 'needs-sign-in',
        severity: 'wrong',
        sentence: () => `${start} asks for somebody who is signed in, and nobody is while reading an email.`,
      };
    }
    if (why.sentence !== undefined) {
      const reason = why.sentence;
      return {
        kind: 'never-true',
        severity: 'wrong',
        sentence: () =>
          `${this.name}: nobody can ever get variant ${letter}, since ${this.quoted(index)} can never be true: ${reason}.`,
      };
    }
    return {
      kind: 'not-here',
      severity: 'wrong',
      sentence: () => `${start} excludes everybody who can come here: ${this.sayHere()}.`,
    };
  }

  /** Who comes to the slot, in words: by the variant around it and by who may open the page. */
  private sayHere(): string {
    const { placed, context } = this;
    const around = placed.around.at(-1);
    const parts = [
      ...(context.access
        ? [`the page is open to ${quoteAudience(context.access.audience, context.names)} only`]
        : []),
      ...(around
        ? [
            around.choice === everyoneElse
              ? `it stands in everyone else of ${around.slot.name}`
              : `it stands in the variant of ${around.slot.name} for ${quoteAudience(around.slot.variants[around.choice]?.audience ?? '', context.names)}`,
          ]
        : []),
    ];
    return parts.length > 0 ? listed(parts) : 'what is stated about the contacts keeps them out';
  }

  private shadowed(index: number, own: Diagram, remove: Draft['candidates']): Draft {
    const { placed, content, context } = this;
    const { slot, meets } = placed;
    const { diagrams } = context.world;
    const variant = slot.variants[index];
    const letter = variantLetter(index);
    const before = slot.variants.slice(0, index);
    const audienceOf = (at: number) => context.world.audience(before[at]?.audience ?? '');
    const alone = before.findIndex((_, at) => diagrams.implies(own, audienceOf(at)));
    // The earlier variants that between them take everybody, without any that could be left out.
    let blocking =
      alone >= 0 ? [alone] : [...before.keys()].filter((at) => !diagrams.excludes(own, audienceOf(at)));
    for (const at of [...blocking].reverse()) {
      const fewer = blocking.filter((other) => other !== at);
      if (fewer.length > 0 && diagrams.implies(own, diagrams.any(fewer.map(audienceOf)))) blocking = fewer;
    }
    const [first = 0] = blocking;
    const sentence = () =>
      `${this.name}: nobody gets variant ${letter}, since everybody ${placed.around.length > 0 || context.access ? 'here who is ' : ''}in ${this.quoted(index)} is in ${either(blocking.map((at) => this.quoted(at)))} above it.`;
    return {
      slot: slot.id,
      variant: variant?.id ?? null,
      block: undefined,
      kind: 'shadowed',
      severity: 'wrong',
      people: allOf([...meets, inAudience(variant?.audience ?? '')]),
      sentence,
      candidates: () => [
        this.edit(
          `Move ${letter} above ${variantLetter(first)}`,
          moveVariant(content, slot.id, variant?.id ?? '', first),
        ),
        ...remove(),
      ],
    };
  }

  private everyoneElse(): Draft[] {
    const { placed, content, context } = this;
    const { slot, reach, meets } = placed;
    const hasOthers = this.isShown(everyoneElse);
    const about = { slot: slot.id, variant: null, block: undefined, people: undefined } as const;
    const [first] = slot.variants;
    if (first && context.world.diagrams.implies(reach, this.getting(0)))
      return [
        {
          ...about,
          variant: first.id,
          kind: 'always-true',
          severity: 'careful',
          sentence: () =>
            `${this.name}: everybody gets variant A, since ${this.quoted(0)} is always true here; it does not differ.`,
          candidates: () => {
            const dissolved = dissolveSlot(content, slot.id, first.id);
            return [
              {
                label: 'Show it to everybody',
                content: dissolved,
                changes: whoSeesChange(placed, first.content, context.world),
              },
            ];
          },
        },
      ];
    if (!hasOthers && slot.otherwise.length > 0)
      return [
        {
          ...about,
          kind: 'everyone-else-unreached',
          severity: 'careful',
          sentence: () =>
            `${this.name}: nobody is left for everyone else; what is written there is never shown.`,
          candidates: () => [
            this.edit(
              'Empty everyone else',
              updateSlot(content, slot.id, (old) => ({ ...old, otherwise: [] })),
            ),
          ],
        },
      ];
    const last = slot.variants.at(-1);
    if (!hasOthers || slot.otherwise.length > 0 || slot.variants.length < 2 || !last) return [];
    const audiences = slot.variants.map(({ audience }) => audience);
    return [
      {
        ...about,
        kind: 'gap',
        severity: 'careful',
        people: allOf([...meets, ...noneOf(audiences)]),
        sentence: () =>
          `${this.name}: whoever is in none of ${either(audiences.map((id) => quoteAudience(id, context.names)))} gets nothing${sayWho(() => this.shown(everyoneElse), reach, context)}.`,
        candidates: () => {
          const newId = context.newIds(content);
          return [
            this.edit(
              `Show them what ${variantLetter(slot.variants.length - 1)} shows`,
              updateSlot(content, slot.id, (old) => ({
                ...old,
                otherwise: last.content.map((node) => copyNode(node, newId)),
              })),
            ),
          ];
        },
      },
    ];
  }
}

/** Some viewers by their attributes, as the end of a sentence; empty where words fail. */
export function sayWho(who: () => Diagram, among: Diagram, { world }: DocumentContext): string {
  const said = world.work.within({ steps: 1500 }, () => sayViewers(who(), world, among, 3));
  return said && said.length > 0 ? ` (${said.join(', ')})` : '';
}
