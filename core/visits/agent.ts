import Bowser from 'bowser';
import { LRUCache } from 'lru-cache';

export interface Agent {
  device: 'computer' | 'tablet' | 'phone' | undefined;
  browser: string | undefined;
  system: string | undefined;
  isBot: boolean;
}

const browsers: { readonly [name: string]: string } = {
  chrome: 'chrome',
  chromium: 'chrome',
  'microsoft edge': 'edge',
  firefox: 'firefox',
  opera: 'opera',
  safari: 'safari',
  'samsung internet for android': 'samsung-internet',
};
const systems: { readonly [name: string]: string } = {
  android: 'android',
  'chrome os': 'chromeos',
  ios: 'ios',
  ipados: 'ios',
  linux: 'linux',
  macos: 'macos',
  windows: 'windows',
};
const devices = { desktop: 'computer', tablet: 'tablet', mobile: 'phone' } as const;

/**
 * What a request says of the program and the device it comes from, as the ids of built-in choices: from the client
 * hints (User-Agent Client Hints, W3C community draft) where the browser sends them, otherwise from the user agent.
 * Undefined where neither tells; a bot is none of them.
 *
 * @param headers by lower-case name
 */
export function readAgent(headers: { readonly [name: string]: string | undefined }): Agent {
  const parsed = parsedAgent(headers['user-agent']);
  const type = parsed?.platform.type;
  if (parsed?.isBot) return { device: undefined, browser: undefined, system: undefined, isBot: true };
  const hinted = hintedBrowser(headers['sec-ch-ua']);
  const browser = hinted ?? parsed?.browser.name?.toLowerCase();
  const system = (unquoted(headers['sec-ch-ua-platform']) ?? parsed?.os.name)?.toLowerCase();
  const mobile = headers['sec-ch-ua-mobile'];
  const known = type === 'desktop' || type === 'tablet' || type === 'mobile' ? devices[type] : undefined;
  return {
    // A hint of "not mobile" says nothing of tablets, which the user agent may.
    device: mobile === '?1' ? (known === 'tablet' ? 'tablet' : 'phone') : known,
    browser: browser === undefined ? undefined : (browsers[browser] ?? 'another-browser'),
    system: system === undefined ? undefined : (systems[system] ?? 'another-system'),
    isBot: false,
  };
}

/** Whether a program that reads pages by itself says so of itself. */
export function isBotAgent(userAgent: string | undefined): boolean {
  return parsedAgent(userAgent)?.isBot ?? false;
}

type ParsedAgent = ReturnType<typeof Bowser.parse> & { readonly isBot: boolean };

/** Most visitors come with one of a few user agents, whose reading takes longer than deciding a page. */
const mostKept = 500;
const kept = new LRUCache<string, ParsedAgent>({ max: mostKept });

function parsedAgent(userAgent: string | undefined): ParsedAgent | undefined {
  if (!userAgent) return undefined;
  const text = userAgent.slice(0, 1000);
  let parsed = kept.get(text);
  if (!parsed) {
    const read = Bowser.parse(text);
    const isBot = read.platform.type === 'bot' || /\b(bot|crawler|spider)\b|bot\//i.test(text);
    parsed = { ...read, isBot };
    kept.set(text, parsed);
  }
  return parsed;
}

/** The browser of a list of brands; the made-up brands in it keep programs from relying on the list's form. */
function hintedBrowser(list: string | undefined): string | undefined {
  if (!list) return undefined;
  const brands = [...list.slice(0, 500).matchAll(/"([^"]{1,60})";\s*v=/g)].map(([, brand = '']) =>
    brand.toLowerCase().replace(/^google /, ''),
  );
  return (
    brands.find((brand) => brand in browsers && brand !== 'chromium') ??
    brands.find((brand) => brand in browsers)
  );
}

function unquoted(text: string | undefined): string | undefined {
  return text?.replace(/^"|"$/g, '') || undefined;
}
