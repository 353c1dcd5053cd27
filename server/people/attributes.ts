import { dequal } from 'dequal';
import { type Conversion, mostOthers, type Profile, type ValueKind } from '../../contract/attributes.ts';
import type { Use } from '../../contract/audiences.ts';
import { crmSettingsSchema } from '../../contract/crm.ts';
import { type Bin, dateBins, numberBins } from '../../core/analysis/bins.ts';
import {
  type Attribute,
  type AttributeType,
  attributeSchema,
  choiceLabel,
  choicesOf,
} from '../../core/attributes/attribute.ts';
import { countryName } from '../../core/attributes/countries.ts';
import { readValue } from '../../core/attributes/parse.ts';
import { attributesIn, type Condition, test } from '../../core/conditions/condition.ts';
import { withChoiceMerged } from '../../core/conditions/rewrite.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { choicesFor } from '../../core/exchange/guess.ts';
import { fresh, slug } from '../../core/exchange/slug.ts';
import { valueText } from '../../core/exchange/value-text.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import { type Connection, onOwnConnection } from '../store/connection.ts';
import type { Sequelize } from '../store/database.ts';
import { settingOf } from '../store/rows.ts';
import {
  deleteAttribute,
  lockedAttribute,
  lockedConditions,
  updateAttribute,
  updateCondition,
  updateFactConditions,
} from './attribute-rows.ts';
import { factNames, listsName, namesChoice, usesOfAttribute } from './attribute-uses.ts';
import { type Cause, storedValues } from './bulk-rows.ts';
import { converter, needsConversion, refuseMisfits } from './misfits.ts';
import type { People } from './people.ts';
import { rewriteValues } from './rewrite-values.ts';
import { attributeStored, insertAttribute, orderAttributes } from './rows.ts';

const valuesShown = 24;
const lossesShown = 20;

/** The attributes of contacts that an organisation defines, with what they hold. */
export class Attributes {
  constructor(
    private readonly sequelize: Sequelize,
    private readonly people: People,
    private readonly drafts: Drafts,
  ) {}

  /** What an attribute holds among the contacts, and where it is used. */
  async profile(id: string): Promise<Profile> {
    const { snapshot, catalogue } = await this.drafts.decider();
    const attribute = catalogue.get(id);
    if (!attribute) throw notFound('attribute');
    const { asks } = this.people;
    const total = await asks.total();
    const uses = [...usesOfAttribute(id, snapshot), ...(await this.crmUses(id))];
    if (attribute.source !== 'contact') return { total, lacking: total, bars: [], more: 0, uses };
    const scope = this.people.scopeOf(snapshot);
    const [lacking = 0] = await asks.lacking(scope, [id]);
    const { bins, more } = await this.binsOf(attribute, snapshot);
    const counts = await asks.count(
      scope,
      this.people.now(),
      bins.map(({ condition }) => condition),
    );
    return { total, lacking, bars: bins.map((bin, at) => ({ ...bin, count: counts[at] ?? 0 })), more, uses };
  }

  async create(wanted: Attribute): Promise<Attribute> {
    const { catalogue } = await this.drafts.decider();
    const taken = new Set(catalogue.attributes.map((attribute) => attribute.id));
    const attribute = attributeSchema.parse({
      ...wanted,
      source: 'contact',
      id: fresh(slug(wanted.label), taken),
    });
    refuseTakenLabel(attribute, catalogue.attributes);
    await insertAttribute(attribute);
    return attribute;
  }

