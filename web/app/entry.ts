import { beginScreen } from './screens.ts';

// Everything that will be needed begins to load at once, before any of it runs: the studio or the sign-in screen, as the
// page says who is signed in. Where it does not say, most likely somebody is.
void import('./door.tsx');
const told = document.getElementById('session')?.textContent;
if (!told || JSON.parse(told).account) {
  void import('./app.tsx');
  beginScreen(window.location.pathname);
} else void import('../screens/sign-in/sign-in.tsx');
