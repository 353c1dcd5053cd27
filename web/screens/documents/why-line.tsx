import { useMemo } from 'react';
import { OutOfWork, Work } from '../../../core/analysis/diagrams/work.ts';
import { TooManyValues } from '../../../core/analysis/domains/domain.ts';
import { alternativesOf } from '../../../core/analysis/nearest.ts';
import type { State } from '../../../core/analysis/states.ts';
import { type Trait, World } from '../../../core/analysis/world.ts';
import { formatValue } from '../../../core/attributes/format.ts';
import type { Facts } from '../../../core/attributes/viewer.ts';
import { soundFacts } from '../../../core/audiences/fact-problems.ts';
import type { Explanation } from '../../../core/conditions/explain.ts';
import type { Decider } from '../../../core/deciding/decide.ts';
import { channelOf, type DocumentKind, type Slot } from '../../../core/documents/document.ts';
import { momentLabel } from '../../data/moment.ts';
import { VariantMark } from '../../parts/variant-mark.tsx';

const shownAlternatives = 4;

/** Why the viewer gets what is on screen: each variant looked at, each test with the value it met. */
export function WhyLine({
  slot,
  decider,
  facts,
  nameOf,
  name,
  kind,
  instant,
}: {
  slot: Slot;
  decider: Decider;
  facts: Facts;
  nameOf: (audience: string) => string;
  name: string;
  kind: DocumentKind;
  instant: number;
}) {
  const steps = decider.trace(slot, facts);
  const last = steps.at(-1);
  const winner = last?.holds ? steps.length - 1 : -1;
  const alternatives = useMemo(
    () => findAlternatives(slot, winner, decider, facts, kind, instant),
    [slot, winner, decider, facts, kind, instant],
  );
  return (
    <section aria-label="Why" className="rounded-md border border-line bg-paper p-3">
      <h3 className="flex flex-wrap items-center gap-1.5 text-[14px]">
        Why <VariantMark choice={winner} /> {last && winner >= 0 ? nameOf(last.audience) : 'everyone else'}?
      </h3>
      <p className="text-quiet">
        What {name} gets in {slot.name}
      </p>
      <ol className="mt-1 flex flex-col gap-1.5">
        {steps.map((step, index) => (
          <li key={step.variant} className="flex items-start gap-2">
            <VariantMark choice={index} />
            <div className="min-w-0">
              <div className="font-medium">
                {nameOf(step.audience)}:{' '}
                <span className={step.holds ? 'text-leaf' : 'text-quiet'}>{step.holds ? 'yes' : 'no'}</span>
              </div>
              {step.problem !== undefined && <p className="text-apple">left out: {step.problem}</p>}
              {step.explanation && <ExplanationTree explanation={step.explanation} nameOf={nameOf} />}
            </div>
          </li>
        ))}
        {winner < 0 && (
          <li className="flex items-center gap-2">
            <VariantMark choice={-1} /> <span>nothing above matched</span>
          </li>
        )}
      </ol>
      {alternatives.length > 0 && (
        <>
          <h3 className="mt-3 text-[14px]">What would change it</h3>
          <ul className="mt-1 flex flex-col gap-1">
            {alternatives.slice(0, shownAlternatives).map(({ choice, changes }) => (
              <li key={choice} className="flex items-start gap-2">
                <VariantMark choice={choice} />
                <span className="text-quiet">{sayChanges(changes, decider.catalogue.zone)}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

function findAlternatives(
  slot: Slot,
  current: number,
  decider: Decider,
  facts: Facts,
  kind: DocumentKind,
  instant: number,
) {
  const { catalogue, membership, snapshot } = decider;
  const used = slot.variants.map((variant) => variant.audience);
  try {
    const world = new World({
      catalogue,
      membership,
      audiences: snapshot.audiences,
      used,
      channel: channelOf(kind),
      instant,
      stated: soundFacts(snapshot.facts, catalogue),
      work: new Work({ time: 150 }),
    });
    return alternativesOf(slot, current, facts, world);
  } catch (error) {
    if (error instanceof TooManyValues || error instanceof OutOfWork) return [];
    throw error;
  }
}

const stateWords: Record<State, string> = {
  anonymous: 'they were not known',
  recognised: 'they were known but not signed in',
  'signed-in': 'they signed in',
};

/** What would have to be different about the viewer, as the beginning of a sentence: "If they signed in". */
function sayChanges(changes: readonly Trait[], zone: string): string {
  const said = changes.map((change) => {
    if ('state' in change) return stateWords[change.state];
    if ('moment' in change) return `it were ${momentLabel(change.moment, zone)}`;
    const whose = change.attribute.source === 'contact' ? 'their' : 'the';
    const subject = `${whose} ${change.attribute.label}`;
    if ('sameAs' in change)
      return `${subject} ${change.is ? 'were' : 'were not'} their own ${change.sameAs.label}`;
    const { attribute, value } = change;
    return value === undefined
      ? `${subject} were missing`
      : `${subject} were ${formatValue(attribute, value, 'en-GB', zone)}`;
  });
  return `If ${new Intl.ListFormat('en-GB').format(said)}`;
}

export function ExplanationTree({
  explanation,
  nameOf,
}: {
  explanation: Explanation;
  nameOf: (audience: string) => string;
}) {
  const outcome = (
    <span className={explanation.holds ? 'text-leaf' : 'text-apple'}>{explanation.holds ? 'yes' : 'no'}</span>
  );
  switch (explanation.kind) {
    case 'test':
      return (
        <div className="text-[13px] leading-[18px] text-quiet">
          <span className="inline-block first-letter:uppercase">{explanation.words}</span>: {outcome}{' '}
          <span className="text-ink">
            ({explanation.met === undefined ? 'it has no value' : `it is ${explanation.met}`})
          </span>
        </div>
      );
    case 'audience':
      return (
        <div className="text-[13px] leading-[18px] text-quiet">
          in “{nameOf(explanation.audience)}”: {outcome}
          {explanation.because ? (
            <div className="ml-1 border-l border-line pl-2">
              <ExplanationTree explanation={explanation.because} nameOf={nameOf} />
            </div>
          ) : (
            ' (explained above)'
          )}
        </div>
      );
    default: {
      const words = { all: 'all of these', any: 'any of these', not: 'not' }[explanation.kind];
      const single =
        explanation.kind !== 'not' && explanation.parts.length === 1 ? explanation.parts[0] : undefined;
      if (single) return <ExplanationTree explanation={single} nameOf={nameOf} />;
      return (
        <div className="text-[13px] leading-[18px] text-quiet">
          {words}: {outcome}
          <div className="ml-1 border-l border-line pl-2">
            {explanation.parts.map((part, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: parts have no identity of their own
              <ExplanationTree key={index} explanation={part} nameOf={nameOf} />
            ))}
          </div>
        </div>
      );
    }
  }
}
