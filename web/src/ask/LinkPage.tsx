import { useQuery } from '@tanstack/react-query';
import { Spin } from 'antd';
import { useLocation } from 'react-router';
import { ApiProblem } from '../api/client';
import type { AskPage } from '../api/types';
import { AskPanes } from './AskPanes';
import { type Send, sendTo } from './useAsking';

/** A page that is reached by a link: its key stands behind the #, which browsers tell nobody. */
export function LinkPage() {
  const { pathname, hash } = useLocation();
  const path = pathname.replace(/^\/ask\//, '');
  const key = decodeURIComponent(hash.slice(1));
  const headers: Record<string, string> = key ? { 'X-Api-Key': key } : {};
  const page = useQuery({
    queryKey: ['ask', path, key],
    retry: false,
    queryFn: async () => {
      const answer = await fetch(`/serve/${path}/page`, { headers });
      if (!answer.ok) throw new ApiProblem(answer.status, '', why(answer.status), {});
      return (await answer.json()) as AskPage;
    },
  });
  const send: Send = (body, signal) => sendTo(`/serve/${path}`, headers, body, signal);
  if (page.isPending) return <Spin className="waiting" />;
  if (page.error || !page.data) {
    return (
      <main className="page">
        <h1>This page cannot be shown</h1>
        <p>{page.error?.message}</p>
      </main>
    );
  }
  return <AskPanes page={page.data} send={send} named={false} />;
}

function why(status: number): string {
  if (status === 401)
    return 'The link is not good any more, or not whole. Ask whoever gave it to you for a new one.';
  if (status === 404) return 'There is no page here any more. Ask whoever gave you the link.';
  if (status === 429) return 'It was asked too often: wait a minute, then open it again.';
  return 'The server cannot show it at the moment: try again later.';
}
