/** Told to what stands for a reader’s words in an editor when these may have become others. */
export const saidAnew = 'said-anew';
