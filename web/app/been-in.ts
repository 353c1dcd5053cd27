/** Says in this browser that somebody was signed in when the studio was open last. */
const key = 'apple-porch-been-in';

export function wasIn(): boolean {
  return localStorage.getItem(key) !== null;
}

export function noteIn(isIn: boolean): void {
  if (isIn) localStorage.setItem(key, 'yes');
  else localStorage.removeItem(key);
}
