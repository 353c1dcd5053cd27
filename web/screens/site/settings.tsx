import { dequal } from 'dequal';
import { ChevronLeft } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { settingsSchema } from '../../../contract/releases.ts';
import { type SiteSettings, type Theme, typefaces } from '../../../core/deciding/release.ts';
import { contrast } from '../../../core/rendering/contrast.ts';
import { namedThemes } from '../../../core/rendering/themes.ts';
import { call, messageOf, useApi } from '../../data/api.ts';
import { useAudiences, useDocuments } from '../../data/data.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button } from '../../parts/button.tsx';
import { TextField } from '../../parts/field.tsx';
import { Notice } from '../../parts/notice.tsx';
import { SelectField } from '../../parts/select-field.tsx';
import { toast } from '../../parts/toast.tsx';
import { useUnsavedChanges } from '../../parts/unsaved-changes.tsx';
import { MenuEditor } from './menu-editor.tsx';
import { OwnPageWords } from './own-page-words.tsx';

const zones = Intl.supportedValuesOf('timeZone');
const languages = [
  'en-GB',
  'en-US',
  'en-IE',
  'de-DE',
  'fr-FR',
  'es-ES',
  'it-IT',
  'nl-NL',
  'pt-PT',
  'sv-SE',
  'pl-PL',
];
const nameOfLanguage = new Intl.DisplayNames('en-GB', { type: 'language' });
const typefaceWords: Record<(typeof typefaces)[number], string> = {
  display: 'a display face',
  plain: 'the same as the text',
  serif: 'a serif face',
};

export function Component() {
  const { data } = useApi('/settings', settingsSchema);
  useTabTitle('Site settings');
  return data ? <SiteForm key={JSON.stringify(data)} stored={data} /> : null;
}

