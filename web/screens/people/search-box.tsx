import { Search } from 'lucide-react';
import { useEffect, useState } from 'react';

export function SearchBox({ value, onChange }: { value: string; onChange: (value: string) => void }) {
  const [typed, setTyped] = useState(value);
  useEffect(() => {
    if (typed === value) return;
    const timer = setTimeout(() => onChange(typed), 150);
    return () => clearTimeout(timer);
  }, [typed, value, onChange]);
  return (
    <label className="flex h-9 w-64 items-center gap-2 rounded-md border border-line bg-paper px-3 focus-within:border-edge">
      <Search size={15} className="text-quiet" aria-hidden />
      <input
        aria-label="Search by name or email address"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        placeholder="Name or email address"
        className="w-full bg-transparent outline-none"
      />
    </label>
  );
}
