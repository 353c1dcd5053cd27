import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from 'react';
import { z } from 'zod';
import type { PersonRecord } from '../../contract/people.ts';
import { personSchema } from '../../contract/people.ts';
import { devices, type Viewer } from '../../core/attributes/viewer.ts';
import { noteLook } from './first-steps.ts';
import { useNow } from './use-now.ts';

const lookSchema = z.object({
  person: personSchema.nullable(),
  signedIn: z.boolean(),
  device: z.enum(devices),
  /** What else the visit tells, by attribute id; a device in it stands before `device`. */
  visit: z.record(z.string(), z.unknown()).nullable(),
  /** The moment chosen; null for now. */
  instant: z.number().nullable(),
  /** The moment that the face on screen takes, where it takes another; null otherwise. */
  faceInstant: z.number().nullable(),
});
/** Whom, on what and when you are looking as. */
export type Look = z.infer<typeof lookSchema>;

/** One of the viewers worth looking as on what is open. */
export interface Step {
  key: string;
  label: string;
  /** Who gets it, in a few words. */
  note: string;
  person: PersonRecord | null;
  signedIn: boolean;
  /** The visit and the moment that it takes, where it takes any; null for a plain visit and for now. */
  visit: Record<string, unknown> | null;
  instant: number | null;
}

interface Looking {
  look: Look;
  viewer: Viewer;
  /** The moment from which on things are proved: the one chosen, or now. */
  since: number;
  change: (change: Partial<Look>) => void;
  /** Makes a person the viewer, signed in if they have an account. */
  lookAs: (person: PersonRecord | null) => void;
  steps: readonly Step[];
  /** The key of the face on screen, for any viewer. */
  current: string | undefined;
  setSteps: (steps: readonly Step[], current: string | undefined) => void;
}

const LookingContext = createContext<Looking | undefined>(undefined);
const storageKey = 'apple-porch-look';
const nobody: Look = {
  person: null,
  signedIn: false,
  device: 'computer',
  visit: null,
  instant: null,
  faceInstant: null,
};
const noSteps: readonly Step[] = [];

function remembered(): Look {
  try {
    return lookSchema.parse(JSON.parse(sessionStorage.getItem(storageKey) ?? ''));
  } catch {
    return nobody;
  }
}

export function LookingProvider({ children }: { children: ReactNode }) {
  const [look, setLook] = useState(remembered);
  const now = useNow();
  const [offered, setOffered] = useState<Pick<Looking, 'steps' | 'current'>>({
    steps: noSteps,
    current: undefined,
  });
  const setSteps = useCallback(
    (steps: readonly Step[], current: string | undefined) => setOffered({ steps, current }),
    [],
  );
  const change = useCallback((part: Partial<Look>) => {
    setLook((before) => {
      const after = { ...before, ...part };
      sessionStorage.setItem(storageKey, JSON.stringify(after));
      return after;
    });
  }, []);
  const lookAs = useCallback(
    (person: PersonRecord | null) => {
      if (person) noteLook(person.id);
      change({ person, signedIn: person?.hasAccount ?? false });
    },
    [change],
  );
  const value = useMemo((): Looking => {
    return {
      look,
      viewer: viewerOf(look, now),
      since: look.instant ?? now,
      change,
      lookAs,
      ...offered,
      setSteps,
    };
  }, [look, now, change, lookAs, offered, setSteps]);
  return <LookingContext value={value}>{children}</LookingContext>;
}

/** What looking as a step changes: a plain visit and now where it does not take others. */
export function lookOf({ person, signedIn, visit, instant }: Step): Partial<Look> {
  return { person, signedIn, visit, faceInstant: instant };
}

export function viewerOf(
  look: Pick<Look, 'person' | 'signedIn' | 'device' | 'visit' | 'instant' | 'faceInstant'>,
  now: number,
): Viewer {
  return {
    contact: look.person?.values ?? null,
    signedIn: look.person !== null && look.signedIn,
    visit: { 'visit-device': look.device, ...look.visit },
    item: null,
    instant: look.faceInstant ?? look.instant ?? now,
  };
}

export function useLooking(): Looking {
  const looking = useContext(LookingContext);
  if (!looking) throw new Error('outside LookingProvider');
  return looking;
}

export function personLabel(look: Pick<Look, 'person' | 'signedIn'>): { name: string; state: string } {
  if (!look.person) return { name: 'Anonymous', state: 'signed out' };
  return { name: look.person.name, state: look.signedIn ? 'signed in' : 'recognised, not signed in' };
}
