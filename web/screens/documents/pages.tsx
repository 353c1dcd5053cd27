import { ExternalLink } from 'lucide-react';
import { DocumentList } from './document-list.tsx';

export function Component() {
  return (
    <DocumentList kind="page" title="Pages">
      <a
        href="/site/"
        target="_blank"
        rel="noreferrer"
        className="inline-flex h-9 items-center gap-2 rounded-md border border-line bg-paper px-3 hover:border-edge"
      >
        <ExternalLink size={15} aria-hidden /> Open the live site
      </a>
    </DocumentList>
  );
}
