import { lazy, type ReactNode, Suspense, useCallback, useState } from 'react';
import { MakeAudienceContext } from '../parts/make-audience.ts';

const NewAudience = lazy(async () => ({
  default: (await import('../screens/audiences/new-audience.tsx')).NewAudience,
}));

interface Asked {
  readonly name: string;
  readonly answer: (id: string | undefined) => void;
}

/** Lets everything inside make an audience without leaving the screen. */
export function AudienceMaker({ children }: { children: ReactNode }) {
  const [asked, setAsked] = useState<Asked>();
  const make = useCallback(
    (name: string) => new Promise<string | undefined>((answer) => setAsked({ name, answer })),
    [],
  );
  const settle = (id: string | undefined) => {
    asked?.answer(id);
    setAsked(undefined);
  };
  return (
    <MakeAudienceContext value={make}>
      {children}
      <Suspense>{asked && <NewAudience name={asked.name} onSettle={settle} />}</Suspense>
    </MakeAudienceContext>
  );
}
