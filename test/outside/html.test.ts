import { HtmlValidate } from 'html-validate';
import { describe, expect, it } from 'vitest';
import { analyseDocument } from '../../core/analysis/document-analysis.ts';
import type { Viewer } from '../../core/attributes/viewer.ts';
import { itemAddress } from '../../core/collections/collection.ts';
import { CompiledSnapshot } from '../../core/rendering/compiled.ts';
import { demoSnapshot } from '../../demo/scenario.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const compiled = new CompiledSnapshot(demoSnapshot, 'http://127.0.0.1:4310');
// HTML Living Standard by html-validate's own rules; what is only a matter of style is left out.
const validator = new HtmlValidate({
  extends: ['html-validate:standard', 'html-validate:a11y'],
  rules: { 'no-trailing-whitespace': 'off', 'long-title': 'off', 'attribute-boolean-style': 'off' },
});
const signedIn = (tier: string): Viewer => ({
  contact: { tier, 'first-name': 'Noor', tags: ['moon'] },
  signedIn: true,
  visit: {},
  item: null,
  instant,
});

async function problemsOf(html: string): Promise<string[]> {
  const report = await validator.validateString(html);
  return report.results.flatMap(({ messages }) =>
    messages.map(({ ruleId, message, line, column }) => `${line}:${column} ${ruleId}: ${message}`),
  );
}

const pages = demoSnapshot.documents.filter(({ kind, collection }) => kind === 'page' && !collection);

describe('every face of the demo is valid HTML (html-validate)', () => {
  it.each(pages)('$name', async (page) => {
    const { faces, refused } = analyseDocument(demoSnapshot, page, instant);
    expect(refused).toBeUndefined();
    expect(faces.length).toBeGreaterThan(0);
    for (const { witness } of faces) {
      const answer = compiled.pages.at(page.slug, witness);
      expect(answer.kind).toBe('page');
      expect(await problemsOf(answer.kind === 'page' ? answer.html : '')).toEqual([]);
    }
  });

  it('and the validator would say so if it were not', async () => {
    const broken =
      '<!doctype html><html lang="en"><head><title>x</title></head><body><p><div></p><img src="a"></body></html>';
    expect((await problemsOf(broken)).length).toBeGreaterThan(1);
  });

  it('and of every item', async () => {
    for (const collection of demoSnapshot.collections ?? [])
      for (const item of compiled.library.itemsOf(collection.id)) {
        const answer = compiled.pages.item(
          itemAddress(collection, item).replace('/site/', ''),
          signedIn('midnight'),
        );
        expect([item.title, answer.kind]).toEqual([item.title, 'page']);
        expect(await problemsOf(answer.kind === 'page' ? answer.html : '')).toEqual([]);
      }
  });
});

it('no finding of the analysis is open on the demo’s site and emails', () => {
  for (const document of demoSnapshot.documents) {
    const { findings, refused } = analyseDocument(demoSnapshot, document, instant);
    expect([document.name, refused]).toEqual([document.name, undefined]);
    const open = findings.filter(({ severity }) => severity !== 'note').map(({ sentence }) => sentence);
    expect([document.name, ...open]).toEqual([document.name]);
  }
});
