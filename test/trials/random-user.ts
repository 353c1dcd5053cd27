import type { ElementHandle, Page } from '@playwright/test';
import { Random } from '../../demo/random.ts';
import { placeOf, type Target, targetsOn, type Zone } from './targets.ts';

const scripts = [
  'Look up tonight',
  'é́ ﬀ ß İ ς',
  'שלום <b>&amp;</b>',
  '観測 👩‍🚀🏽',
  'a'.repeat(300),
  '  two  spaces  ',
  '"quoted" – ‘so’',
  '0',
] as const;
const pasted = [
  '<p>one <b>bold</b> <i>it</i></p><p>two</p>',
  '<ul><li>a<ul><li>b</li></ul></li></ul>',
  '<table><tr><th>x</th><td>y</td></tr></table>',
  '<a href="https://example.org/x">away</a> and <a href="javascript:alert(1)">bad</a>',
  '<ol><li><p>p1</p><p>p2</p></li></ol><blockquote><p>q</p></blockquote>',
  'plain',
] as const;
const inText = [
  'ArrowLeft',
  'ArrowRight',
  'ArrowUp',
  'ArrowDown',
  'Home',
  'End',
  'Control+Home',
  'Control+End',
  'Shift+ArrowLeft',
  'Shift+ArrowRight',
  'Shift+ArrowUp',
  'Shift+ArrowDown',
  'Shift+Home',
  'Shift+End',
  'Control+a',
  'Backspace',
  'Delete',
  'Control+Backspace',
  'Enter',
  'Shift+Enter',
  'Tab',
  'Shift+Tab',
  'Control+b',
  'Control+i',
  'Control+x',
  'Control+c',
  'Control+v',
  'Control+z',
  'Control+Shift+z',
] as const;
const onBlocks = [
  'Control+c',
  'Control+x',
  'Control+v',
  'Control+z',
  'Control+Shift+z',
  'Alt+ArrowUp',
  'Alt+ArrowDown',
  'Alt+ArrowLeft',
  'Alt+ArrowRight',
  'Tab',
  'Shift+Tab',
  'Escape',
  'Enter',
  'Space',
] as const;

/** Somebody who uses whatever a screen offers, in an order that a number stands for. */
export class RandomUser {
  private readonly random: Random;

  /**
   * @param zones where on the screen things are, by CSS selector
   * @param weights how often something is done in each; `keys` are keys that are pressed wherever the focus is
   * @param avoid what is never used, by its name, as it leaves the screen
   */
  constructor(
    private readonly page: Page,
    seed: number,
    private readonly zones: Readonly<Partial<Record<Zone, string>>>,
    private readonly weights: Readonly<Partial<Record<Zone | 'keys' | 'drag', number>>>,
    private readonly avoid: RegExp,
  ) {
    this.random = new Random(seed);
  }

  /** Does one thing; returns it in words. */
  async act(): Promise<string> {
    for (let tries = 0; tries < 20; tries++) {
      const done = await this.attempt();
      if (done !== undefined) return done;
    }
    return 'nothing';
  }

  private async attempt(): Promise<string | undefined> {
    const { page, random } = this;
    const targets = await page.evaluate(targetsOn, this.zones);
    const isOpen = targets.some(({ zone }) => zone === 'open');
    if (isOpen && random.chance(0.15)) return this.press('Escape');
    const wanted = isOpen ? 'open' : this.zone();
    const focus = await page.evaluate(focused);
    if (!isOpen && focus === 'text' && random.chance(0.5)) return this.write();
    if (wanted === 'keys') return focus === 'text' ? this.write() : this.press(random.pick(onBlocks));
    const candidates = targets
      .map((target, index) => ({ target, index }))
      .filter(
        ({ target }) =>
          target.zone === (wanted === 'drag' ? 'outline' : wanted) && !this.avoid.test(target.name),
      );
    const [first, ...rest] = candidates;
    if (!first) return isOpen ? this.press('Escape') : undefined;
    const chosen = random.pick([first, ...rest]);
    const place = await page.evaluate(placeOf, chosen.index);
    if (!place) return undefined;
    if (wanted === 'drag') {
      const other = random.pick([first, ...rest]);
      const to = await page.evaluate(placeOf, other.index);
      if (!to) return undefined;
      await page.mouse.move(place.x, place.y);
      await page.mouse.down();
      await page.mouse.move(place.x, place.y + 8);
      await page.mouse.move(to.x, to.y, { steps: 3 });
      await page.mouse.up();
      return `drag ${chosen.target.name} to ${other.target.name}`;
    }
    return this.use(chosen.target, chosen.index, place);
  }

