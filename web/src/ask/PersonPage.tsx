import { useQuery } from '@tanstack/react-query';
import { Spin } from 'antd';
import { useParams } from 'react-router';
import { api } from '../api/client';
import type { AskPage } from '../api/types';
import { Trouble } from '../shared/parts';
import { AskPanes } from './AskPanes';
import { type Send, sendTo } from './useAsking';

/** A page for people who are signed in and may run in its environment. */
export function PersonPage() {
  const { id } = useParams();
  const page = useQuery({
    queryKey: ['ask-page', id],
    queryFn: () => api.get<AskPage>(`/ask-pages/${id}`),
    retry: false,
  });
  const send: Send = (body, signal) =>
    sendTo(`/api/ask-pages/${id}/records`, { 'X-Wire-Kettle': '1' }, body, signal);
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
