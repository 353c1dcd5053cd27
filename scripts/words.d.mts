/** A string that people read. */
export interface ReadWords {
  readonly file: string;
  readonly line: number;
  readonly words: string;
}
export function wordsIn(text: string, name: string): Omit<ReadWords, 'file'>[];
export function allWords(): ReadWords[];
export function readingEase(words: string): number | undefined;
