import { LogicEngine } from 'json-logic-engine';
import { localDay } from '../core/attributes/calendar.ts';
import { Decider } from '../core/deciding/decide.ts';
import { slotsOf } from '../core/documents/document.ts';
import {
  demoAttributes,
  demoAudiences,
  demoDocuments,
  demoPeople,
  demoSeed,
  demoSettings,
} from '../demo/scenario.ts';
import { jsonLogicOf } from './json-logic.ts';
import { type Result, result, timesFaster } from './result.ts';

const instant = Date.now();
const viewers = 400;

/**
 * Deciding the demo's home page for 400 viewers. The peer is json-logic-engine with every audience compiled once
 * and its answer remembered within a decision, over viewers that are plain objects of one shape.
 */
export function decideBench(): Result[] {
  const [home] = demoDocuments;
  if (!home) throw new Error('the demo has no page');
  const today = localDay(instant, demoSettings.zone);
  const people = demoPeople(viewers, demoSeed, today);
  const decider = new Decider({
    settings: demoSettings,
    attributes: demoAttributes,
    audiences: demoAudiences,
    documents: [home],
  });
  const { catalogue } = decider;
  const raw = people.map(({ values, hasAccount }) => ({
    contact: values,
    signedIn: hasAccount,
    visit: { 'visit-device': 'computer' },
    item: null,
    instant,
  }));
  const encoded = raw.map((viewer) => decider.facts(viewer));
  const plain = encoded.map(({ values }) =>
    Object.fromEntries(catalogue.attributes.map(({ id }, index) => [id, values[index] ?? null])),
  );

  const engine = new LogicEngine();
  const conditionOf = (id: string) => demoAudiences.find((audience) => audience.id === id)?.condition;
  const rules = new Map(
    demoAudiences.map((audience) => [
      audience.id,
      engine.build(
        // biome-ignore lint/suspicious/noExplicitAny: the engine takes rules of any shape
        jsonLogicOf(audience.condition, (id) => catalogue.get(id), conditionOf, today) as any,
      ),
    ]),
  );
  const slots = slotsOf(home.content).map((slot) => slot.variants.map((variant) => variant.audience));
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
    const own = decider.decide('home', facts).join();
    const other = peerDecide(plain[index] ?? {}).join();
    if (own !== other)
      throw new Error(`the peer decides otherwise for viewer ${index}: ${other}, not ${own}`);
  }
  const peer = () => {
    for (const viewer of plain) peerDecide(viewer);
  };
  const fromEncoded = timesFaster(() => {
    for (const facts of encoded) decider.decide('home', facts);
  }, peer);
  const fromRaw = timesFaster(() => {
    for (const viewer of raw) decider.decide('home', decider.facts(viewer));
  }, peer);
  return [
    result('decide', 'home page, viewer encoded', 'json-logic-engine, compiled', fromEncoded, 3),
    result('decide', 'home page, from the raw viewer', 'json-logic-engine, compiled', fromRaw, 0.75),
  ];
}
