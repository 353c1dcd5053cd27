import { CalendarClock, ChevronLeft, ChevronRight, Monitor, Smartphone, Tablet } from 'lucide-react';
import { ToggleGroup } from 'radix-ui';
import { lazy, Suspense, useEffect, useState } from 'react';
import { settingsSchema } from '../../contract/releases.ts';
import { formatValue } from '../../core/attributes/format.ts';
import { type Device, devices } from '../../core/attributes/viewer.ts';
import { useApi } from '../data/api.ts';
import { useCatalogue } from '../data/data.ts';
import { noteLook } from '../data/first-steps.ts';
import { lookOf, personLabel, useLooking } from '../data/looking.tsx';
import { momentLabel } from '../data/moment.ts';
import { Button, IconButton } from '../parts/button.tsx';
import { isTyping } from '../parts/in-text.ts';
import { Initials } from '../parts/person.tsx';
import { PersonSearch } from '../parts/person-search.tsx';
import { Popover } from '../parts/popover.tsx';
import { Select } from '../parts/select.tsx';
import { VisitMenu } from './visit-menu.tsx';

const MomentField = lazy(async () => ({ default: (await import('./moment-field.tsx')).MomentField }));

const deviceIcons: Record<Device, typeof Monitor> = { computer: Monitor, tablet: Tablet, phone: Smartphone };

/** Whom, on what and when you are looking as; the same on every screen. */
export function ViewerBar() {
  const { look, change } = useLooking();
  const { name, state } = personLabel(look);
  return (
    <section
      aria-label="Looking as"
      className="porch-edge flex min-h-[58px] shrink-0 flex-wrap items-center gap-x-3 gap-y-2 bg-paper px-4 py-2 wide:h-[58px] wide:flex-nowrap wide:py-0"
    >
      <Initials name={look.person?.name ?? null} large />
      <div className="min-w-0 max-w-[250px]">
        <div className="truncate">
          <strong>{name}</strong> <span className="text-quiet">— {state}</span>
        </div>
        <PersonFacts />
      </div>
      <WhoMenu />
      <ToggleGroup.Root
        type="single"
        aria-label="Device"
        value={devices.find((device) => device === look.visit?.['visit-device']) ?? look.device}
        onValueChange={(value) => {
          const device = devices.find((known) => known === value);
          if (device) change({ device, visit: withoutDevice(look.visit) });
        }}
        className="flex rounded-md border border-line"
      >
        {devices.map((device) => {
          const Icon = deviceIcons[device];
          return (
            <ToggleGroup.Item
              key={device}
              value={device}
              aria-label={device}
              title={device}
              className="flex h-8 w-9 items-center justify-center text-quiet first:rounded-l-[7px] last:rounded-r-[7px] data-[state=on]:bg-ink data-[state=on]:text-paper"
            >
              <Icon size={16} />
            </ToggleGroup.Item>
          );
        })}
      </ToggleGroup.Root>
      <VisitMenu />
      <MomentMenu />
      <Steps />
    </section>
  );
}

/** A device chosen in the bar stands before one that a face brought along. */
function withoutDevice(visit: Record<string, unknown> | null): Record<string, unknown> | null {
  if (!visit) return null;
  const { 'visit-device': _device, ...rest } = visit;
  return Object.keys(rest).length > 0 ? rest : null;
}

function PersonFacts() {
  const { look } = useLooking();
  const catalogue = useCatalogue();
  if (!look.person || !catalogue)
    return (
      <div className="truncate text-[12px] leading-4 text-quiet">no contact, every attribute missing</div>
    );
  const facts = ['tier', 'plan', 'city', 'stage'].flatMap((id) => {
    const [attribute, value] = [catalogue.get(id), look.person?.values[id]];
    return attribute && typeof value === 'string' ? [formatValue(attribute, value)] : [];
  });
  return (
    <div className="truncate text-[12px] leading-4 text-quiet">
      {facts.slice(0, 3).join(' · ') || look.person.email}
    </div>
  );
}

