import { createContext, useContext } from 'react';

/**
 * Asks for a new audience in a dialog over whatever is on screen.
 *
 * @param name what it begins with as its name
 * @returns the id of the audience once it is saved; undefined if the dialog was closed
 */
type MakeAudience = (name: string) => Promise<string | undefined>;

export const MakeAudienceContext = createContext<MakeAudience | undefined>(undefined);

/** How to make an audience right here; undefined where that is not offered. */
export function useMakeAudience(): MakeAudience | undefined {
  return useContext(MakeAudienceContext);
}
