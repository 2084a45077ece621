import { useQuery } from '@tanstack/react-query';
import { Spin } from 'antd';
import { useParams } from 'react-router';
import { api } from '../api/client';
import type { AskPage } from '../api/types';
import { Trouble } from '../shared/parts';
import { AskPanes } from './AskPanes';
import type { Said } from './useAsking';

/** A page for people who are signed in and may run in its environment. */
export function PersonPage() {
  const { id } = useParams();
  const page = useQuery({
    queryKey: ['ask-page', id],
    queryFn: () => api.get<AskPage>(`/ask-pages/${id}`),
    retry: false,
  });
  const send = async (body: string, signal: AbortSignal): Promise<Said> => {
    const answer = await fetch(`/api/ask-pages/${id}/records`, {
      method: 'POST',
      signal,
      headers: { 'X-Wire-Kettle': '1', 'Content-Type': 'application/json' },
      body,
    });
    const text = await answer.text();
    return {
      status: answer.status,
      body: text && answer.headers.get('content-type')?.includes('json') ? JSON.parse(text) : text,
      record: answer.headers.get('Wire-Kettle-Record') ?? undefined,
    };
  };
  if (page.isPending) return <Spin className="waiting" />;
  if (!page.data) {
    return (
      <div className="page">
        <Trouble error={page.error} />
      </div>
    );
  }
  return <AskPanes page={page.data} send={send} named />;
}
