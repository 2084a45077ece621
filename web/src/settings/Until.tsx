import { useState } from 'react';

const DAY = 86_400_000;

/** Until when a key or certificate is valid; near its end it says how near. */
export function Until({ at }: { at: string | undefined }) {
  const [now] = useState(() => Date.now());
  if (!at) return null;
  const days = Math.floor((new Date(at).getTime() - now) / DAY);
  const day = at.slice(0, 10);
  if (days < 0) return <span className="bad">ended {day}</span>;
  if (days <= 30)
    return (
      <span className="chip caution">
        ends {day}, in {days} {days === 1 ? 'day' : 'days'}
      </span>
    );
  return <span className="dim">until {day}</span>;
}
