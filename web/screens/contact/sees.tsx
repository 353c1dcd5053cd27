import { Link } from 'react-router';
import { z } from 'zod';
import { seenSchema } from '../../../contract/people.ts';
import { useApi } from '../../data/api.ts';
import { VariantMark } from '../../parts/variant-mark.tsx';

const seenListSchema = z.array(seenSchema);

/** What a contact gets of every page and email that is live, a line each. */
export function Sees({ path }: { path: string }) {
  const { data } = useApi(`${path}/sees`, seenListSchema);
  if (!data) return null;
  return (
    <section aria-label="What this person sees" className="mt-6">
      <h2 className="mb-1 text-[16px]">Sees now</h2>
      {data.length === 0 && <p className="text-quiet">Nothing is live yet.</p>}
      <ul>
        {data.map(({ document, kind, name, slots }) => (
          <li key={document} className="flex items-center gap-2 border-b border-line py-1.5">
            <Link
              to={`/${kind === 'page' ? 'pages' : 'emails'}/${document}`}
              className="min-w-0 flex-1 truncate font-medium hover:underline"
            >
              {name}
            </Link>
            {slots.length === 0 && <span className="text-quiet">the same for all</span>}
            <span className="flex flex-wrap justify-end gap-1">
              {slots.map((slot, index) => (
                <span
                  key={`${slot.name} ${String(index)}`}
                  title={`${slot.name}: ${slot.words || 'nothing'}`}
                >
                  <VariantMark choice={slot.variant} />
                </span>
              ))}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
