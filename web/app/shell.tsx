import { LogOut, Search } from 'lucide-react';
import { lazy, Suspense, useEffect, useState } from 'react';
import { Link, NavLink, Outlet, useNavigation } from 'react-router';
import { sessionSchema } from '../../contract/session.ts';
import { Button, IconButton } from '../parts/button.tsx';
import { callWithoutAnswer, refresh, useApi } from './api.ts';
import { Commands } from './commands.tsx';
import { usePending } from './data.ts';
import { ViewerBar } from './viewer-bar.tsx';

// Loaded when they are needed; most visits to the studio begin with neither.
const SignIn = lazy(async () => ({ default: (await import('../screens/sign-in/sign-in.tsx')).SignIn }));
const ReleaseDialog = lazy(async () => ({
  default: (await import('../screens/releases/release-dialog.tsx')).ReleaseDialog,
}));

const places = [
  ['People', '/people'],
  ['Audiences', '/audiences'],
  ['Pages', '/pages'],
  ['Emails', '/emails'],
  ['Lineup', '/lineup'],
  ['Releases', '/releases'],
] as const;

/** The window: places above, the work in the middle, whom you look as below. */
export function Shell() {
  const { data: session, error } = useApi('/session', sessionSchema);
  if (error) return <p className="p-8">{error.message}</p>;
  if (!session) return null;
  if (!session.account)
    return (
      <Suspense>
        <SignIn demo={session.demo} />
      </Suspense>
    );
  return <SignedIn name={session.account.name} />;
}

function SignedIn({ name }: { name: string }) {
  const [commanding, setCommanding] = useState(false);
  const [releasing, setReleasing] = useState(false);
  const { data: pending } = usePending();
  const busy = useNavigation().state === 'loading';
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        setCommanding(true);
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const waiting = pending?.changes.length ?? 0;
  return (
    <div className="flex h-full min-w-[960px] flex-col">
      <a
        href="#work"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-paper focus:p-2"
      >
        Skip to the work
      </a>
      <header className="flex h-12 shrink-0 items-center gap-2 border-b border-line px-4">
        <Link to="/people" className="mr-4 flex items-center gap-2 font-display text-[15px] font-bold">
          <img src="/mark.svg" alt="" className="size-7 rounded-md dark:bg-[#f6f2e9]" />
          Apple Porch
        </Link>
        <nav aria-label="Places" className="flex gap-0.5">
          {places.map(([label, to]) => (
            <NavLink
              key={to}
              to={to}
              className={({ isActive }) =>
                `rounded-md px-3 py-1.5 ${isActive ? 'bg-paper font-semibold shadow-[0_1px_2px_rgb(0_0_0/6%)]' : 'text-quiet hover:text-ink'}`
              }
            >
              {label}
            </NavLink>
          ))}
        </nav>
        <div className="ml-auto flex items-center gap-3">
          <button
            type="button"
            onClick={() => setCommanding(true)}
            className="flex h-8 w-48 items-center gap-2 rounded-md border border-line bg-paper px-2.5 text-quiet hover:border-edge"
          >
            <Search size={15} aria-hidden />
            Find or do…
            <kbd className="ml-auto rounded border border-line px-1 font-sans text-[11px]">Ctrl K</kbd>
          </button>
          <span className="text-[13px] text-quiet" role="status">
            {waiting === 0
              ? 'everything is live'
              : `${waiting} ${waiting === 1 ? 'change' : 'changes'} not live`}
          </span>
          <Button look="primary" className="h-8" onClick={() => setReleasing(true)}>
            Release…
          </Button>
          <IconButton label={`Sign out ${name}`} onClick={signOut}>
            <LogOut size={16} />
          </IconButton>
        </div>
      </header>
      <main id="work" tabIndex={-1} className={`min-h-0 flex-1 outline-none ${busy ? 'opacity-80' : ''}`}>
        <Suspense>
          <Outlet />
        </Suspense>
      </main>
      <ViewerBar />
      <Commands open={commanding} onClose={() => setCommanding(false)} onRelease={() => setReleasing(true)} />
      <Suspense>{releasing && <ReleaseDialog open onClose={() => setReleasing(false)} />}</Suspense>
    </div>
  );
}

async function signOut() {
  await callWithoutAnswer('DELETE', '/session');
  refresh('/');
}
