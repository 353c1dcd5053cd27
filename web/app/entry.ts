import { askEarly } from '../data/early.ts';
import { beginScreen, firstRequests } from './screens.ts';

// Everything that will be needed begins to load at once, before any of it runs: the studio or the sign-in screen, as the
// page says who is signed in. Where it does not say, most likely somebody is.
void import('./door.tsx');
const session = document.getElementById('session');
const sessionText = session?.textContent;
const account = sessionText && JSON.parse(sessionText).account;
if (!sessionText || account) {
  if (account) askEarly(firstRequests(window.location), account.email, session.dataset.position ?? '0');
  void import('./app.tsx');
  beginScreen(window.location.pathname);
} else void import('../screens/sign-in/sign-in.tsx');
