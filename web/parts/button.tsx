import { type ButtonHTMLAttributes, type MouseEvent, type ReactNode, type Ref, useRef } from 'react';

const looks = {
  primary: 'bg-leaf text-on-leaf border-leaf font-semibold hover:brightness-110',
  plain: 'bg-paper text-ink border-line hover:border-edge',
  quiet: 'bg-transparent text-quiet border-transparent hover:text-ink hover:bg-line/40',
  danger: 'bg-paper text-apple border-line hover:border-apple',
};

export interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: keyof typeof looks;
  icon?: ReactNode;
  ref?: Ref<HTMLButtonElement>;
}

type Own = ButtonHTMLAttributes<HTMLButtonElement> & { ref?: Ref<HTMLButtonElement> };

/**
 * What every button does alike. One that is off keeps the focus: pressing Save must not send the keyboard to the top of the
 * page. One whose work takes a while does it once, however often it is pressed meanwhile.
 */
function useButton({ disabled, onClick, ...rest }: Own): Own {
  const isBusy = useRef(false);
  if (disabled) return { ...rest, 'aria-disabled': true, onClick: (event) => event.preventDefault() };
  const press = (event: MouseEvent<HTMLButtonElement>) => {
    if (isBusy.current) return;
    const work: unknown = onClick?.(event);
    if (!(work instanceof Promise)) return;
    isBusy.current = true;
    void work.finally(() => {
      isBusy.current = false;
    });
  };
  return { ...rest, onClick: press };
}

export function Button({
  look = 'plain',
  icon,
  children,
  className = '',
  type = 'button',
  ...rest
}: ButtonProps) {
  return (
    <button
      type={type}
      className={`inline-flex h-9 items-center justify-center gap-2 whitespace-nowrap rounded-md border px-3 aria-disabled:cursor-default aria-disabled:opacity-50 ${looks[look]} ${className}`}
      {...useButton(rest)}
    >
      {icon}
      {children}
    </button>
  );
}

/** A button that shows an icon only; its label is read out and shown when hovered. */
export function IconButton({
  label,
  children,
  className = '',
  ...rest
}: Omit<ButtonProps, 'look' | 'icon'> & { label: string }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      className={`inline-flex size-7 shrink-0 items-center justify-center rounded-md text-quiet hover:bg-line/50 hover:text-ink aria-disabled:cursor-default aria-disabled:opacity-40 ${className}`}
      {...useButton(rest)}
    >
      {children}
    </button>
  );
}

/** An action in running text. */
export function TextButton({ className = '', ...rest }: ButtonHTMLAttributes<HTMLButtonElement>) {
  return (
    <button type="button" className={`underline underline-offset-2 hover:text-leaf ${className}`} {...rest} />
  );
}
