import { ChevronLeft } from 'lucide-react';
import { Link } from 'react-router';
import { DocumentList } from './document-list.tsx';

/** Content that is edited once and shown in many pages and emails. */
export function Component() {
  return (
    <DocumentList kind="shared" title="Shared content">
      <Link to="/pages" className="inline-flex h-9 items-center gap-1 px-2 text-quiet hover:text-ink">
        <ChevronLeft size={15} aria-hidden /> All pages
      </Link>
    </DocumentList>
  );
}
