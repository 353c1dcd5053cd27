import { Download } from 'lucide-react';
import { useState } from 'react';
import { NavLink, useParams } from 'react-router';
import { z } from 'zod';
import { listedMessageSchema, type MessageRecord, messageSchema } from '../../../contract/mail.ts';
import { useApi } from '../../data/api.ts';
import { saidInstant } from '../../data/moment.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Empty } from '../../parts/notice.tsx';

const messagesSchema = z.array(listedMessageSchema);
const views = ['Designed', 'Plain text', 'Headers'] as const;

/** What the simulated mail server received, as a reader would find it. */
export function Component() {
  const { id } = useParams();
  const [search, setSearch] = useState('');
  useTabTitle('Mailbox');
  const { data: messages } = useApi(`/mailbox?search=${encodeURIComponent(search)}`, messagesSchema);
  const { data: message } = useApi(
    id === undefined ? null : `/mailbox/${encodeURIComponent(id)}`,
    messageSchema,
  );
  return (
    <div className="grid h-full grid-cols-1 wide:grid-cols-[340px_1fr]">
      <section aria-label="Messages" className="flex min-h-0 flex-col border-r border-line">
        <div className="px-4 pb-2 pt-4">
          <h1 className="text-[22px] leading-8">Mailbox</h1>
          <p className="text-[13px] text-quiet">
            Every email that is sent arrives here; nothing leaves this machine.
          </p>
          <input
            aria-label="Search the messages"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            placeholder="Recipient or subject"
            className="mt-2 h-9 w-full rounded-md border border-line bg-paper px-3"
          />
        </div>
        <ul className="min-h-0 flex-1 overflow-y-auto px-2 pb-2">
          {messages?.map((entry) => (
            <li key={entry.id}>
              <NavLink
                to={`/mailbox/${entry.id}`}
                className={({ isActive }) =>
                  `block rounded-md border px-3 py-2 ${isActive ? 'border-line bg-paper' : 'border-transparent hover:bg-paper/60'}`
                }
              >
                <span className="flex gap-2">
                  <span className="min-w-0 flex-1 truncate">{entry.recipient}</span>
                  <span className="shrink-0 text-[12px] text-quiet">{saidInstant(entry.receivedAt)}</span>
                </span>
                <span className="block truncate font-semibold">{entry.subject}</span>
              </NavLink>
            </li>
          ))}
        </ul>
      </section>
      {message && id !== undefined ? (
        <Message key={message.id} message={message} />
      ) : (
        <div className="p-8">
          <Empty title={messages?.length === 0 ? 'No message yet' : 'Choose a message'}>
            {messages?.length === 0 && 'Open an email and use “Send to…”.'}
          </Empty>
        </div>
      )}
    </div>
  );
}

function Message({ message }: { message: MessageRecord }) {
  const [view, setView] = useState<(typeof views)[number]>('Designed');
  return (
    <section aria-label="Message" className="flex min-h-0 flex-col px-6 py-4">
      <div className="flex items-start gap-4">
        <div className="min-w-0 flex-1">
          <h2 className="text-[20px] leading-7">{message.subject}</h2>
          <p className="text-quiet">
            from {message.from} to {message.recipient}
          </p>
        </div>
        <fieldset className="flex shrink-0 rounded-md border border-line">
          <legend className="sr-only">Part of the message</legend>
          {views.map((option) => (
            <button
              key={option}
              type="button"
              aria-pressed={view === option}
              onClick={() => setView(option)}
              className={`h-9 px-3 first:rounded-l-[7px] last:rounded-r-[7px] ${view === option ? 'bg-ink text-paper' : 'text-quiet hover:text-ink'}`}
            >
              {option}
            </button>
          ))}
        </fieldset>
        <a
          href={`/api/mailbox/${message.id}/message.eml`}
          download
          className="inline-flex h-9 shrink-0 items-center gap-2 rounded-md border border-line bg-paper px-3 hover:border-edge"
        >
          <Download size={15} aria-hidden /> .eml
        </a>
      </div>
      <div className="mt-3 min-h-0 flex-1 overflow-hidden rounded-md border border-line bg-paper">
        {view === 'Designed' && (
          // Without permissions of its own: no scripts, no forms, no way out.
          <iframe
            title="The message as designed"
            sandbox=""
            srcDoc={message.html}
            className="h-full w-full bg-white"
          />
        )}
        {view === 'Plain text' && (
          <pre className="h-full overflow-auto whitespace-pre-wrap p-5 font-mono text-[13px] leading-5">
            {message.text}
          </pre>
        )}
        {view === 'Headers' && (
          <dl className="h-full overflow-auto p-5 font-mono text-[13px]">
            {message.headers.map((header, index) => (
              <div key={`${header.name}-${String(index)}`} className="flex gap-3 py-0.5">
                <dt className="w-44 shrink-0 text-quiet">{header.name}</dt>
                <dd className="min-w-0 break-words">{header.value}</dd>
              </div>
            ))}
          </dl>
        )}
      </div>
    </section>
  );
}
