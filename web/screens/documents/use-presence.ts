import { useEffect } from 'react';
import useSWR from 'swr';
import { z } from 'zod';
import { call } from '../../data/api.ts';

const pause = 5000;
const othersSchema = z.object({ others: z.array(z.string()) });

/** Says that this document is open here, and tells who else has it open. */
export function usePresence(document: string): readonly string[] {
  const path = `/documents/${document}/here`;
  const { data } = useSWR(['presence', path], () => call('POST', path, othersSchema), {
    refreshInterval: pause,
    shouldRetryOnError: false,
  });
  useEffect(
    () => () => {
      void fetch(`/api${path}`, { method: 'DELETE', keepalive: true }).catch(() => undefined);
    },
    [path],
  );
  return data?.others ?? [];
}
