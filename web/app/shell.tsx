import { Activity, LogOut, Search } from 'lucide-react';
import { lazy, Suspense, useEffect, useState } from 'react';
import { Link, NavLink, Outlet, useLocation, useNavigation } from 'react-router';
import type { Pending } from '../../contract/releases.ts';
import { usePending } from '../data/data.ts';
import { storeAllWork, storeWorkAgain } from '../data/open-work.ts';
import { useIsOutOfReach } from '../data/reach.ts';
import { Button, IconButton } from '../parts/button.tsx';
import { isTyping } from '../parts/in-text.ts';
import { fetchLateParts } from '../parts/late.ts';
import { Part } from '../parts/part.tsx';
import { AudienceMaker } from './audience-maker.tsx';
import { Commands } from './commands.tsx';
import { FirstSteps } from './first-steps.tsx';
import { useLeaveFieldByEscape } from './leave-field.ts';
import { useOwner } from './owner.ts';
import { ViewerBar } from './viewer-bar.tsx';

// Loaded when they are needed; most visits to the studio begin without.
const ReleaseDialog = lazy(async () => ({
  default: (await import('../screens/releases/release-dialog.tsx')).ReleaseDialog,
}));

const Shortcuts = lazy(async () => ({ default: (await import('./shortcuts.tsx')).Shortcuts }));

const places = [
  ['People', '/people'],
  ['Audiences', '/audiences'],
  ['Pages', '/pages'],
  ['Emails', '/emails'],
  ['Lineup', '/lineup'],
  ['Releases', '/releases'],
] as const;

/** The frame of the studio: navigation on top, the current screen, the viewer bar at the bottom. */
export function Shell() {
  const { name, signOut } = useOwner();
  const [commanding, setCommanding] = useState(false);
  const [releasing, setReleasing] = useState(false);
  const [showsShortcuts, setShowsShortcuts] = useState(false);
  const { data: pending } = usePending();
  // What is live afterwards is what is on screen, down to the last word.
  const release = () => void storeAllWork().then(() => setReleasing(true));
  const { pathname } = useLocation();
  const opened = /^\/(?:pages|emails)\/([^/]+)$/.exec(pathname)?.[1];
  const busy = useNavigation().state === 'loading';
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      fetchLateParts();
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        setCommanding(true);
      } else if (event.key === '?' && !isTyping(event)) setShowsShortcuts(true);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  useLeaveFieldByEscape();
  const isOut = useIsOutOfReach();
  // What is written meanwhile waits for it.
  useEffect(() => {
    if (!isOut) storeWorkAgain();
  }, [isOut]);
  return (
    <div className="flex min-h-full flex-col wide:h-full" onPointerOver={fetchLateParts}>
      <a
        href="#work"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-paper focus:p-2"
      >
        Skip to the work
      </a>
      <header className="flex min-h-12 shrink-0 flex-wrap items-center gap-2 border-b border-line px-4 py-1 wide:flex-nowrap wide:py-0">
        <Link
          to="/people"
          className="mr-2 flex items-center gap-2 whitespace-nowrap font-display text-[15px] font-bold xl:mr-4"
        >
          <img src="/mark.svg" alt="" className="size-7 rounded-md dark:bg-[#f6f2e9]" />
          Apple Porch
        </Link>
        <nav aria-label="Places" className="flex flex-wrap gap-0.5 wide:flex-nowrap">
          {places.map(([label, to]) => (
            <NavLink
              key={to}
              // What is open goes along to where its faces stand side by side.
              to={to === '/lineup' && opened !== undefined ? `/lineup/${opened}` : to}
              className={({ isActive }) =>
                `rounded-md px-2 py-1.5 xl:px-3 ${isActive ? 'bg-paper font-semibold shadow-[0_1px_2px_rgb(0_0_0/6%)]' : 'text-quiet hover:text-ink'}`
              }
            >
              {label}
            </NavLink>
          ))}
        </nav>
        <div className="ml-auto flex flex-wrap items-center gap-x-3 gap-y-1 wide:flex-nowrap">
          <FirstSteps />
          <button
            type="button"
            onClick={() => setCommanding(true)}
            aria-label="Search or run a command"
            className="flex h-8 items-center gap-2 whitespace-nowrap rounded-md border border-line bg-paper px-2.5 text-quiet hover:border-edge xl:w-[160px] 2xl:w-[272px]"
          >
            <Search size={15} aria-hidden />
            <span className="hidden xl:inline 2xl:hidden">Search</span>
            <span className="hidden 2xl:inline">Search or run a command</span>
            <kbd className="ml-auto rounded border border-line px-1 font-sans text-[11px]">Ctrl K</kbd>
          </button>
          <span className="text-[13px] leading-4 text-quiet" role="status">
            {pending && sayWaiting(pending)}
          </span>
          <NavLink
            to="/activity"
            aria-label="Activity"
            title="Activity"
            className={({ isActive }) =>
              `inline-flex size-8 items-center justify-center rounded-md hover:bg-linen ${isActive ? 'text-ink' : 'text-quiet'}`
            }
          >
            <Activity size={16} aria-hidden />
          </NavLink>
          <Button look="primary" className="h-8" onClick={release}>
            Release…
          </Button>
          <IconButton label={`Sign out ${name}`} onClick={signOut}>
            <LogOut size={16} />
          </IconButton>
        </div>
      </header>
      {isOut && (
        <p role="alert" className="shrink-0 border-b border-apple/40 bg-apple-wash px-4 py-2">
          The server or its database can’t be reached. What you write is kept here, and saved when it is back.
        </p>
      )}
      <main id="work" tabIndex={-1} className={`min-h-0 flex-1 outline-none ${busy ? 'opacity-80' : ''}`}>
        <Suspense>
          <Part name="This screen" of={pathname}>
            <AudienceMaker>
              <Outlet />
            </AudienceMaker>
          </Part>
        </Suspense>
      </main>
      <Part name="The viewer bar" of={pathname}>
        <ViewerBar />
      </Part>
      <Commands
        open={commanding}
        onClose={() => setCommanding(false)}
        onRelease={release}
        onShortcuts={() => setShowsShortcuts(true)}
      />
      <Suspense>{showsShortcuts && <Shortcuts open onClose={() => setShowsShortcuts(false)} />}</Suspense>
      <Suspense>{releasing && <ReleaseDialog open onClose={() => setReleasing(false)} />}</Suspense>
    </div>
  );
}

function sayWaiting({ changes, liveRelease }: Pending): string {
  if (changes.length > 0) return `${changes.length} ${changes.length === 1 ? 'change' : 'changes'} not live`;
  return liveRelease === null ? 'nothing is live yet' : 'everything is live';
}
