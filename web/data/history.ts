import { startTransition, useCallback, useEffect, useRef, useState } from 'react';

export interface History<State> {
  past: readonly State[];
  present: State;
  future: readonly State[];
  /** What the last change was of; changes of the same thing in quick succession are one step. */
  group: string | undefined;
  at: number;
}

const mostSteps = 200;
const together = 1200;
/** How long after the last of some changes that are drawn late, in milliseconds. */
const lateAfter = 250;

/**
 * State with undo and redo. Ctrl/Cmd+Z undoes, with Shift (or Ctrl+Y) redoes, outside text fields.
 *
 * A change may be drawn late, where its field shows it by itself and drawing all the rest for every key would hold the keys
 * up: it counts at once all the same, for whatever is done next.
 *
 * @param onChange called at each change, before it is rendered; must be stable
 */
export function useHistory<State>(initial: State, onChange?: (state: State) => void) {
  const [history, setHistory] = useState<History<State>>(() => begun(initial));
  /** What was last changed, which what is drawn may be behind of. */
  const latest = useRef(history);
  /** Draws what is not drawn yet. */
  const late = useRef<ReturnType<typeof setTimeout>>(undefined);
  /** Draws what was changed last. */
  const draw = useCallback(() => {
    clearTimeout(late.current);
    setHistory(latest.current);
  }, []);
  const turn = useCallback(
    (step: (before: History<State>) => History<State>, isLate = false) => {
      const before = latest.current;
      latest.current = step(before);
      clearTimeout(late.current);
      if (isLate) late.current = setTimeout(() => startTransition(draw), lateAfter);
      else draw();
      if (latest.current.present !== before.present) onChange?.(latest.current.present);
    },
    [onChange, draw],
  );
  useEffect(() => () => clearTimeout(late.current), []);
  const change = useCallback(
    (update: (state: State) => State, group?: string, isLate = false) =>
      turn((before) => changed(before, update, group, Date.now()), isLate),
    [turn],
  );
  const undo = useCallback(() => turn(undone), [turn]);
  const redo = useCallback(() => turn(redone), [turn]);
  const reset = useCallback((state: State) => turn(() => begun(state)), [turn]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || isTextField(event)) return;
      const key = event.key.toLowerCase();
      if (key !== 'z' && key !== 'y') return;
      event.preventDefault();
      if (key === 'y' || event.shiftKey) redo();
      else undo();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [undo, redo]);
  const now = useCallback(() => latest.current.present, []);
  return {
    state: history.present,
    /** What was changed last, which `state` may be behind of. */
    now,
    change,
    draw,
    undo,
    redo,
    reset,
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
  };
}

export function begun<State>(present: State): History<State> {
  return { past: [], present, future: [], group: undefined, at: 0 };
}

/**
 * One change more; what was undone is gone. A change that changes nothing is none.
 *
 * @param group what is changed; several changes of it in quick succession are one step
 * @param now in milliseconds
 */
export function changed<State>(
  before: History<State>,
  update: (state: State) => State,
  group: string | undefined,
  now: number,
): History<State> {
  const present = update(before.present);
  if (present === before.present) return before;
  const joins = group !== undefined && group === before.group && now - before.at < together;
  const past = joins ? before.past : [...before.past, before.present].slice(-mostSteps);
  return { past, present, future: [], group, at: now };
}

export function undone<State>(before: History<State>): History<State> {
  const present = before.past.at(-1);
  if (present === undefined) return before;
  const future = [before.present, ...before.future];
  return { past: before.past.slice(0, -1), present, future, group: undefined, at: 0 };
}

export function redone<State>(before: History<State>): History<State> {
  const [present, ...future] = before.future;
  if (present === undefined) return before;
  return { past: [...before.past, before.present], present, future, group: undefined, at: 0 };
}

/** Fields and text editors undo their own typing. */
function isTextField(event: KeyboardEvent): boolean {
  const [target] = event.composedPath();
  if (!(target instanceof HTMLElement)) return false;
  return target.isContentEditable || target.tagName === 'INPUT' || target.tagName === 'TEXTAREA';
}
