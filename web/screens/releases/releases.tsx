import { useState } from 'react';
import { z } from 'zod';
import { releaseSchema } from '../../../contract/releases.ts';
import { call, messageOf, useApi } from '../../data/api.ts';
import { usePending } from '../../data/data.ts';
import { saidInstant } from '../../data/moment.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button } from '../../parts/button.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { Empty, Notice } from '../../parts/notice.tsx';
import { toast } from '../../parts/toast.tsx';
import { ImpactList } from './impact.tsx';
import { ChangeList } from './release-dialog.tsx';

const releasesSchema = z.array(releaseSchema);

export function Component() {
  const { data: releases } = useApi('/releases', releasesSchema);
  const { data: pending } = usePending();
  const [asked, setAsked] = useState<number>();
  useTabTitle('Releases');
  const goBack = async (id: number) => {
    try {
      await call('POST', `/releases/${id}/live`, releaseSchema);
      setAsked(undefined);
      toast.success(`Release ${id} is live again. Your drafts are as they were.`);
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  return (
    <div className="h-full overflow-y-auto px-6 py-5">
      <h1 className="text-[26px] leading-8">Releases</h1>
      <p className="text-quiet">What is live, what was, and what would change</p>
      {pending && pending.unshown !== null && (
        <div className="mt-3">
          <Notice kind="wrong" title={`Release ${pending.unshown} can’t be shown`}>
            {pending.liveRelease === null
              ? 'Nothing is live instead.'
              : `Release ${pending.liveRelease} is live instead.`}{' '}
            Release the drafts again, or make an earlier release live. The server’s log says what is wrong
            with it.
          </Notice>
        </div>
      )}
      <div className="mt-4 grid grid-cols-1 wide:grid-cols-[3fr_2fr] items-start gap-6">
        <section aria-label="All releases">
          {releases?.length === 0 && (
            <Empty title="Nothing is released yet">
              Create a page, then press “Release…” above to put it on the site.
            </Empty>
          )}
          <ol className="flex flex-col gap-3">
            {releases?.map((release) => (
              <li
                key={release.id}
                className={`rounded-md border bg-paper p-4 ${release.live ? 'border-leaf' : 'border-line'}`}
              >
                <div className="flex items-center gap-3">
                  <h2 className="text-[16px]">Release {release.id}</h2>
                  {release.live && (
                    <span className="rounded-md bg-leaf-wash px-2 font-semibold text-leaf">live now</span>
                  )}
                  <span className="text-quiet">
                    {saidInstant(release.createdAt)} by {release.accountName}
                  </span>
                  {!release.live && (
                    <Button className="ml-auto h-8" onClick={() => setAsked(release.id)}>
                      Make this live again…
                    </Button>
                  )}
                </div>
                {release.note && <p className="mt-1">{release.note}</p>}
                <details className="mt-2">
                  <summary className="cursor-pointer text-quiet">
                    {release.changes.length} {release.changes.length === 1 ? 'change' : 'changes'}
                  </summary>
                  <div className="mt-2">
                    <ChangeList changes={release.changes} />
                  </div>
                </details>
              </li>
            ))}
          </ol>
          {releases && releases.length > 0 && (
            <p className="mt-3 text-quiet">
              Every release is kept for 90 days, then the last of each week. The live one, and those that an
              email was sent from, are always kept.
            </p>
          )}
        </section>
        <Dialog
          open={asked !== undefined}
          onClose={() => setAsked(undefined)}
          title={`Make release ${asked ?? ''} live again`}
          description="The site and the emails are then as they were in that release. Your drafts stay as they are."
        >
          {asked !== undefined && (
            <div className="flex flex-col gap-3">
              <ImpactList release={asked} />
              <div className="flex justify-end gap-2">
                <Button onClick={() => setAsked(undefined)}>Cancel</Button>
                <Button look="primary" onClick={() => goBack(asked)}>
                  Make it live
                </Button>
              </div>
            </div>
          )}
        </Dialog>
        <section aria-label="Not live yet">
          <h2 className="mb-2 text-[16px]">Not live yet</h2>
          {pending && pending.changes.length > 0 ? (
            <ChangeList changes={pending.changes} />
          ) : (
            <p className="text-quiet">Nothing: every draft is live.</p>
          )}
        </section>
      </div>
    </div>
  );
}
