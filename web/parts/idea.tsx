import { useState } from 'react';
import { z } from 'zod';
import { TextButton } from './button.tsx';
import { glossary, type Term } from './glossary.ts';

const key = 'apple-porch-ideas';
const namesSchema = z.array(z.string());

function known(): string[] {
  try {
    return namesSchema.parse(JSON.parse(localStorage.getItem(key) ?? '[]'));
  } catch {
    return [];
  }
}

/** What one of the program's own words means, shown beside it until it was understood. */
export function Idea({ term }: { term: Term }) {
  const [isKnown, setIsKnown] = useState(() => known().includes(term));
  if (isKnown) return null;
  return (
    <p className="rounded-md border border-line bg-leaf-wash px-3 py-2 text-[13px] leading-5">
      <strong className="inline-block first-letter:uppercase">{term}</strong>: {glossary[term]}{' '}
      <TextButton
        onClick={() => {
          localStorage.setItem(key, JSON.stringify([...new Set([...known(), term])]));
          setIsKnown(true);
        }}
      >
        Got it
      </TextButton>
    </p>
  );
}
