import { Fragment } from 'react';
import { Dialog } from '../parts/dialog.tsx';

const groups = [
  {
    heading: 'Anywhere',
    shortcuts: [
      ['Search or run a command', ['Ctrl', 'K']],
      ['Show these shortcuts', ['?']],
      ['Look as someone else', ['V']],
      ['Previous face', ['[']],
      ['Next face', [']']],
      ['Leave a field, close a dialog', ['Esc']],
    ],
  },
  {
    heading: 'While you edit',
    shortcuts: [
      ['Save now', ['Ctrl', 'S']],
      ['Undo', ['Ctrl', 'Z']],
      ['Redo', ['Ctrl', 'Shift', 'Z']],
      ['Bold', ['Ctrl', 'B']],
      ['Italic', ['Ctrl', 'I']],
    ],
  },
  {
    heading: 'Blocks, and parts of a condition',
    shortcuts: [
      ['Insert a block, in an empty text or on the canvas', ['/']],
      ['Copy, cut or paste blocks', ['Ctrl', 'C / X / V']],
      ['Move up or down', ['Alt', '↑ / ↓']],
      ['Move into or out of a group', ['Alt', '→ / ←']],
    ],
  },
] as const;

/** Every keyboard shortcut of the studio. */
export function Shortcuts({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title="Keyboard shortcuts"
      description="On a Mac, press ⌘ for Ctrl."
    >
      {groups.map(({ heading, shortcuts }) => (
        <section key={heading} aria-label={heading} className="mb-4">
          <h3 className="mb-1 text-[14px]">{heading}</h3>
          <dl className="grid grid-cols-[1fr_auto] gap-y-1.5">
            {shortcuts.map(([what, keys]) => (
              <Fragment key={what}>
                <dt>{what}</dt>
                <dd className="flex gap-1">
                  {keys.map((key) => (
                    <kbd
                      key={key}
                      className="rounded border border-edge/60 bg-linen px-1.5 font-sans text-[12px]"
                    >
                      {key}
                    </kbd>
                  ))}
                </dd>
              </Fragment>
            ))}
          </dl>
        </section>
      ))}
    </Dialog>
  );
}
