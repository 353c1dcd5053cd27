import { ExternalLink, FileCode, Images, LayoutGrid, Settings2, Share2, Waypoints } from 'lucide-react';
import { Link } from 'react-router';
import { useAddressFlag } from '../../data/address-flag.ts';
import { DocumentList } from './document-list.tsx';
import { HtmlDialog } from './html-dialog.tsx';

const quiet = 'inline-flex h-9 items-center gap-2 rounded-md px-2.5 text-quiet hover:text-ink';

export function Component() {
  const [bringing, setBringing] = useAddressFlag('html');
  return (
    <>
      <DocumentList kind="page" title="Pages">
        <Link to="/collections" className={quiet}>
          <LayoutGrid size={15} aria-hidden /> Collections
        </Link>
        <Link to="/shared" className={quiet}>
          <Share2 size={15} aria-hidden /> Shared content
        </Link>
        <Link to="/media" className={quiet}>
          <Images size={15} aria-hidden /> Pictures
        </Link>
        <Link to="/site-settings" className={quiet}>
          <Settings2 size={15} aria-hidden /> Site
        </Link>
        <Link to="/other-sites" className={quiet}>
          <Waypoints size={15} aria-hidden /> Other sites
        </Link>
        <button type="button" className={quiet} onClick={() => setBringing(true)}>
          <FileCode size={15} aria-hidden /> From HTML
        </button>
        <a
          href="/site/"
          target="_blank"
          rel="noreferrer"
          className="inline-flex h-9 items-center gap-2 rounded-md border border-line bg-paper px-3 hover:border-edge"
        >
          <ExternalLink size={15} aria-hidden /> Live site
        </a>
      </DocumentList>
      <HtmlDialog open={bringing} onClose={() => setBringing(false)} />
    </>
  );
}
