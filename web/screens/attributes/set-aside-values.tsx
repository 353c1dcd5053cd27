import { useState } from 'react';
import { Link } from 'react-router';
import { setAsideCountsSchema, setAsideSchema } from '../../../contract/attributes.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import { callWithoutAnswer, messageOf, useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { TextButton } from '../../parts/button.tsx';
import { Confirm } from '../../parts/confirm.tsx';
import { Notice } from '../../parts/notice.tsx';
import { ScrollList } from '../../parts/scroll-list.tsx';
import { toast } from '../../parts/toast.tsx';

/** How many values of each attribute were taken out because they did not fit. */
export function useSetAside(): { readonly [attribute: string]: number } {
  return useApi('/set-aside', setAsideCountsSchema).data ?? {};
}

/** Values that an update took out because the attribute does not allow them, until somebody has looked after them. */
export function SetAsideValues({ attribute }: { attribute: Attribute }) {
  const some = (useSetAside()[attribute.id] ?? 0) > 0;
  const { data } = useApi(some ? `/attributes/${attribute.id}/set-aside` : null, setAsideSchema);
  const [asking, setAsking] = useState(false);
  if (!data || data.count === 0) return null;
  const forget = async () => {
    setAsking(false);
    try {
      await callWithoutAnswer('DELETE', `/attributes/${attribute.id}/set-aside`);
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  return (
    <div className="mt-4 max-w-2xl">
      <Notice
        kind="careful"
        title={`${count(data.count)} ${data.count === 1 ? 'value was' : 'values were'} set aside because ${wanted(attribute)}`}
      >
        <p className="text-quiet">
          Enter the right value where one is known. The history of each person keeps what was there.
        </p>
        <ScrollList className="mt-2 max-h-56">
          {data.values.map(({ of, value }) => (
            <li key={`${of.what} ${of.id}`} className="flex justify-between gap-4 py-0.5">
              <Link
                to={of.what === 'contact' ? `/people/${of.id}` : `/collections/${of.collection}`}
                className="truncate underline"
              >
                {of.name}
              </Link>
              <span className="text-quiet">{value}</span>
            </li>
          ))}
        </ScrollList>
        {data.count > data.values.length && (
          <p className="text-quiet">and {count(data.count - data.values.length)} more</p>
        )}
        <div className="mt-2">
          <TextButton onClick={() => setAsking(true)}>Clear this list</TextButton>
        </div>
        <Confirm
          open={asking}
          title="Clear this list?"
          description={`${count(data.count)} ${data.count === 1 ? 'value goes' : 'values go'} from this list. The history of each person keeps them; those of items are gone for good.`}
          action="Clear the list"
          onConfirm={forget}
          onClose={() => setAsking(false)}
        />
      </Notice>
    </div>
  );
}

function wanted({ label, type }: Attribute): string {
  return type === 'number'
    ? `${label} takes whole numbers only`
    : `${label} can hold only one of some of its choices at a time`;
}
