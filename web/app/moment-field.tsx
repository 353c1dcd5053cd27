import { useLooking } from '../data/looking.tsx';
import { instantOf, localInput } from '../data/moment.ts';
import { DateField } from '../parts/date-input.tsx';

/** The moment that is looked at. */
export function MomentField({ zone }: { zone: string }) {
  const { change, viewer } = useLooking();
  return (
    <DateField
      label="Date and time"
      hint={`As the clocks show in ${zone.replaceAll('_', ' ')}`}
      withTime
      calendar="below"
      value={localInput(viewer.instant, zone)}
      onChange={(local) => {
        const instant = instantOf(local, zone);
        if (instant !== undefined) change({ instant, faceInstant: null });
      }}
    />
  );
}
