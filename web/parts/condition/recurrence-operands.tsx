import { useState } from 'react';
import { ruleProblem } from '../../../core/conditions/recurrence-rule.ts';
import { Select } from '../select.tsx';
import { field, type OperandProps, SingleInput } from './single-operands.tsx';

const rules: readonly { rule: string; label: string }[] = [
  { rule: 'FREQ=DAILY', label: 'every day' },
  { rule: 'FREQ=WEEKLY', label: 'every week, on that weekday' },
  { rule: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', label: 'every working day' },
  { rule: 'FREQ=WEEKLY;BYDAY=SA,SU', label: 'every weekend day' },
  { rule: 'FREQ=WEEKLY;INTERVAL=2', label: 'every second week' },
  { rule: 'FREQ=MONTHLY', label: 'every month, on that day' },
  { rule: 'FREQ=YEARLY', label: 'every year, on that day' },
];

export function RecurrenceOperands({ test, onChange }: OperandProps) {
  const rule = String(test.values[2] ?? '');
  const [own, setOwn] = useState(!rules.some((known) => known.rule === rule));
  const change = (value: string) => onChange({ ...test, values: [...test.values.slice(0, 2), value] });
  return (
    <div className="flex flex-col gap-2">
      <span className="flex items-center gap-2">
        <span className="w-24">Start date</span>
        <SingleInput label="Start date" test={test} place={0} kind="moment" onChange={onChange} />
      </span>
      <span className="flex items-center gap-2">
        <span className="w-24">and lasts</span>
        <SingleInput label="Duration (minutes)" test={test} place={1} kind="minutes" onChange={onChange} />{' '}
        minutes,
      </span>
      <div className="flex items-center gap-2">
        <span className="w-24">again</span>
        <Select
          aria-label="How often"
          value={own ? 'own' : rule}
          onChange={(chosen) => {
            setOwn(chosen === 'own');
            if (chosen !== 'own') change(chosen);
          }}
          className="w-52"
          options={[
            ...rules.map((known) => ({ value: known.rule, label: known.label })),
            { value: 'own', label: 'by a rule of RFC 5545' },
          ]}
        />
      </div>
      {own && (
        <label className="flex flex-col gap-1">
          <span className="sr-only">Recurrence rule</span>
          <input
            value={rule}
            onChange={(event) => change(event.target.value.trim().toUpperCase())}
            placeholder="FREQ=MONTHLY;BYDAY=1SA"
            className={`${field} w-full font-mono`}
          />
          {ruleProblem(rule) && <span className="text-apple">This {ruleProblem(rule)}.</span>}
        </label>
      )}
    </div>
  );
}
