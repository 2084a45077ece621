import { useQueryClient } from '@tanstack/react-query';
import { App } from 'antd';
import { useState } from 'react';
import { api, ApiProblem } from '../api/client';
import type { CallStage as Call } from '../api/flow';
import type { Preview } from '../api/types';
import { useElsewhere } from '../settings/useElsewhere';
import type { Asked } from './asked';
import { useHostOffer } from './useHostOffer';

/** Calls the service for the sample, with whatever calls are missing before it; the replies are kept. */
export function useSampleCall(flowId: number, call: Call | undefined, asked: Asked) {
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const elsewhere = useElsewhere();
  const offersHost = useHostOffer();
  const [calling, setCalling] = useState(false);
  const { file, record, environment, samples, items } = asked;
  const start = async (confirmed = false) => {
    if (!call) return;
    setCalling(true);
    try {
      await api.post<Preview>(`/flows/${flowId}/sample-call`, {
        file,
        stage: call.id,
        record,
        environment,
        confirmed,
        samples,
        items,
        upTo: true,
      });
      const answer = await api.post<Preview>(`/flows/${flowId}/preview`, asked);
      client.setQueryData(['preview', flowId, asked], answer);
      await client.invalidateQueries({ queryKey: ['preview', flowId] });
      if (answer.kept?.failure) void message.warning(answer.kept.failure);
      else void message.success('Answered and kept');
    } catch (e) {
      const told = e instanceof ApiProblem ? e : undefined;
      if (told?.code === 'confirm-call') {
        modal.confirm({
          title: `Call in ${environment}?`,
          content: told.message,
          okText: `Call “${String(told.body.endpoint)}” in ${environment}`,
          onOk: () => void start(true),
        });
      } else if (!offersHost(e, () => start(confirmed)) && !elsewhere(e, () => void start(confirmed)))
        void message.error(e instanceof Error ? e.message : String(e));
    } finally {
      setCalling(false);
    }
  };
  return { calling, start: () => void start() };
}