  /**
   * Stores an attribute with another label, other choices, another type. A choice that somebody has or a condition names
   * can't be left out; a value that another type can't take is gone afterwards.
   */
  async change(id: string, before: Attribute, now: Attribute, accountName: string): Promise<Attribute> {
    const current = await this.stored(id);
    if (!dequal(current, before)) throw changedMeanwhile(current);
    const { snapshot, catalogue } = await this.drafts.decider();
    const attribute = attributeSchema.parse({ ...now, id, source: 'contact' });
    refuseTakenLabel(attribute, catalogue.attributes);
    refuseBadChoices(attribute);
    if (attribute.type !== before.type) await this.refuseUsedTests(id, attribute.type, snapshot);
    await this.refuseLostChoices(before, attribute, snapshot);
    await onOwnConnection(this.sequelize, async (connection, changes) => {
      await refuseChanged(connection, before);
      if (needsConversion(before, attribute)) {
        const convert = converter(before, attribute);
        await rewriteValues(connection, id, convert, byPerson(accountName), changes);
      } else await refuseMisfits(connection, before, attribute);
      await updateAttribute(connection, attribute, changes);
    });
    return attribute;
  }

  /** What another type would make of the values, without doing it. For choices, they are made of the values. */
  async conversion(id: string, type: ValueKind): Promise<Conversion & { attribute: Attribute }> {
    const before = await this.stored(id);
    const values = await onOwnConnection(this.sequelize, (connection) => storedValues(connection, id));
    const attribute = ofType(
      before,
      type,
      values.flatMap(({ value }) => textsOf(before, value)),
    );
    const convert = converter(before, attribute);
    const [kept, losses] = [{ count: 0 }, [] as { value: string; count: number }[]];
    for (const { value, count } of values) {
      const text = valueText(before, value);
      if (text === '' || convert(value) !== undefined) kept.count += count;
      else losses.push({ value: text, count });
    }
    const lost = losses.reduce((sum, { count }) => sum + count, 0);
    return { attribute, kept: kept.count, lost, losses: losses.slice(0, lossesShown) };
  }

  /** Makes one of two choices, with everybody who has it and every condition that names it. */
  async mergeChoices(id: string, from: string, into: string, accountName: string): Promise<Attribute> {
    const definition = await this.stored(id);
    if (definition.type !== 'choice' && definition.type !== 'set')
      throw new Refusal(422, 'Only an attribute with choices has choices to merge.');
    const known = new Set(definition.choices.map((choice) => choice.id));
    if (from === into || !known.has(from) || !known.has(into))
      throw new Refusal(422, 'Choose two different choices of this attribute.');
    const choices = definition.choices.filter((choice) => choice.id !== from);
    const attribute: Attribute =
      definition.type === 'choice'
        ? { ...definition, choices }
        : {
            ...definition,
            choices,
            exclusiveGroups: definition.exclusiveGroups.map((group) => ({
              ...group,
              members: group.members.filter((member) => member !== from),
            })),
          };
    const { snapshot } = await this.drafts.decider();
    const using = snapshot.documents.find(({ content }) => listsName(content, id, from));
    if (using)
      throw new Refusal(
        409,
        `A list or form of “${using.name}” names “${choiceLabel(definition, from)}”. Remove it there first.`,
      );
    await onOwnConnection(this.sequelize, async (connection, changes) => {
      await refuseChanged(connection, definition);
      const merge = (value: unknown) => withMerged(value, from, into);
      await refuseMisfits(connection, definition, attribute, merge);
      await rewriteValues(connection, id, merge, byPerson(accountName), changes);
      await updateAttribute(connection, attribute, changes);
      // Contacts before audiences, in the order in which erasing a contact locks them.
      for (const audience of await lockedConditions(connection)) {
        const condition = withChoiceMerged(audience.condition, id, from, into);
        if (dequal(condition, audience.condition)) continue;
        await updateCondition(connection, { ...audience, condition }, accountName, changes);
      }
      for (const fact of snapshot.facts ?? []) {
        const who = withChoiceMerged(fact.who, id, from, into);
        const also = withChoiceMerged(fact.also, id, from, into);
        if (dequal(who, fact.who) && dequal(also, fact.also)) continue;
        await updateFactConditions(connection, { ...fact, who, also }, changes);
      }
    });
    return attribute;
  }

  async order(ids: readonly string[]): Promise<void> {
    await orderAttributes(ids);
  }

