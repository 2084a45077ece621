import { App, Radio } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api, query } from '../api/client';
import type { FlowDifference, Run, RunResendable } from '../api/types';
import { Differences } from '../publish/Differences';

type How = { doneBefore: 'kept' | 'taken-back' | 'anew'; inForce: boolean };

/** Sends records again: asks under which revision, and what becomes of what they did before, where that matters. */
export function useResend(run: Run) {
  const { modal, message } = App.useApp();
  const navigate = useNavigate();
  return async (records: number, some: { cause?: string; ordinals?: number[] } = {}) => {
    const how: How = { doneBefore: 'kept', inForce: false };
    const known = await api.get<RunResendable>(`/runs/${run.id}/resendable${query({ cause: some.cause })}`);
    const other = known.inForce !== undefined && known.inForce !== run.flowRevision;
    const differs = other
      ? await api.get<FlowDifference[]>(
          `/flows/${run.flowId}/revisions/${known.inForce}/differences?from=${run.flowRevision}`,
        )
      : [];
    modal.confirm({
      width: other ? 680 : 480,
      title: `Send ${records} ${records === 1 ? 'record' : 'records'} again in ${run.environment}?`,
      content: <Choices run={run} known={known} differs={other ? differs : undefined} how={how} />,
      okText: `Send ${records} again`,
      onOk: async () => {
        try {
          const started = await api.post<Run>(`/runs/${run.id}/resend`, { ...some, ...how });
          navigate(`/runs/${started.id}`);
        } catch (e) {
          void message.error(e instanceof Error ? e.message : String(e), 8);
        }
      },
    });
  };
}

/** Asks what became of records in doubt, by the rule of their call; they go on from there in a run of their own. */
export function useAskAbout(run: Run) {
  const { message } = App.useApp();
  const navigate = useNavigate();
  return async (some: { cause?: string; ordinals?: number[] } = {}) => {
    try {
      const started = await api.post<Run>(`/runs/${run.id}/resend`, { ...some, doubtful: true });
      navigate(`/runs/${started.id}`);
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e), 8);
    }
  };
}

/** Which revision they go through, and what becomes of what they did before; what is chosen is written into `how`. */
function Choices({
  run,
  known,
  differs,
  how,
}: {
  run: Run;
  known: RunResendable;
  /** What the revision in force has otherwise; undefined where it is the run's own. */
  differs: FlowDifference[] | undefined;
  how: How;
}) {
  const [chosen, setChosen] = useState(how);
  const choose = (part: Partial<How>) => setChosen({ ...chosen, ...Object.assign(how, part) });
  const takesBack = chosen.inForce ? known.inForceTakesBack : known.takesBack;
  const back = `take it back first, then do it anew${takesBack ? '' : ': that revision does not say how'}`;
  return (
    <>
      <p>
        They go through the flow in a run of their own, and their rows are added to what the targets hold.
      </p>
      {differs && (
        <>
          <Radio.Group
            value={chosen.inForce}
            onChange={(e) => {
              const inForce = e.target.value as boolean;
              const still = inForce ? known.inForceTakesBack : known.takesBack;
              choose({
                inForce,
                doneBefore: chosen.doneBefore === 'taken-back' && !still ? 'kept' : chosen.doneBefore,
              });
            }}
            options={[
              { value: false, label: `revision ${run.flowRevision}, as they ran` },
              { value: true, label: `revision ${known.inForce}, which is in force` },
            ]}
          />
          <div className="short-list gap-above">
            <Differences stages={differs} />
          </div>
        </>
      )}
      {known.did > 0 && (
        <>
          <p className="gap-above">
            {known.did} of them {known.did === 1 ? 'has a change that is' : 'have changes that are'} done:
          </p>
          <Radio.Group
            className="column"
            value={chosen.doneBefore}
            onChange={(e) => choose({ doneBefore: e.target.value as How['doneBefore'] })}
            options={[
              { value: 'kept', label: 'keep what is done: it is not sent again' },
              { value: 'taken-back', label: back, disabled: !takesBack },
              { value: 'anew', label: 'do it once more beside what is done' },
            ]}
          />
        </>
      )}
    </>
  );
}
