import { lazy, Suspense, useState } from 'react';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { operatorOf } from '../../../core/conditions/operators.ts';
import { testWords } from '../../../core/conditions/words.ts';
import { Popover } from '../popover.tsx';
import { AttributePicker } from './attribute-picker.tsx';
import { startingTest } from './starting-test.ts';

// With what it takes to check operands, loaded when the first test is opened.
const TestEditor = lazy(async () => ({ default: (await import('./test-editor.tsx')).TestEditor }));

/** A test as a clause whose attribute and values are controls. */
export function TestSentence({
  test,
  catalogue,
  onChange,
  openAtFirst = false,
}: {
  test: Test;
  catalogue: Catalogue;
  onChange: (test: Test) => void;
  openAtFirst?: boolean;
}) {
  const [editing, setEditing] = useState(openAtFirst);
  /** Whether its values are a guess that nobody confirmed yet: the first that is picked takes its place. */
  const [isGuess, setIsGuess] = useState(openAtFirst);
  const [choosing, setChoosing] = useState(false);
  const attribute = catalogue.get(test.attribute);
  const words = testWords(test, catalogue);
  return (
    <span className="inline-flex flex-wrap items-center gap-x-1.5 gap-y-1">
      <Popover
        label="Choose an attribute"
        className="w-[580px] p-2"
        open={choosing}
        onOpenChange={setChoosing}
        trigger={
          <button type="button" className="border-b border-edge hover:border-ink">
            {words.subject}
          </button>
        }
      >
        <AttributePicker
          catalogue={catalogue}
          onChoose={(chosen) => {
            setChoosing(false);
            if (chosen.id !== test.attribute) onChange(startingTest(chosen, catalogue));
          }}
        />
      </Popover>
      {attribute ? (
        <Popover
          label={`${words.subject} ${words.verb}`}
          open={editing}
          onOpenChange={(open) => {
            setEditing(open);
            if (!open) setIsGuess(false);
          }}
          trigger={
            <button
              type="button"
              className="group inline-flex flex-wrap items-center gap-1.5 rounded-md text-left"
            >
              <span className="text-quiet group-hover:text-ink">{words.verb}</span>
              {words.operands.map((operand, index) => (
                <span key={`${operand}-${String(index)}`} className="inline-flex items-center gap-1.5">
                  {index > 0 && <span className="text-quiet">{words.joiner}</span>}
                  <span className="rounded-md border border-line bg-paper px-2 py-0.5 font-semibold group-hover:border-edge">
                    {operand}
                  </span>
                </span>
              ))}
              {words.after && <span className="text-quiet">{words.after}</span>}
              {needsValue(words.operands.length, attribute, test.op) && (
                <span className="rounded-md border border-apple px-2 py-0.5 text-apple">choose…</span>
              )}
            </button>
          }
        >
          <Suspense>
            <TestEditor
              test={test}
              attribute={attribute}
              catalogue={catalogue}
              isGuess={isGuess}
              onChange={(next) => {
                setIsGuess(next.op !== test.op && isGuess);
                onChange(next);
              }}
            />
          </Suspense>
        </Popover>
      ) : (
        <span className="text-apple">is an attribute that is gone</span>
      )}
    </span>
  );
}

function needsValue(operands: number, attribute: Attribute, op: string): boolean {
  return operands === 0 && operatorOf(attribute, op)?.arity !== 'none';
}