  /** Deletes an attribute with all its values. Refused where it is used. */
  async remove(id: string, accountName: string): Promise<void> {
    await this.stored(id);
    const uses = [...usesOfAttribute(id, await this.drafts.snapshot()), ...(await this.crmUses(id))];
    if (uses.length > 0)
      throw new Refusal(
        409,
        `This attribute is in use by ${uses.map((use) => `${use.what} “${use.name}”`).join(', ')}. Remove it there first, then delete it.`,
        { current: uses },
      );
    await onOwnConnection(this.sequelize, async (connection, changes) => {
      await lockedAttribute(connection, id);
      await rewriteValues(connection, id, () => undefined, byPerson(accountName), changes);
      await deleteAttribute(connection, id, changes);
    });
  }

  /** Whether the CRM fills an attribute. */
  private async crmUses(id: string): Promise<Use[]> {
    const settings = crmSettingsSchema.safeParse(await settingOf('crm'));
    return settings.success && Object.values(settings.data.fields).includes(id)
      ? [{ what: 'crm', id: 'crm', name: 'the fields of your CRM' }]
      : [];
  }

  private async stored(id: string): Promise<Attribute> {
    const attribute = await attributeStored(id);
    if (!attribute) throw notFound('attribute of your own');
    return attribute;
  }

  private async binsOf(attribute: Attribute, snapshot: Snapshot): Promise<{ bins: Bin[]; more: number }> {
    const { id, type } = attribute;
    if (type === 'yes-no')
      return {
        bins: [
          { label: 'yes', condition: test(id, 'is-yes') },
          { label: 'no', condition: test(id, 'is-no') },
        ],
        more: 0,
      };
    if (type === 'choice' || type === 'set') {
      const op = type === 'choice' ? 'is-one-of' : 'includes-any';
      const bins = choicesOf(attribute).map((choice) => ({
        label: choice.label,
        condition: test(id, op, choice.id),
      }));
      return { bins, more: 0 };
    }
    if (type === 'number' || type === 'date' || type === 'date-time') {
      const ends = await this.endsOf(attribute, snapshot);
      if (!ends) return { bins: [], more: 0 };
      const [low, high] = ends;
      const bins =
        type === 'number'
          ? numberBins(attribute, Number(low), Number(high))
          : dateBins(attribute, String(low), String(high));
      return { bins, more: 0 };
    }
    if (type !== 'text' && type !== 'country') return { bins: [], more: 0 };
    const all = await this.people.asks.values(this.people.scopeOf(snapshot), id, valuesShown + mostOthers);
    const bins = all.slice(0, valuesShown).map(({ value }) => ({
      label: type === 'country' ? countryName(value, 'en') : value,
      condition: test(id, 'is-one-of', value),
    }));
    return { bins, more: all.length - bins.length };
  }

  /** The least and the greatest value that somebody has. */
  private async endsOf(attribute: Attribute, snapshot: Snapshot): Promise<[unknown, unknown] | undefined> {
    const { asks } = this.people;
    const ends: unknown[] = [];
    for (const direction of ['up', 'down'] as const) {
      const where: Condition = test(attribute.id, 'has-value');
      const query = { where, search: '', sort: attribute.id, direction, from: 0, most: 1 };
      const { ids } = await asks.list(this.people.scopeOf(snapshot), this.people.now(), query);
      const [person] = await this.people.find(ids);
      const value = person && readValue(attribute, person.values[attribute.id]);
      if (value === undefined) return undefined;
      ends.push(value);
    }
    return [ends[0], ends[1]];
  }

