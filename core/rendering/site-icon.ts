import type { SiteSettings } from '../deciding/release.ts';
import { escapeHtml } from './escape.ts';

/** The site's icon for browser tabs: the first letter of its name in the colours of its buttons. */
export function siteIcon({ name, theme, locale }: Pick<SiteSettings, 'name' | 'theme' | 'locale'>): string {
  const [first] = new Intl.Segmenter(locale).segment(name.trim());
  const letter = escapeHtml((first?.segment ?? '').toLocaleUpperCase(locale));
  const { accent, onAccent } = theme ?? { accent: '#f5c96b', onAccent: '#1c1503' };
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 32 32"><rect width="32" height="32" rx="7" fill="${accent}"/><text x="16" y="23" text-anchor="middle" font-family="Helvetica, Arial, sans-serif" font-size="20" font-weight="700" fill="${onAccent}">${letter}</text></svg>\n`;
}