/** What holds for the whole site. */
function SiteForm({ stored }: { stored: SiteSettings }) {
  const { data: documents = [] } = useDocuments();
  const { data: audiences = [] } = useAudiences();
  const [draft, setDraft] = useState(stored);
  const [problem, setProblem] = useState<string>();
  const unsaved = useUnsavedChanges(() => !dequal(draft, stored));
  const pages = documents.filter(({ kind, collection }) => kind === 'page' && !collection);
  const set = (change: Partial<SiteSettings>) => setDraft({ ...draft, ...change });
  const setOwnPages = (ownPages: SiteSettings['ownPages']) => {
    const { ownPages: _, ...rest } = draft;
    setDraft(ownPages ? { ...rest, ownPages } : rest);
  };
  const store = async () => {
    setProblem(undefined);
    try {
      await call('PUT', '/settings', settingsSchema, { before: stored, settings: draft });
      toast.success('The settings are saved. They go live with the next release.');
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const pageOptions = [
    { value: '', label: 'default' },
    ...pages.map(({ id, name }) => ({ value: id, label: name })),
  ];
  return (
    <div className="h-full overflow-y-auto px-7 py-5">
      {unsaved.question}
      <Link to="/pages" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
        <ChevronLeft size={15} aria-hidden /> All pages
      </Link>
      <div className="mt-1 flex items-center gap-4">
        <h1 className="text-[26px] leading-9">The site</h1>
        <Button look="primary" className="ml-auto" disabled={dequal(draft, stored)} onClick={store}>
          {dequal(draft, stored) ? 'Saved' : 'Save'}
        </Button>
      </div>
      {problem !== undefined && <Notice kind="wrong" title={problem} />}
      <div className="mt-3 grid max-w-5xl grid-cols-1 wide:grid-cols-3 gap-8">
        <section aria-label="General" className="flex flex-col gap-2">
          <h2 className="text-[16px]">General</h2>
          <TextField
            label="Name"
            value={draft.name}
            maxLength={120}
            onChange={(event) => set({ name: event.target.value })}
          />
          <SelectField
            label="Time zone"
            value={draft.zone}
            options={[...new Set([draft.zone, ...zones])].map((zone) => ({ value: zone, label: zone }))}
            onChange={(zone) => set({ zone })}
          />
          <SelectField
            label="Language"
            value={draft.locale}
            options={[...new Set([draft.locale, ...languages])].map((tag) => ({
              value: tag,
              label: nameOfLanguage.of(tag) ?? tag,
            }))}
            onChange={(locale) => set({ locale })}
          />
          <TextField
            label="Postal address, at the foot of every page and email"
            value={draft.postalAddress}
            maxLength={300}
            onChange={(event) => set({ postalAddress: event.target.value })}
          />
          <TextField
            label="Address that emails come from"
            type="email"
            value={draft.fromAddress}
            onChange={(event) => set({ fromAddress: event.target.value })}
          />
        </section>
        <section aria-label="Navigation" className="flex flex-col gap-2">
          <h2 className="text-[16px]">Navigation</h2>
          <MenuEditor
            menu={draft.menu ?? pages.filter(({ slug }) => slug !== '').map(({ slug }) => slug)}
            pages={pages}
            audiences={audiences}
            onChange={(menu) => set({ menu })}
          />
          <SelectField
            label="Not-found page"
            value={draft.notFoundPage ?? ''}
            options={pageOptions}
            onChange={(id) => set({ notFoundPage: id === '' ? null : id })}
          />
          <SelectField
            label="Page after signing in"
            value={draft.afterSignIn ?? ''}
            options={[{ value: '', label: 'the home page' }, ...pageOptions.slice(1)]}
            onChange={(id) => set({ afterSignIn: id === '' ? null : id })}
          />
        </section>
        <div className="flex flex-col gap-8">
          <section aria-label="Colours and fonts" className="flex flex-col gap-2">
            <h2 className="text-[16px]">Colours and fonts</h2>
            {draft.theme ? (
              <ThemeEditor
                theme={draft.theme}
                onChange={(theme) => set({ theme })}
                onRemove={() => {
                  const { theme: _, ...rest } = draft;
                  setDraft(rest);
                }}
              />
            ) : (
              <>
                <p className="text-quiet">The site uses the default colours and fonts.</p>
                <ThemeChoice theme={undefined} onChoose={(theme) => set({ theme })} />
              </>
            )}
          </section>
          <section aria-label="Sign-in and other pages" className="flex flex-col gap-2">
            <h2 className="text-[16px]">Sign-in and other pages</h2>
            <OwnPageWords words={draft.ownPages} onChange={setOwnPages} />
          </section>
        </div>
      </div>
    </div>
  );
}

/** The themes that come with the program, each as a sample of itself. */
function ThemeChoice({ theme, onChoose }: { theme: Theme | undefined; onChoose: (theme: Theme) => void }) {
  return (
    <fieldset className="grid grid-cols-3 gap-2">
      <legend className="mb-1 text-quiet">Start from a theme</legend>
      {namedThemes.map(({ name, theme: offered }) => {
        const isChosen = dequal(theme, offered);
        return (
          <button
            key={name}
            type="button"
            aria-pressed={isChosen}
            onClick={() => onChoose(offered)}
            className={`flex flex-col gap-1.5 rounded-md border p-2.5 text-left ${isChosen ? 'border-ink ring-1 ring-ink' : 'border-line hover:border-edge'}`}
            style={{ background: offered.ground, color: offered.ink }}
          >
            <span className="font-semibold">{name}</span>
            <span
              aria-hidden
              className="self-start rounded px-2 text-[12px]"
              style={{ background: offered.accent, color: offered.onAccent }}
            >
              Button
            </span>
          </button>
        );
      })}
    </fieldset>
  );
}

const colours = [
  ['ground', 'Background'],
  ['ink', 'Text'],
  ['panel', 'Panels'],
  ['accent', 'Buttons and links'],
  ['onAccent', 'Text on buttons'],
] as const;
/** Which colours stand on each other; at least 4.5 to 1 is asked for (WCAG 2.2, 1.4.3). */
const pairs = [
  ['ink', 'ground', 'text on the background'],
  ['ink', 'panel', 'text on panels'],
  ['accent', 'ground', 'links on the background'],
  ['onAccent', 'accent', 'text on buttons'],
] as const;

function ThemeEditor({
  theme,
  onChange,
  onRemove,
}: {
  theme: Theme;
  onChange: (theme: Theme) => void;
  onRemove: () => void;
}) {
  return (
    <>
      <ThemeChoice theme={theme} onChoose={onChange} />
      <div className="grid grid-cols-2 gap-2">
        {colours.map(([key, label]) => (
          <label key={key} className="flex items-center gap-2">
            <input
              type="color"
              className="h-8 w-10 rounded border border-line"
              value={theme[key]}
              onChange={(event) => onChange({ ...theme, [key]: event.target.value })}
            />
            {label}
          </label>
        ))}
      </div>
      <ul aria-label="Contrast">
        {pairs.map(([front, back, label]) => {
          const ratio = contrast(theme[front], theme[back]);
          const enough = ratio >= 4.5;
          return (
            <li key={label} className="flex items-center gap-2 py-0.5">
              <span
                aria-hidden
                className="rounded px-1.5 font-semibold"
                style={{ color: theme[front], background: theme[back] }}
              >
                Aa
              </span>
              {label}
              <span className={`ml-auto ${enough ? 'text-quiet' : 'font-semibold text-apple'}`}>
                {ratio.toFixed(1)} to 1{!enough && ', too little'}
              </span>
            </li>
          );
        })}
      </ul>
      <SelectField
        label="Headings in"
        value={theme.headings}
        options={typefaces.map((face) => ({ value: face, label: typefaceWords[face] }))}
        onChange={(headings) => onChange({ ...theme, headings })}
      />
      <TextField
        label="Sections stand side by side from a width of"
        type="number"
        min={320}
        max={1600}
        value={theme.wideFrom}
        onChange={(event) => onChange({ ...theme, wideFrom: Number(event.target.value) || 320 })}
      />
      <Button look="quiet" onClick={onRemove}>
        Reset to the defaults
      </Button>
    </>
  );
}