function WhoMenu() {
  const { look, lookAs, change } = useLooking();
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'v' || isTyping(event)) return;
      event.preventDefault();
      setOpen(true);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <>
      <Popover
        label="Someone else"
        side="top"
        className="w-[340px] p-2"
        open={open}
        onOpenChange={setOpen}
        trigger={
          <Button className="h-8">
            Someone else{' '}
            <kbd className="rounded border border-line px-1 font-sans text-[11px] text-quiet">V</kbd>
          </Button>
        }
      >
        <PersonSearch
          label="Look as"
          onAnonymous={() => {
            lookAs(null);
            setOpen(false);
          }}
          onChoose={(person) => {
            lookAs(person);
            setOpen(false);
          }}
        />
      </Popover>
      {look.person && (
        <Select
          aria-label="Signed in or recognised"
          value={look.signedIn ? 'signed-in' : 'recognised'}
          onChange={(how) => change({ signedIn: how === 'signed-in' })}
          className="h-8"
          options={[
            { value: 'signed-in', label: 'signed in' },
            { value: 'recognised', label: 'recognised' },
          ]}
        />
      )}
    </>
  );
}

function MomentMenu() {
  const { look, change, viewer } = useLooking();
  const [open, setOpen] = useState(false);
  const { data: settings } = useApi('/settings', settingsSchema);
  const zone = settings?.zone ?? 'UTC';
  return (
    <Popover
      label="Date and time"
      side="top"
      className="w-[300px] p-3"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <Button className="h-8" icon={<CalendarClock size={15} aria-hidden />}>
          {look.instant === null && look.faceInstant === null ? 'Now' : momentLabel(viewer.instant, zone)}
        </Button>
      }
    >
      <Suspense>
        <MomentField zone={zone} />
      </Suspense>
      <Button
        className="mt-2"
        disabled={look.instant === null && look.faceInstant === null}
        onClick={() => change({ instant: null, faceInstant: null })}
      >
        Back to now
      </Button>
    </Popover>
  );
}

/** Steps through the faces of what is open; `[` and `]` do the same. */
function Steps() {
  const { steps, current, change } = useLooking();
  const at = steps.findIndex((step) => step.key === current);
  useEffect(() => {
    const go = (by: number) => {
      const step = steps[at < 0 ? (by > 0 ? 0 : steps.length - 1) : (at + by + steps.length) % steps.length];
      if (!step) return;
      if (step.person) noteLook(step.person.id);
      change(lookOf(step));
    };
    const onKey = (event: KeyboardEvent) => {
      if ((event.key !== '[' && event.key !== ']') || isTyping(event)) return;
      event.preventDefault();
      go(event.key === ']' ? 1 : -1);
    };
    const onStep = (event: Event) => go(event instanceof CustomEvent && event.detail === -1 ? -1 : 1);
    window.addEventListener('keydown', onKey);
    window.addEventListener('porch-step', onStep);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('porch-step', onStep);
    };
  }, [steps, at, change]);
  if (steps.length === 0) return null;
  const step = (by: 1 | -1) => window.dispatchEvent(new CustomEvent('porch-step', { detail: by }));
  return (
    <div className="ml-auto flex min-w-0 items-center gap-3">
      <div className="min-w-0 text-right">
        <div className="truncate font-semibold" title={steps[at]?.label}>
          {at < 0 ? `${steps.length} faces` : `Face ${at + 1} of ${steps.length}`}
        </div>
        <div className="truncate text-[12px] leading-4 text-quiet">
          {steps[at]?.note ?? 'step through them'}
        </div>
      </div>
      <div className="flex rounded-md border border-line">
        <IconButton label="Previous face ([)" className="size-8" onClick={() => step(-1)}>
          <ChevronLeft size={16} />
        </IconButton>
        <IconButton label="Next face (])" className="size-8" onClick={() => step(1)}>
          <ChevronRight size={16} />
        </IconButton>
      </div>
    </div>
  );
}
