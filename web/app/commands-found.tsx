import { Command } from 'cmdk';
import {
  Code,
  Columns3,
  FilePlus,
  FileText,
  History,
  Inbox,
  Keyboard,
  LayoutGrid,
  ListChecks,
  Mail,
  MailPlus,
  RefreshCw,
  Rocket,
  Settings2,
  ShieldCheck,
  Tags,
  Upload,
  UserPlus,
  UserRound,
  Users,
  Waypoints,
} from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { contactPageSchema } from '../../contract/people.ts';
import { useApi } from '../data/api.ts';
import { useAudiences, useDocuments } from '../data/data.ts';
import { useLooking } from '../data/looking.tsx';

export interface CommandsProps {
  onClose: () => void;
  onRelease: () => void;
  onShortcuts: () => void;
}

/** What can be made, and where one can go. */
const places = [
  ['New page', '/pages?new', FilePlus],
  ['New email', '/emails?new', MailPlus],
  ['New shared content', '/shared?new', FilePlus],
  ['New audience', '/audiences/new', Users],
  ['New collection', '/collections?new', LayoutGrid],
  ['Add contact', '/people?new', UserPlus],
  ['Import people', '/people/import', Upload],
  ['Page from HTML', '/pages?html', Code],
  ['Compare audiences', '/audiences/compare', Users],
  ['Attributes', '/people/attributes', Tags],
  ['Data rules', '/people/facts', ShieldCheck],
  ['CRM sync', '/people/sync', RefreshCw],
  ['Collections', '/collections', LayoutGrid],
  ['Site settings', '/site-settings', Settings2],
  ['Other sites', '/other-sites', Waypoints],
  ['Lineup', '/lineup', Columns3],
  ['Releases', '/releases', History],
  ['Background activity', '/activity', ListChecks],
  ['Open mailbox', '/mailbox', Inbox],
] as const;

const item = 'flex cursor-pointer items-center gap-2.5 rounded-md px-3 py-2 data-[selected=true]:bg-linen';
const group =
  '[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:text-[12px] [&_[cmdk-group-heading]]:text-quiet';

/** What can be found and done, with what was typed before the list was here. */
export function Found({ onClose, onRelease, onShortcuts, typed }: CommandsProps & { typed: string }) {
  const [search, setSearch] = useState(typed);
  const navigate = useNavigate();
  const { lookAs } = useLooking();
  const { data: audiences = [], isLoading: audiencesLoad } = useAudiences();
  const { data: documents = [], isLoading: documentsLoad } = useDocuments();
  const { data: people, isLoading: isSearching } = useApi(
    search.length >= 2 ? `/contacts?search=${encodeURIComponent(search)}` : null,
    contactPageSchema,
  );
  const isComplete = !audiencesLoad && !documentsLoad && !isSearching;
  const { list, onKeyDown } = useEarlyEnter(isComplete);
  const go = (to: string) => () => {
    onClose();
    void navigate(to);
  };
  return (
    <Command label="Search or run a command">
      <Command.Input
        autoFocus
        value={search}
        onValueChange={setSearch}
        onKeyDown={onKeyDown}
        placeholder="Search people, audiences, pages, emails and commands"
        className="h-12 w-full border-b border-line bg-paper px-4 outline-none"
      />
      <Command.List ref={list} className="max-h-[420px] overflow-y-auto p-2">
        <Command.Empty className="px-3 py-4 text-quiet">No matches.</Command.Empty>
        <Command.Group heading="Do" className={group}>
          <Command.Item
            className={item}
            onSelect={() => {
              onClose();
              onRelease();
            }}
          >
            <Rocket size={15} aria-hidden /> Release changes…
          </Command.Item>
          {places.map(([label, to, Icon]) => (
            <Command.Item key={to} className={item} onSelect={go(to)}>
              <Icon size={15} aria-hidden /> {label}
            </Command.Item>
          ))}
          <Command.Item
            className={item}
            onSelect={() => {
              lookAs(null);
              onClose();
            }}
          >
            <UserRound size={15} aria-hidden /> Look as anonymous
          </Command.Item>
          <Command.Item
            className={item}
            onSelect={() => {
              onClose();
              onShortcuts();
            }}
          >
            <Keyboard size={15} aria-hidden /> Keyboard shortcuts
          </Command.Item>
        </Command.Group>
        <Command.Group heading="Pages and emails" className={group}>
          {documents.map((document) => (
            <Command.Item
              key={document.id}
              value={`${document.name} ${document.kind}`}
              className={item}
              onSelect={go(`/${document.kind === 'shared' ? 'shared' : `${document.kind}s`}/${document.id}`)}
            >
              {document.kind === 'email' ? (
                <Mail size={15} aria-hidden />
              ) : (
                <FileText size={15} aria-hidden />
              )}
              {document.name}
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Audiences" className={group}>
          {audiences.map((audience) => (
            <Command.Item
              key={audience.id}
              value={`${audience.name} audience`}
              className={item}
              onSelect={go(`/audiences/${audience.id}`)}
            >
              <Users size={15} aria-hidden /> {audience.name}
            </Command.Item>
          ))}
        </Command.Group>
        {people && people.contacts.length > 0 && (
          <Command.Group heading="People" className={group} forceMount>
            {people.contacts.slice(0, 8).map((person) => (
              <Command.Item
                key={person.id}
                value={`${person.name} ${person.email} ${search}`}
                className={item}
                onSelect={go(`/people/${person.id}`)}
              >
                <UserRound size={15} aria-hidden /> {person.name}
                <span className="text-quiet">{person.email}</span>
              </Command.Item>
            ))}
          </Command.Group>
        )}
      </Command.List>
    </Command>
  );
}

/** Enter that is pressed before what is found is on screen is not lost: it chooses the first of it then. */
function useEarlyEnter(isComplete: boolean) {
  const list = useRef<HTMLDivElement>(null);
  const [pressed, setPressed] = useState(false);
  useEffect(() => {
    if (!pressed || !isComplete) return;
    // Once what arrived is drawn and put in order.
    const drawn = requestAnimationFrame(() => {
      setPressed(false);
      marked(list.current)?.click();
    });
    return () => cancelAnimationFrame(drawn);
  }, [pressed, isComplete]);
  return {
    list,
    onKeyDown: ({ key }: React.KeyboardEvent) => {
      setPressed(key === 'Enter' && marked(list.current) === null);
    },
  };
}

function marked(list: HTMLElement | null): HTMLElement | null {
  return list?.querySelector<HTMLElement>('[cmdk-item][aria-selected="true"]') ?? null;
}
