import { wasIn } from './been-in.ts';
import { beginScreen } from './screens.ts';

// Everything that will be needed begins to load at once, before any of it runs. Whoever was here before is most likely
// signed in still; nothing waits for the answer who it is.
void import('./door.tsx');
if (wasIn()) {
  void import('./app.tsx');
  beginScreen(window.location.pathname);
} else void import('../screens/sign-in/sign-in.tsx');
