const signs: { [sign: string]: string } = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};

/** Text made safe to stand as HTML text or inside a quoted attribute (OWASP XSS prevention, rules 1 and 2). */
export function escapeHtml(text: string): string {
  return /[&<>"']/.test(text) ? text.replace(/[&<>"']/g, (sign) => signs[sign] ?? '') : text;
}
