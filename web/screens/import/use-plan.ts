import { useRef, useState } from 'react';
import type { Import } from '../../../contract/imports.ts';
import type { ImportPlan } from '../../../core/exchange/plan.ts';

/**
 * The plan of an import as it was set last, whatever is answered meanwhile about earlier ones. Plans are sent one after
 * another, and of those that wait only the latest, so that none is stored over a later one.
 *
 * A plan that could not be stored stays on screen, to be stored with the next change or trial of it.
 *
 * @param send stores a plan, and says whether it is stored; must not reject
 * @returns the import with that plan, and what sets another
 */
export function usePlan(
  stored: Import | undefined,
  send: (plan: ImportPlan) => Promise<boolean>,
): { data: Import | undefined; change: (plan: ImportPlan) => void } {
  const [wanted, setWanted] = useState<ImportPlan>();
  const [isRefused, setRefused] = useState(false);
  const latest = useRef<ImportPlan>(undefined);
  const isSending = useRef(false);
  const sendAll = async () => {
    if (isSending.current) return;
    isSending.current = true;
    let isStored = true;
    for (let sent: ImportPlan | undefined; latest.current !== sent; ) {
      sent = latest.current;
      if (sent) isStored = await send(sent);
    }
    isSending.current = false;
    latest.current = undefined;
    setRefused(!isStored);
    if (isStored) setWanted(undefined);
  };
  const change = (plan: ImportPlan) => {
    latest.current = plan;
    setWanted(plan);
    setRefused(false);
    void sendAll();
  };
  const data: Import | undefined =
    stored && wanted
      ? { ...stored, plan: wanted, status: isRefused ? 'read' : 'checking', report: null }
      : stored;
  return { data, change };
}
