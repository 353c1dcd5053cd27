export interface SlotActions {
  show: (choice: number) => void;
  addVariant: (audience: string) => void;
  moveVariant: (variant: string, to: number) => void;
  removeVariant: (variant: string) => void;
  setAudience: (variant: string, audience: string) => void;
  setNothing: () => void;
  writeOtherwise: () => void;
  rename: (name: string) => void;
  dissolve: () => void;
  /** Puts a copy of a variant (null: everyone else) into another slot. */
  copyInto: (variant: string | null, into: string) => void;
  /** Takes the audiences of another slot, or those of the document, in their order. */
  takeAudiences: (audiences: readonly string[]) => void;
}

export function quoted(words: string): string {
  return words === '' ? '' : `“${words}”`;
}
