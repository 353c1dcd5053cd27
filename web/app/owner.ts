import { createContext, useContext } from 'react';

/** Whose window this is. */
export interface Owner {
  readonly name: string;
  readonly signOut: () => void;
}

export const OwnerContext = createContext<Owner>({ name: '', signOut: () => undefined });

export function useOwner(): Owner {
  return useContext(OwnerContext);
}
