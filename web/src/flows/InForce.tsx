import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { Publication } from '../api/types';

/** Which revisions of the flow are in force, as a way to publish. */
export function InForce({ flowId }: { flowId: number }) {
  const list = useQuery({
    queryKey: ['publications', flowId],
    queryFn: () => api.get<Publication[]>(`/flows/${flowId}/publications`),
  });
  if (!list.data) return null;
  return (
    <Link
      to={`/flows/${flowId}/publish`}
      className="chip plain-link"
      title="What is in force, and publishing"
    >
      {list.data.length > 0
        ? `in force: ${list.data.map((p) => `${p.environment} ${p.revision}`).join(', ')}`
        : 'not published'}
    </Link>
  );
}
