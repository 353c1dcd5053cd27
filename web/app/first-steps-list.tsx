import { Circle, CircleCheck } from 'lucide-react';
import { Link } from 'react-router';
import { type FirstStep, firstSteps, hideFirstSteps, useFirstSteps } from '../data/first-steps.ts';
import { TextButton } from '../parts/button.tsx';

const steps: { readonly [step in FirstStep]: { title: string; how: string; to: string; link: string } } = {
  people: {
    title: 'Bring in your people',
    how: 'Import a file of contacts, or add one by hand.',
    to: '/people/import',
    link: 'Import people',
  },
  audience: {
    title: 'Name an audience',
    how: 'Describe a group once, such as members who renew soon, and use it everywhere.',
    to: '/audiences/new',
    link: 'New audience',
  },
  variant: {
    title: 'Make something differ',
    how: 'Select a block on a page, and give an audience a variant of its own.',
    to: '/pages',
    link: 'Choose a page',
  },
  look: {
    title: 'Look as three people',
    how: 'Press V on any page: it shows exactly what the person you choose gets.',
    to: '/pages',
    link: 'Choose a page',
  },
  release: {
    title: 'Release',
    how: 'Check who gets something else, and make your changes live.',
    to: '/releases',
    link: 'Releases',
  },
};

/** The newcomer's list: what is done, and how the rest is done. */
export function Steps({ onClose }: { onClose: () => void }) {
  const { done } = useFirstSteps();
  return (
    <>
      <ol className="flex flex-col gap-3">
        {firstSteps.map((step) => {
          const { title, how, to, link } = steps[step];
          const isDone = done.includes(step);
          const Mark = isDone ? CircleCheck : Circle;
          return (
            <li key={step} className="flex gap-2.5">
              <Mark
                size={18}
                role="img"
                aria-label={isDone ? 'Done' : 'To do'}
                className={`mt-px shrink-0 ${isDone ? 'text-leaf' : 'text-quiet'}`}
              />
              <div>
                <p className={isDone ? 'text-quiet' : 'font-semibold'}>{title}</p>
                {!isDone && (
                  <p className="text-quiet">
                    {how}{' '}
                    <Link to={to} onClick={onClose} className="text-ink underline underline-offset-2">
                      {link}
                    </Link>
                  </p>
                )}
              </div>
            </li>
          );
        })}
      </ol>
      <p className="mt-4 border-t border-line pt-3 text-quiet">
        <TextButton
          onClick={() => {
            onClose();
            hideFirstSteps();
          }}
        >
          Hide this list
        </TextButton>
      </p>
    </>
  );
}
