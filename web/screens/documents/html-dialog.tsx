import { useState } from 'react';
import { useNavigate } from 'react-router';
import { fromHtmlSchema } from '../../../contract/documents.ts';
import { slug } from '../../../core/exchange/slug.ts';
import { call } from '../../data/api.ts';
import { Button } from '../../parts/button.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { Field, TextField } from '../../parts/field.tsx';
import { Form } from '../../parts/form.tsx';
import { Notice } from '../../parts/notice.tsx';

/** A page made of one written in HTML: a file, or what is pasted. */
export function HtmlDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title="A page from HTML"
      description="Headings, text, links, lists, tables and places for pictures become blocks. Scripts, styles and forms are left out and listed."
    >
      <FromHtml />
    </Dialog>
  );
}

function FromHtml() {
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const [html, setHtml] = useState('');
  const [made, setMade] = useState<{ id: string; dropped: { what: string; count: number }[] }>();
  const make = async () => {
    const answer = await call('POST', '/documents/from-html', fromHtmlSchema, {
      name,
      slug: slug(name).slice(0, 80),
      html,
    });
    setMade(answer);
  };
  if (made)
    return (
      <div className="flex flex-col gap-3">
        <Notice
          kind={made.dropped.length > 0 ? 'careful' : 'note'}
          title={made.dropped.length > 0 ? 'Some of it was left out' : 'Nothing was left out'}
        >
          <ul>
            {made.dropped.map(({ what, count }) => (
              <li key={what}>
                {what}
                {count > 1 && `, ${count} times`}
              </li>
            ))}
          </ul>
        </Notice>
        <Button look="primary" onClick={() => navigate(`/pages/${made.id}`)}>
          Open the page
        </Button>
      </div>
    );
  return (
    <Form onSend={make}>
      <TextField
        label="Name of the page"
        value={name}
        maxLength={80}
        onChange={(event) => setName(event.target.value)}
      />
      <label className="flex flex-col gap-1 font-medium">
        A file
        <input
          type="file"
          accept=".html,.htm,text/html"
          onChange={async (event) => {
            const file = event.target.files?.[0];
            if (!file) return;
            setHtml(await file.text());
            if (name === '') setName(file.name.replace(/\.html?$/i, ''));
          }}
        />
      </label>
      <Field label="Or its source">
        {(attributes) => (
          <textarea
            {...attributes}
            rows={8}
            spellCheck={false}
            className="w-full rounded-md border border-edge/60 bg-paper px-3 py-2 font-mono text-[12px]"
            value={html}
            onChange={(event) => setHtml(event.target.value)}
          />
        )}
      </Field>
      <Button look="primary" type="submit" disabled={name.trim() === '' || html.trim() === ''}>
        Create page
      </Button>
    </Form>
  );
}
