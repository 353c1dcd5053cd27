import { ChevronLeft } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { type CrmStatus, crmStatusSchema } from '../../../contract/crm.ts';
import { call, messageOf, useApi } from '../../data/api.ts';
import { useCatalogue } from '../../data/data.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Notice } from '../../parts/notice.tsx';
import { toast } from '../../parts/toast.tsx';
import { Settings } from './crm-settings.tsx';
import { LastSync } from './last-sync.tsx';
import { StandIn } from './stand-in.tsx';

/** Keeping contacts in step with a customer database outside. */
export function Component() {
  const { data, mutate } = useApi('/crm', crmStatusSchema, {
    again: (latest) => (latest?.running ? 500 : 0),
  });
  const catalogue = useCatalogue();
  const [problem, setProblem] = useState<string>();
  useTabTitle('CRM sync');
  const act = async (request: Promise<CrmStatus>) => {
    setProblem(undefined);
    try {
      await mutate(await request, { revalidate: false });
      return true;
    } catch (error) {
      setProblem(messageOf(error));
      return false;
    }
  };
  if (!data || !catalogue) return null;
  return (
    <div className="h-full overflow-y-auto px-7 py-5">
      <Link to="/people" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
        <ChevronLeft size={15} aria-hidden /> All people
      </Link>
      <div className="mt-1 flex items-center gap-6">
        <h1 className="text-[26px] leading-8">CRM sync</h1>
        <p className="text-quiet">Keeps contacts in step with your customer database</p>
      </div>
      {problem !== undefined && (
        <div className="mt-3 max-w-3xl">
          <Notice kind="wrong" title={problem} />
        </div>
      )}
      <LastSync
        status={data}
        onSync={() => act(call('POST', '/crm/sync', crmStatusSchema))}
        onStop={() => act(call('POST', '/crm/cancel', crmStatusSchema))}
      />
      <div className="mt-6 grid grid-cols-1 wide:grid-cols-[3fr_2fr] items-start gap-8">
        <Settings
          key={JSON.stringify(data.settings)}
          stored={data.settings}
          catalogue={catalogue}
          onStore={async (settings) => {
            if (await act(call('PUT', '/crm', crmStatusSchema, settings)))
              toast.success('The connection is saved.');
          }}
          onProblem={setProblem}
        />
        {data.standIn && (
          <StandIn
            standIn={data.standIn}
            onChange={(switches) => {
              // A tick shows at once.
              if (data.standIn)
                void mutate({ ...data, standIn: { ...data.standIn, switches } }, { revalidate: false });
              void act(call('PUT', '/crm/stand-in', crmStatusSchema, switches));
            }}
          />
        )}
      </div>
    </div>
  );
}
