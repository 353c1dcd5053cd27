import { type ReactNode, useState } from 'react';
import { messageOf } from '../data/api.ts';
import { Notice } from './notice.tsx';

/** A form: sent by its button or by Enter, once at a time; what keeps it from being sent stands at its top. */
export function Form({
  onSend,
  className = '',
  children,
}: {
  onSend: () => Promise<void>;
  className?: string;
  children: ReactNode;
}) {
  const [problem, setProblem] = useState<string>();
  const [sending, setSending] = useState(false);
  const send = async () => {
    if (sending) return;
    setSending(true);
    setProblem(undefined);
    try {
      await onSend();
    } catch (error) {
      setProblem(messageOf(error));
    } finally {
      setSending(false);
    }
  };
  return (
    <form
      aria-busy={sending}
      className={`flex flex-col gap-2 ${className}`}
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      {problem !== undefined && <Notice kind="wrong" title={problem} />}
      {children}
    </form>
  );
}