  private async refuseLostChoices(before: Attribute, now: Attribute, snapshot: Snapshot): Promise<void> {
    if (before.type !== now.type) return;
    const left = new Set(choicesOf(now).map((choice) => choice.id));
    const lost = choicesOf(before).filter((choice) => !left.has(choice.id));
    if (lost.length === 0) return;
    const held = await this.people.asks.values(this.people.scopeOf(snapshot), before.id, 10_000);
    for (const { id, label } of lost) {
      const people = held.find(({ value }) => value === id)?.count ?? 0;
      const [audience] = snapshot.audiences.filter(({ condition }) => namesChoice(condition, before.id, id));
      const isStated = snapshot.facts?.some(
        ({ who, also }) => namesChoice(who, before.id, id) || namesChoice(also, before.id, id),
      );
      if (people > 0)
        throw new Refusal(
          422,
          `${people === 1 ? 'One person has' : `${people} people have`} “${label}”. Merge it into another choice instead of removing it.`,
        );
      if (audience)
        throw new Refusal(
          422,
          `“${label}” is named by the audience “${audience.name}”. Remove it there first.`,
        );
      if (isStated) throw new Refusal(422, `“${label}” is named by a data rule. Remove it there first.`);
    }
  }

  /** Tests are of one type: an attribute that conditions name keeps its type. */
  private async refuseUsedTests(id: string, type: AttributeType, snapshot: Snapshot): Promise<void> {
    if (snapshot.facts?.some((fact) => factNames(fact, id)))
      throw new Refusal(
        409,
        `A data rule tests this attribute as it is; that would mean nothing for another type (${type}). Remove it there first.`,
      );
    const [audience] = snapshot.audiences.filter(({ condition }) => attributesIn(condition).has(id));
    if (audience)
      throw new Refusal(
        409,
        `The audience “${audience.name}” tests this attribute as it is; its tests would mean nothing for another type (${type}). Remove them first.`,
      );
  }
}

/** Refuses to go on from an attribute that somebody else changed, and keeps it as it is until the transaction ends. */
async function refuseChanged(connection: Connection, before: Attribute): Promise<void> {
  const current = await lockedAttribute(connection, before.id);
  if (!current) throw notFound('attribute of your own');
  if (!dequal(current, attributeSchema.parse(before))) throw changedMeanwhile(current);
}

function changedMeanwhile(current: Attribute): Refusal {
  return new Refusal(409, 'Someone changed this attribute after you opened it. Yours was not stored.', {
    current,
  });
}

function withMerged(value: unknown, from: string, into: string): unknown {
  if (Array.isArray(value)) return [...new Set(value.map((one) => (one === from ? into : one)))];
  return value === from ? into : value;
}

function byPerson(accountName: string): Cause {
  return { source: 'person', accountName, importId: null };
}

/** The texts that choices would be made of. */
function textsOf(attribute: Attribute, value: unknown): string[] {
  const text = valueText(attribute, value);
  return attribute.type === 'set' ? text.split('; ') : [text];
}

function ofType(before: Attribute, kind: ValueKind, texts: readonly string[]): Attribute {
  const { id, source, label, description } = before;
  const base = { id, source, label, description };
  if (kind === 'whole-number') return { ...base, type: 'number', whole: true };
  const type: AttributeType = kind;
  const choices = choicesOf(before).length > 0 ? [...choicesOf(before)] : choicesFor([...new Set(texts)]);
  return attributeSchema.parse(
    type === 'choice'
      ? { ...base, type, ordered: false, choices }
      : type === 'set'
        ? { ...base, type, choices, exclusiveGroups: [] }
        : { ...base, type },
  );
}

function refuseTakenLabel(attribute: Attribute, all: readonly Attribute[]): void {
  const folded = attribute.label.trim().toLowerCase();
  if (all.some(({ id, label }) => id !== attribute.id && label.toLowerCase() === folded))
    throw new Refusal(
      422,
      `There is an attribute called “${attribute.label}” already. Choose another name.`,
      {
        fields: [{ path: 'attribute.label', message: 'is taken' }],
      },
    );
}

function refuseBadChoices(attribute: Attribute): void {
  const choices = choicesOf(attribute);
  const labels = choices.map(({ label }) => label.trim().toLowerCase());
  const twice = choices.find(({ label }, at) => labels.indexOf(label.trim().toLowerCase()) !== at);
  if (twice) throw new Refusal(422, `There are two choices called “${twice.label}”.`);
  if (new Set(choices.map(({ id }) => id)).size !== choices.length)
    throw new Refusal(422, 'Two choices have the same id.');
}
