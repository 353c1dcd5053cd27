import { element, type Markup } from './markup.ts';

export const ink = '#26221c';
export const leaf = '#2c6748';
export const font = "'Instrument Sans', Helvetica, Arial, sans-serif";
export const table = {
  role: 'presentation',
  width: '100%',
  cellpadding: '0',
  cellspacing: '0',
  border: '0',
};

/** A row of a message with one cell. */
export function row(style: string, children: Markup[]): Markup[] {
  return [element('tr', {}, [element('td', { style }, children)])];
}
