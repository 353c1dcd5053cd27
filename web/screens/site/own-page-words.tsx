import { useState } from 'react';
import { type OwnPage, ownPages, type SiteSettings } from '../../../core/deciding/release.ts';
import { ownWords } from '../../../core/rendering/own-pages.ts';
import { Button } from '../../parts/button.tsx';
import { Field, TextField } from '../../parts/field.tsx';
import { SelectField } from '../../parts/select-field.tsx';

type Words = SiteSettings['ownPages'];

const names: Record<OwnPage, string> = {
  'sign-in': 'sign-in',
  closed: 'no access',
  'not-found': 'not found',
  search: 'search',
  unsubscribe: 'before unsubscribing',
  unsubscribed: 'after unsubscribing',
};

/** The heading and text of each page that the site has of itself. */
export function OwnPageWords({ words, onChange }: { words: Words; onChange: (words: Words) => void }) {
  const [page, setPage] = useState<OwnPage>('sign-in');
  const { title, text } = ownWords({ ownPages: words }, page);
  const set = (change: { title: string; text: string }) => onChange({ ...words, [page]: change });
  return (
    <>
      <SelectField
        label="Page"
        value={page}
        options={ownPages.map((value) => ({ value, label: names[value] }))}
        onChange={(chosen) => setPage(ownPages.find((one) => one === chosen) ?? page)}
      />
      <TextField
        label="Heading"
        value={title}
        maxLength={120}
        problem={title.trim() === '' ? 'Give it a heading.' : undefined}
        onChange={({ target }) => set({ title: target.value, text })}
      />
      <Field label="Text">
        {(attributes) => (
          <textarea
            {...attributes}
            rows={3}
            className="w-full rounded-md border border-edge/60 bg-paper px-3 py-1.5"
            value={text}
            maxLength={1000}
            onChange={({ target }) => set({ title, text: target.value })}
          />
        )}
      </Field>
      {words?.[page] && (
        <Button
          look="quiet"
          onClick={() => {
            const { [page]: _, ...rest } = words;
            onChange(Object.keys(rest).length > 0 ? rest : undefined);
          }}
        >
          Reset to the usual words
        </Button>
      )}
    </>
  );
}
