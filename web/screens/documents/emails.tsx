import { Inbox } from 'lucide-react';
import { Link } from 'react-router';
import { DocumentList } from './document-list.tsx';

export function Component() {
  return (
    <DocumentList kind="email" title="Emails">
      <Link
        to="/mailbox"
        className="inline-flex h-9 items-center gap-2 rounded-md border border-line bg-paper px-3 hover:border-edge"
      >
        <Inbox size={15} aria-hidden /> Mailbox
      </Link>
    </DocumentList>
  );
}
