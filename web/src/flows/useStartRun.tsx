import { App } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api, ApiProblem } from '../api/client';
import type { CallStage as Call } from '../api/flow';
import type { Run } from '../api/types';
import { useElsewhere } from '../settings/useElsewhere';
import { useLive } from '../shared/environment';
import { useHostOffer } from './useHostOffer';

/** Live is told apart by ink, not by red: red is for failures. */
export const LIVE = { background: '#22272a', borderColor: '#22272a' };

/**
 * Starts runs of a flow. What changes data, runs live or has problems is asked about first, with the number of records.
 *
 * @param settled gives the revision that is on the screen: never an older one is run
 */
export function useStartRun(
  flowId: number,
  environment: string,
  of: { calls: Call[]; problems: number; records: number | undefined },
  settled: () => Promise<number>,
) {
  const navigate = useNavigate();
  const { modal, message } = App.useApp();
  const elsewhere = useElsewhere();
  const offersHost = useHostOffer();
  const live = useLive();
  const [starting, setStarting] = useState(false);
  const go = async (limit: number, confirmed = false) => {
    setStarting(true);
    try {
      const revision = await settled();
      const started = await api.post<Run>(`/flows/${flowId}/runs`, {
        environment,
        limit,
        revision,
        confirmed,
      });
      navigate(`/runs/${started.id}`);
    } catch (e) {
      setStarting(false);
      if (e instanceof ApiProblem && e.code === 'confirm-run') {
        modal.confirm({
          title: 'A run of this flow is not finished',
          content: e.message,
          okText: 'Start a second run',
          okButtonProps: { danger: true },
          onOk: () => void go(limit, true),
        });
      } else if (!offersHost(e, () => go(limit, confirmed)) && !elsewhere(e, () => void go(limit, confirmed)))
        void message.error(e instanceof Error ? e.message : String(e), 8);
    }
  };
  /** Starts a run of the first records, 0 for all. */
  const run = (limit: number) => {
    const known = limit || of.records;
    const count = known === undefined ? 'everything' : String(known);
    const changing = of.calls.filter((c) => c.delivery.effect === 'changes');
    if (!live(environment) && of.problems === 0 && changing.length === 0) {
      void go(limit);
      return;
    }
    modal.confirm({
      title: `Run ${count} in ${environment}?`,
      content: (
        <>
          {changing.map((c) => (
            <p key={c.id}>
              {c.operation} changes data at “{c.endpoint}” in {environment},{' '}
              {known === undefined ? 'for every record it reads' : `up to ${count} times`}.
            </p>
          ))}
          {of.problems > 0 && (
            <p>
              There {of.problems === 1 ? 'is 1 problem' : `are ${of.problems} problems`}: records it hits are
              rejected, not sent.
            </p>
          )}
        </>
      ),
      okText: `Run ${count} in ${environment}`,
      okButtonProps: live(environment) ? { style: LIVE } : {},
      onOk: () => void go(limit),
    });
  };
  return { starting, run };
}
