import type { Theme } from '../deciding/release.ts';

/** A theme to begin with, ready to be changed. */
export interface NamedTheme {
  readonly name: string;
  readonly theme: Theme;
}

const night: Theme = {
  ground: '#0f1623',
  ink: '#e9edf5',
  accent: '#f5c96b',
  onAccent: '#1c1503',
  panel: '#1b2536',
  headings: 'display',
  wideFrom: 640,
};

const paper: Theme = {
  ground: '#fbf6ed',
  ink: '#2b2622',
  accent: '#96341f',
  onAccent: '#ffffff',
  panel: '#f1e6d4',
  headings: 'serif',
  wideFrom: 640,
};

const meadow: Theme = {
  ground: '#f3f8f4',
  ink: '#16261e',
  accent: '#1c6146',
  onAccent: '#ffffff',
  panel: '#dfece2',
  headings: 'plain',
  wideFrom: 640,
};

/** The themes that come with the program. Text on each of their colours has a contrast of 4.5 to 1 or more (WCAG 2.2, 1.4.3). */
export const namedThemes: readonly NamedTheme[] = [
  { name: 'Night', theme: night },
  { name: 'Paper', theme: paper },
  { name: 'Meadow', theme: meadow },
];
