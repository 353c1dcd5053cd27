import { Link } from 'react-router';
import { useTabTitle } from '../data/tab-title.ts';
import { Empty } from '../parts/notice.tsx';

export function Component() {
  useTabTitle('Not found');
  return (
    <div className="p-8">
      <Empty title="There is nothing at this address">
        <Link to="/people" className="underline">
          Go to People
        </Link>
      </Empty>
    </div>
  );
}
