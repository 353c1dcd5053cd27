import type { Facts } from '../../../core/attributes/viewer.ts';
import type { Explanation } from '../../../core/conditions/explain.ts';
import type { Decider } from '../../../core/deciding/decide.ts';
import type { Slot } from '../../../core/documents/document.ts';
import { VariantMark } from '../../parts/variant-mark.tsx';

/** Why the viewer gets what is on screen: each variant looked at, each test with the value it met. */
export function WhyLine({
  slot,
  decider,
  facts,
  nameOf,
  name,
}: {
  slot: Slot;
  decider: Decider;
  facts: Facts;
  nameOf: (audience: string) => string;
  name: string;
}) {
  const steps = decider.trace(slot, facts);
  const last = steps.at(-1);
  const winner = last?.holds ? steps.length - 1 : -1;
  return (
    <section aria-label="Why" className="rounded-md border border-line bg-paper p-3">
      <h3 className="flex flex-wrap items-center gap-1.5 text-[14px]">
        Why <VariantMark choice={winner} /> for {name}?
      </h3>
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
    </section>
  );
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
          {explanation.words} — <span className="text-ink">{explanation.met ?? 'no value'}</span>: {outcome}
        </div>
      );
    case 'audience':
      return (
        <div className="text-[13px] leading-[18px] text-quiet">
          in “{nameOf(explanation.audience)}”: {outcome}
          <div className="ml-1 border-l border-line pl-2">
            <ExplanationTree explanation={explanation.because} nameOf={nameOf} />
          </div>
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
