import type { DndContextProps } from '@dnd-kit/core';

/**
 * Announcements for screen readers while something is dragged or moved by keyboard.
 *
 * @param nameOf the name of a thing that is dragged, or dropped on, by its id
 */
export function dragWords(nameOf: (id: string) => string): NonNullable<DndContextProps['accessibility']> {
  const over = (id: string | number | undefined) => (id === undefined ? '' : nameOf(String(id)));
  return {
    container: document.body,
    screenReaderInstructions: {
      draggable:
        'Press Space to pick it up, the arrow keys to move it, Space to put it down, Escape to cancel.',
    },
    announcements: {
      onDragStart: ({ active }) => `Picked up ${nameOf(String(active.id))}.`,
      onDragOver: ({ active, over: place }) =>
        place
          ? `${nameOf(String(active.id))} is at ${over(place.id)}.`
          : `${nameOf(String(active.id))} is nowhere it can go.`,
      onDragEnd: ({ active, over: place }) =>
        place
          ? `${nameOf(String(active.id))} was put down at ${over(place.id)}.`
          : `${nameOf(String(active.id))} was put back.`,
      onDragCancel: ({ active }) => `${nameOf(String(active.id))} was put back.`,
    },
  };
}

/** The same for one thing that can be put down anywhere. */
export function plainDragWords(name: string): NonNullable<DndContextProps['accessibility']> {
  return {
    // Elsewhere it would be read as a part of what is dragged around.
    container: document.body,
    screenReaderInstructions: { draggable: 'Hold Alt and press an arrow key to move it.' },
    announcements: {
      onDragStart: () => `Picked up ${name}.`,
      onDragOver: () => undefined,
      onDragEnd: () => `${name} was put down.`,
      onDragCancel: () => `${name} was put back.`,
    },
  };
}
