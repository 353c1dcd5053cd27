import { LogicEngine } from 'json-logic-engine';
import { dayNumber } from '../core/attributes/calendar.ts';
import { audiencesBehind } from '../core/audiences/audience.ts';
import { Decider } from '../core/deciding/decide.ts';
import type { Snapshot } from '../core/deciding/release.ts';
import { type Content, slotsOf } from '../core/documents/document.ts';
import { audiencesOf } from '../core/documents/uses.ts';
import {
  demoAttributes,
  demoAudiences,
  demoDocuments,
  demoPeople,
  demoSeed,
  demoSettings,
} from '../demo/scenario.ts';
import { attributes, crowd, instant, randomAudiences, randomPage, today } from './crowd.ts';
import { jsonLogicOf } from './json-logic.ts';
import { type Result, result, timesFaster } from './result.ts';
import { sized } from './size.ts';

const viewers = sized(400, 60);
const settings = { ...demoSettings, zone: 'UTC' };

interface Known {
  values: { readonly [attribute: string]: unknown };
  hasAccount: boolean;
}

function snapshotOf(content: Content, snapshot: Omit<Snapshot, 'documents' | 'settings'>): Snapshot {
  return {
    ...snapshot,
    settings,
    documents: [{ id: 'page', kind: 'page', name: 'Page', slug: '', content }],
  };
}

/**
 * Deciding a page for 400 viewers: pages of up to 30 slots over up to 40 audiences, and the demo's home page. The peer
 * is json-logic-engine with every audience compiled once and its answer remembered within a decision, over viewers that
 * are plain objects of one shape, their dates as day numbers already.
 */
export function decideBench(): Result[] {
  const [home] = demoDocuments;
  if (!home) throw new Error('the demo has no page');
  const people = [...crowd(viewers)];
  const results: Result[] = [];
  for (const [slots, audiences] of [
    [5, 10],
    [12, 40],
    [30, 40],
  ] as const) {
    const snapshot = snapshotOf(randomPage(slots, audiences), {
      attributes,
      audiences: randomAudiences(audiences),
    });
    results.push(
      ...compare(`${slots} slots, ${audiences} audiences`, snapshot, people, slots === 30 ? 6 : 8),
    );
  }
  // A page asks for its own audiences and what these build on; others may ask for an item, which the peer knows nothing of.
  const byId = new Map(demoAudiences.map((audience) => [audience.id, audience]));
  const used = new Set([...audiencesOf(home.content)].flatMap((id) => audiencesBehind(id, byId)));
  const demo = snapshotOf(home.content, { attributes: demoAttributes, audiences: [...used] });
  return [...results, ...compare('demo home page', demo, demoPeople(viewers, demoSeed, today), 8)];
}

function compare(
  subject: string,
  snapshot: Snapshot,
  people: readonly Known[],
  encodedBar: number,
): Result[] {
  const decider = new Decider(snapshot);
  const { catalogue } = decider;
  const raw = people.map(({ values, hasAccount }) => ({
    contact: values,
    signedIn: hasAccount,
    visit: {},
    item: null,
    instant,
  }));
  const encoded = raw.map((viewer) => decider.facts(viewer));
  const plain = people.map(
    ({ values, hasAccount }): Record<string, unknown> => ({
      ...Object.fromEntries(
        snapshot.attributes.map(({ id, type }) => {
          const value = values[id];
          if (value === undefined) return [id, type === 'set' ? [] : null];
          return [id, type === 'date' ? dayNumber(String(value)) : value];
        }),
      ),
      'signed-in': hasAccount,
    }),
  );
  const engine = new LogicEngine();
  const conditionOf = (id: string) => snapshot.audiences.find((audience) => audience.id === id)?.condition;
  const rules = new Map(
    snapshot.audiences.map(({ id, condition }) => {
      const logic = jsonLogicOf(condition, (one) => catalogue.get(one), conditionOf, today);
      // biome-ignore lint/suspicious/noExplicitAny: the engine takes rules of any shape
      const rule = engine.build(logic as any);
      return [id, rule] as const;
    }),
  );
  const [document] = snapshot.documents;
  const slots = slotsOf(document?.content ?? { subject: [], preview: [], body: [] }).map((slot) =>
    slot.variants.map((variant) => variant.audience),
  );
  const peerDecide = (viewer: Record<string, unknown>): Int8Array => {
    const known = new Map<string, boolean>();
    const isIn = (audience: string): boolean => {
      let answer = known.get(audience);
      if (answer === undefined) {
        answer = Boolean(rules.get(audience)?.(viewer));
        known.set(audience, answer);
      }
      return answer;
    };
    return Int8Array.from(slots, (variants) => variants.findIndex(isIn));
  };
  for (const [index, facts] of encoded.entries()) {
    const own = decider.decide('page', facts).join();
    const other = peerDecide(plain[index] ?? {}).join();
    if (own !== other)
      throw new Error(`the peer decides otherwise for viewer ${index}: ${other}, not ${own}`);
  }
  const peer = () => {
    for (const viewer of plain) peerDecide(viewer);
  };
  const fromEncoded = timesFaster(() => {
    for (const facts of encoded) decider.decide('page', facts);
  }, peer);
  const fromRaw = timesFaster(() => {
    for (const viewer of raw) decider.decide('page', decider.facts(viewer));
  }, peer);
  return [
    result('decide', `${subject}, viewer encoded`, 'json-logic-engine, compiled', fromEncoded, encodedBar),
    result('decide', `${subject}, from the raw viewer`, 'json-logic-engine, compiled', fromRaw, 2),
  ];
}
