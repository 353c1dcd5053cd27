import { Link } from 'react-router';
import { Empty } from '../parts/notice.tsx';

export function Component() {
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
