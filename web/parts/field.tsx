import { type InputHTMLAttributes, type ReactNode, type Ref, useId } from 'react';

const box = 'w-full rounded-md border border-edge/60 bg-paper px-3 py-1.5 text-ink aria-invalid:border-apple';

export function Field({
  label,
  problem,
  hint,
  children,
}: {
  label: string;
  problem?: string | undefined;
  hint?: string;
  children: (attributes: { id: string; 'aria-invalid': boolean; 'aria-describedby': string }) => ReactNode;
}) {
  const id = useId();
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="font-medium first-letter:uppercase">
        {label}
      </label>
      {children({ id, 'aria-invalid': problem !== undefined, 'aria-describedby': `${id}-note` })}
      <div
        id={`${id}-note`}
        className={problem ? 'text-apple' : 'text-quiet'}
        role={problem ? 'alert' : undefined}
      >
        {problem ?? hint}
      </div>
    </div>
  );
}

export function Input({
  className = '',
  ref,
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & { ref?: Ref<HTMLInputElement> }) {
  return <input ref={ref} className={`${box} h-9 ${className}`} {...rest} />;
}

/** A labelled text field in one piece. */
export function TextField({
  label,
  problem,
  hint,
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & {
  label: string;
  problem?: string | undefined;
  hint?: string;
  ref?: Ref<HTMLInputElement>;
}) {
  return (
    <Field label={label} problem={problem} {...(hint !== undefined && { hint })}>
      {(attributes) => <Input {...attributes} {...rest} />}
    </Field>
  );
}
