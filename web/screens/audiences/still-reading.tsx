import { readingSchema } from '../../../contract/people.ts';
import { useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { Notice } from '../../parts/notice.tsx';

/** Says why there are no counts yet, and how far the server is with what they need. */
export function StillReading() {
  const { data } = useApi('/contacts/reading', readingSchema, { again: () => 2000 });
  const reading = data?.reading;
  return (
    <div className="mt-3">
      <Notice kind="note" title="Counts are not ready yet">
        {reading
          ? `Your contacts are still loading: ${count(reading.read)} of ${count(reading.of)} so far.`
          : 'Counting your contacts takes longer than usual.'}{' '}
        The numbers appear here when it is done. Your site works as usual.
      </Notice>
    </div>
  );
}