  private zone(): Zone | 'keys' | 'drag' {
    const all = Object.entries(this.weights) as [Zone | 'keys' | 'drag', number][];
    let at = this.random.next() * all.reduce((sum, [, weight]) => sum + weight, 0);
    for (const [zone, weight] of all) {
      at -= weight;
      if (at < 0) return zone;
    }
    return 'keys';
  }

  private async use(
    target: Target,
    index: number,
    place: { x: number; y: number },
  ): Promise<string | undefined> {
    const { page, random } = this;
    const said = `${target.zone}: ${target.tag}${target.type ? `[${target.type}]` : ''} “${target.name}”`;
    const element = async (): Promise<ElementHandle<HTMLElement>> =>
      page.evaluateHandle((at) => {
        const { targets } = window as unknown as { targets: HTMLElement[] };
        return targets[at] ?? document.body;
      }, index);
    if (target.tag === 'select') {
      const option = random.between(0, target.options - 1);
      if (!(await isDone((await element()).selectOption({ index: option })))) return undefined;
      return `${said} option ${option}`;
    }
    const isField =
      target.tag === 'textarea' || (target.tag === 'input' && !['checkbox', 'radio'].includes(target.type));
    if (!isField) {
      if (target.zone === 'outline' && random.chance(0.15)) await page.keyboard.down('Shift');
      await page.mouse.click(place.x, place.y);
      await page.keyboard.up('Shift');
      return said;
    }
    const value =
      target.type === 'number'
        ? String(random.between(-1, 60))
        : target.type === 'moment'
          ? `2027-0${random.between(1, 9)}-1${random.between(0, 9)}T0${random.between(0, 9)}:00`
          : target.type === 'date'
            ? `2027-0${random.between(1, 9)}-1${random.between(0, 9)}`
            : target.type === 'time'
              ? `1${random.between(0, 9)}:30`
              : random.chance(0.15)
                ? ''
                : random.pick(scripts);
    if (!(await isDone((await element()).fill(value)))) return undefined;
    return `${said} = ${JSON.stringify(value.slice(0, 30))}`;
  }

  /** Something in the text that the focus is in. */
  private async write(): Promise<string> {
    const { page, random } = this;
    const how = random.next();
    if (how < 0.35) {
      const words = random.pick(scripts);
      await page.keyboard.insertText(words.slice(0, 40));
      return `type ${JSON.stringify(words.slice(0, 40))}`;
    }
    if (how < 0.45) {
      const html = random.pick(pasted);
      await page.evaluate(pasteHtml, html);
      return `paste ${html}`;
    }
    if (how < 0.5) return this.press('Escape');
    return this.press(random.pick(inText));
  }

  private async press(key: string): Promise<string> {
    await this.page.keyboard.press(key);
    return `press ${key}`;
  }
}

/** Whether something was done to an element; false where it went away meanwhile. */
async function isDone(doing: Promise<unknown>): Promise<boolean> {
  try {
    await doing;
    return true;
  } catch (error) {
    if (error instanceof Error && /not attached/.test(error.message)) return false;
    throw error;
  }
}

/** Runs in the browser. What the keyboard is in. */
function focused(): 'text' | 'field' | 'other' {
  let element = document.activeElement;
  while (element?.shadowRoot?.activeElement) element = element.shadowRoot.activeElement;
  if (!(element instanceof HTMLElement)) return 'other';
  if (element.isContentEditable) return 'text';
  return ['INPUT', 'TEXTAREA', 'SELECT'].includes(element.tagName) ? 'field' : 'other';
}

/** Runs in the browser. */
function pasteHtml(html: string): void {
  let element = document.activeElement;
  while (element?.shadowRoot?.activeElement) element = element.shadowRoot.activeElement;
  const data = new DataTransfer();
  data.setData('text/html', html);
  data.setData('text/plain', html.replace(/<[^>]*>/g, ''));
  element?.dispatchEvent(
    new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true, composed: true }),
  );
}
