import { Check, ChevronLeft, Copy, KeyRound, Trash2, X } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { z } from 'zod';
import {
  apiKeysSchema,
  type Installation,
  installationSchema,
  madeApiKeySchema,
} from '../../../contract/decide.ts';
import { call, callWithoutAnswer, messageOf, useApi } from '../../data/api.ts';
import { useDocuments } from '../../data/data.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { Confirm } from '../../parts/confirm.tsx';
import { Field, TextField } from '../../parts/field.tsx';
import { Form } from '../../parts/form.tsx';
import { Notice } from '../../parts/notice.tsx';
import { SelectField } from '../../parts/select-field.tsx';
import { toast } from '../../parts/toast.tsx';

const embeddingSchema = z.object({
  foreignSite: z.string().nullable(),
  slots: z.array(z.object({ key: z.string(), page: z.string(), slot: z.string() })),
});

/** How another site takes its variants from here: keys, what to put into its pages, and a check that it is there. */
export function Component() {
  const { data: keys = [] } = useApi('/api-keys', apiKeysSchema);
  const { data: embedding } = useApi('/embedding', embeddingSchema);
  const [made, setMade] = useState<string>();
  const [asked, setAsked] = useState<(typeof keys)[number]>();
  useTabTitle('Other sites');
  return (
    <div className="h-full overflow-y-auto px-7 py-5">
      <Link to="/pages" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
        <ChevronLeft size={15} aria-hidden /> All pages
      </Link>
      <div className="mt-1 flex items-baseline gap-4">
        <h1 className="text-[26px] leading-9">Other sites</h1>
        <p className="text-quiet">Show variants on a site that you already have</p>
        {embedding?.foreignSite && (
          <a href={embedding.foreignSite} target="_blank" rel="noreferrer" className="ml-auto underline">
            See the demo’s other site
          </a>
        )}
      </div>
      <div className="mt-3 grid max-w-6xl grid-cols-1 wide:grid-cols-2 gap-8">
        <div className="flex flex-col gap-6">
          <section aria-label="Keys">
            <h2 className="text-[16px]">Keys</h2>
            <ul className="mt-1 rounded-md border border-line bg-paper">
              {keys.map((key) => (
                <li
                  key={key.id}
                  className="flex items-center gap-3 border-b border-line/60 px-3 py-2 last:border-0"
                >
                  <KeyRound size={15} className="shrink-0 text-quiet" aria-hidden />
                  <span className="min-w-0 flex-1">
                    <span className="block truncate font-semibold">{key.name}</span>
                    <span className="block truncate text-[12px] text-quiet">
                      {key.isSecret ? 'for a server, to be kept secret' : key.origins.join(', ')} ·{' '}
                      {key.usedAt ? 'in use' : 'not used yet'}
                    </span>
                  </span>
                  <IconButton label={`Delete the key ${key.name}`} onClick={() => setAsked(key)}>
                    <Trash2 size={15} />
                  </IconButton>
                </li>
              ))}
              {keys.length === 0 && <li className="px-3 py-2 text-quiet">No key yet</li>}
            </ul>
            {asked && (
              <Confirm
                open
                title={`Delete the key “${asked.name}”?`}
                description="Every page and program that uses it stops working at once. This can’t be undone."
                action="Delete key"
                onConfirm={() => {
                  setAsked(undefined);
                  void remove(asked.id);
                }}
                onClose={() => setAsked(undefined)}
              />
            )}
            {made !== undefined && (
              <div className="mt-2">
                <Notice kind="careful" title="Copy this key now; it is shown only once">
                  <Copyable text={made} />
                </Notice>
              </div>
            )}
            <NewKey onMade={setMade} />
          </section>
          <section aria-label="API">
            <h2 className="text-[16px]">API</h2>
            <p className="text-quiet">
              Servers ask <code>POST /v1/decide</code> with their key; the whole of it is described in{' '}
              <a href="/v1/openapi.json" target="_blank" rel="noreferrer" className="underline">
                openapi.json
              </a>
              .
            </p>
          </section>
        </div>
        <div className="flex flex-col gap-6">
          <section aria-label="Embed code">
            <h2 className="text-[16px]">Embed code</h2>
            <p className="text-quiet">Once, in the head of every page:</p>
            <Copyable
              text={`<script src="${window.location.origin}/embed/porch.js" data-key="your key for browsers"></script>`}
            />
            <Snippet slots={embedding?.slots ?? []} />
          </section>
          <InstallationCheck foreignSite={embedding?.foreignSite ?? null} />
        </div>
      </div>
    </div>
  );
}

async function remove(id: string) {
  try {
    await callWithoutAnswer('DELETE', `/api-keys/${id}`);
  } catch (error) {
    toast.error(messageOf(error));
  }
}

