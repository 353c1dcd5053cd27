const allowed = new Set(['http:', 'https:', 'mailto:', 'tel:']);

/**
 * A link address made safe to stand in an `href`: http, https, mailto, tel, or a place on the site itself (starting
 * with `/`, `#` or `?`). Undefined for anything else, such as `javascript:`, also when it hides behind control
 * characters, which browsers strip before they read the scheme (WHATWG URL, basic URL parser).
 */
export function safeAddress(raw: string): string | undefined {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is looked for
  const address = raw.replace(/[\u0000-\u0020\u007f-\u009f]/g, '');
  if (address === '') return undefined;
  if (/^[#?]/.test(address)) return address;
  if (address.startsWith('/')) return /^\/[/\\]/.test(address) ? undefined : address;
  try {
    return allowed.has(new URL(address).protocol) ? address : undefined;
  } catch {
    return undefined;
  }
}
