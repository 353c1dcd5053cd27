import { useEffect, useState } from 'react';
import { useLocation } from 'react-router';
import { personSchema } from '../../contract/people.ts';
import { devices } from '../../core/attributes/viewer.ts';
import { fromAddress, keepInAddress } from '../data/address.ts';
import { call } from '../data/api.ts';
import { type Look, useLooking } from '../data/looking.tsx';
import { toast } from './toast.tsx';

/** What shows a document as somebody gets it. */
const showing = /^\/(?:pages|emails|shared|lineup|preview)\/[^/]+$/;

/** Keeps the viewer, the device and the moment in the URL of the open document, and applies those of a link. */
export function useLookInAddress(): void {
  const { look, change } = useLooking();
  const { pathname } = useLocation();
  const [isRead, setIsRead] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a link is read once, when the window opens
  useEffect(() => {
    const linked = showing.test(pathname) ? linkedLook() : {};
    change(linked);
    const person = fromAddress('as');
    if (!showing.test(pathname) || person === undefined || Number(person) === look.person?.id) {
      setIsRead(true);
      return;
    }
    call('GET', `/contacts/${encodeURIComponent(person)}`, personSchema)
      .then((found) =>
        change({ person: found, signedIn: fromAddress('signed-in') !== 'no' && found.hasAccount }),
      )
      .catch(() => toast.error('The person in this link can’t be found; they may have been deleted.'))
      .finally(() => setIsRead(true));
  }, []);
  useEffect(() => {
    if (!isRead || !showing.test(pathname)) return;
    const { person, signedIn, device, visit, instant, faceInstant } = look;
    const moment = faceInstant ?? instant;
    keepInAddress({
      as: person && String(person.id),
      'signed-in': person?.hasAccount && !signedIn ? 'no' : null,
      device: device === 'computer' ? null : device,
      visit: visit && JSON.stringify(visit),
      at: moment === null ? null : new Date(moment).toISOString(),
    });
  }, [isRead, look, pathname]);
}

/** The device, visit and moment of a link; the usual ones where a link with a viewer has none, nothing without a link. */
function linkedLook(): Partial<Look> {
  if (!['as', 'device', 'visit', 'at'].some((name) => fromAddress(name) !== undefined)) return {};
  const device = devices.find((one) => one === fromAddress('device'));
  const instant = Date.parse(fromAddress('at') ?? '');
  const visit = visitOf(fromAddress('visit'));
  return {
    device: device ?? 'computer',
    instant: Number.isNaN(instant) ? null : instant,
    faceInstant: null,
    visit,
  };
}

function visitOf(text: string | undefined): Look['visit'] {
  try {
    const read: unknown = JSON.parse(text ?? '');
    return typeof read === 'object' && read !== null && !Array.isArray(read) ? { ...read } : null;
  } catch {
    return null;
  }
}
