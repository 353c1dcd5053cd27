import { dequal } from 'dequal';
import { type RefObject, useEffect, useRef, useState } from 'react';

/** How far above and below the window things are measured, in pixels. */
export const viewMargin = 2000;

/**
 * What is measured of the canvas, again whenever its size, its pictures or `when` change, or it was scrolled by half of
 * {@link viewMargin}; undefined before the first time.
 * It is measured in the next frame: doing so at once would make typed words wait for the layout of the whole page.
 */
export function useMeasured<Value>(
  frame: RefObject<HTMLElement | null>,
  measure: (frame: HTMLElement) => Value,
  when: readonly unknown[],
): Value | undefined {
  const [value, setValue] = useState<Value>();
  const latest = useRef(measure);
  latest.current = measure;
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    let waiting = 0;
    let measuredAt = 0;
    const measureSoon = () => {
      cancelAnimationFrame(waiting);
      waiting = requestAnimationFrame(() => {
        measuredAt = element.getBoundingClientRect().top;
        const next = latest.current(element);
        setValue((before) => (dequal(before, next) ? before : next));
      });
    };
    const onScroll = () => {
      if (Math.abs(element.getBoundingClientRect().top - measuredAt) > viewMargin / 2) measureSoon();
    };
    measureSoon();
    const observer = new ResizeObserver(measureSoon);
    observer.observe(element);
    for (const child of element.children) observer.observe(child);
    element.addEventListener('load', measureSoon, true);
    // What scrolls is somewhere around the canvas.
    document.addEventListener('scroll', onScroll, true);
    return () => {
      cancelAnimationFrame(waiting);
      observer.disconnect();
      element.removeEventListener('load', measureSoon, true);
      document.removeEventListener('scroll', onScroll, true);
    };
  }, [frame, ...when]);
  return value;
}
