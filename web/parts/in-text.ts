/** Whether a key press belongs to a field or a text that is edited, also inside a shadow root. */
export function isInText(event: KeyboardEvent): boolean {
  return event
    .composedPath()
    .some(
      (target) =>
        target instanceof HTMLElement &&
        (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName)),
    );
}

/** Whether a single letter means something else where it is pressed: in a text, in a dialog, or with a modifier key. */
export function isTyping(event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey || isInText(event)) return true;
  return event.target instanceof HTMLElement && event.target.closest('[role=dialog]') !== null;
}