function NewKey({ onMade }: { onMade: (key: string) => void }) {
  const [name, setName] = useState('');
  const [origins, setOrigins] = useState('');
  const [isSecret, setSecret] = useState(false);
  const make = async () => {
    const made = await call('POST', '/api-keys', madeApiKeySchema, {
      name,
      origins: isSecret ? [] : origins.split(/[\s,]+/).filter(Boolean),
      isSecret,
    });
    setName('');
    setOrigins('');
    onMade(made.key);
  };
  return (
    <Form className="mt-3" onSend={make}>
      <TextField
        label="A key for"
        placeholder="The members’ shop"
        value={name}
        maxLength={120}
        onChange={(event) => setName(event.target.value)}
      />
      <SelectField
        label="It is used"
        value={isSecret ? 'server' : 'browser'}
        options={[
          { value: 'browser', label: 'in the pages of a site' },
          { value: 'server', label: 'by a server, which may say who somebody is' },
        ]}
        onChange={(value) => setSecret(value === 'server')}
      />
      {!isSecret && (
        <TextField
          label="Sites whose pages may use it"
          placeholder="https://www.example.org"
          value={origins}
          onChange={(event) => setOrigins(event.target.value)}
        />
      )}
      <Button type="submit" className="self-start" disabled={name.trim() === ''}>
        Create key
      </Button>
    </Form>
  );
}

function Snippet({ slots }: { slots: readonly { key: string; page: string; slot: string }[] }) {
  const [chosen, setChosen] = useState('');
  const slot = slots.find(({ key }) => key === chosen) ?? slots[0];
  if (!slot) return <p className="text-quiet">No page with a slot is live yet.</p>;
  return (
    <div className="mt-2 flex flex-col gap-1">
      <SelectField
        label="Where this slot is to stand"
        value={slot.key}
        options={slots.map(({ key, page, slot: name }) => ({ value: key, label: `${page}: ${name}` }))}
        onChange={setChosen}
      />
      <Copyable text={`<div data-porch-slot="${slot.key}">What stands here when there is no answer</div>`} />
      <p className="text-quiet">On pages that may hold a frame only:</p>
      <Copyable
        text={`<iframe title="${slot.slot}" src="${window.location.origin}/embed/frame/${slot.key}?key=your-key" width="100%" height="200"></iframe>`}
      />
    </div>
  );
}

function Copyable({ text }: { text: string }) {
  return (
    <div className="mt-1 flex items-start gap-1 rounded-md border border-line bg-paper p-2">
      <code className="min-w-0 flex-1 break-all text-[12px] leading-4">{text}</code>
      <IconButton
        label="Copy"
        onClick={async () => {
          await navigator.clipboard.writeText(text);
          toast.success('Copied.');
        }}
      >
        <Copy size={14} />
      </IconButton>
    </div>
  );
}

const scriptWords: Record<Installation['script'], string> = {
  there: 'The script is there with a key that is known.',
  missing: 'The script is missing.',
  'without-key': 'The script is there, without a key.',
  'unknown-key': 'The script is there, with a key that is not known.',
};
const stateWords = {
  found: 'found',
  missing: 'missing',
  doubled: 'there more than once',
  misspelt: 'there is no such slot',
} as const;

function InstallationCheck({ foreignSite }: { foreignSite: string | null }) {
  const { data: documents = [] } = useDocuments();
  const [url, setUrl] = useState<string>();
  const [html, setHtml] = useState('');
  const [page, setPage] = useState('');
  const [found, setFound] = useState<Installation>();
  const address = url ?? foreignSite ?? '';
  const check = async () => {
    setFound(undefined);
    const of = html.trim() === '' ? { url: address } : { html };
    setFound(
      await call('POST', '/installation', installationSchema, { ...of, page: page === '' ? null : page }),
    );
  };
  return (
    <section aria-label="Is it installed?">
      <h2 className="text-[16px]">Is it installed?</h2>
      {found && (
        <div className="mt-2" role="status">
          <Notice
            kind={found.passes ? 'note' : 'wrong'}
            title={found.passes ? 'Everything is in its place' : 'Something is not right'}
          >
            <ul className="flex flex-col gap-0.5">
              <Row good={found.script === 'there'}>{scriptWords[found.script]}</Row>
              {found.slots.map((slot) => (
                <Row key={slot.key} good={slot.state === 'found'}>
                  {slot.name ?? slot.key}: {stateWords[slot.state]}
                  {slot.meant !== null && `; probably ${slot.meant} is meant`}
                </Row>
              ))}
              {found.slots.length === 0 && <Row good={false}>No place for a slot was found.</Row>}
            </ul>
          </Notice>
        </div>
      )}
      <Form className="mt-1" onSend={check}>
        <TextField
          label="Address of a page"
          value={address}
          onChange={(event) => setUrl(event.target.value)}
        />
        <Field label="Or its source">
          {(attributes) => (
            <textarea
              {...attributes}
              rows={2}
              spellCheck={false}
              className="w-full rounded-md border border-edge/60 bg-paper px-3 py-1.5 font-mono text-[12px]"
              value={html}
              onChange={(event) => setHtml(event.target.value)}
            />
          )}
        </Field>
        <SelectField
          label="It should have every slot of"
          value={page}
          options={[
            { value: '', label: 'no page in particular' },
            ...documents
              .filter(({ kind }) => kind === 'page')
              .map(({ id, name }) => ({ value: id, label: name })),
          ]}
          onChange={setPage}
        />
        <Button type="submit" className="self-start">
          Check it
        </Button>
      </Form>
    </section>
  );
}

function Row({ good, children }: { good: boolean; children: React.ReactNode }) {
  return (
    <li className="flex items-baseline gap-2">
      {good ? (
        <Check size={14} className="shrink-0 text-leaf" aria-label="right" />
      ) : (
        <X size={14} className="shrink-0 text-apple" aria-label="wrong" />
      )}
      <span>{children}</span>
    </li>
  );
}
