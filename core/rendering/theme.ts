import type { Theme } from '../deciding/release.ts';

const families = {
  display: "'Bricolage Grotesque Variable', Georgia, serif",
  plain: "'Instrument Sans Variable', Helvetica, Arial, sans-serif",
  serif: 'Georgia, "Times New Roman", serif',
};

/** A theme as a style sheet over the site's own. Its values are checked to be colours and numbers, and nothing else. */
export function themeCss({ ground, ink, accent, onAccent, panel, headings, wideFrom }: Theme): string {
  return `:root, :host { --site-ground: ${ground}; --site-ink: ${ink}; --site-accent: ${accent}; --site-on-accent: ${onAccent}; --site-panel: ${panel}; --site-headings: ${families[headings]}; }
@container (max-width: ${wideFrom - 1}px) { .site .layout-row { display: flex; flex-direction: column; } }
`;
}
