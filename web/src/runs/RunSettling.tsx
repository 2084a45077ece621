import { useQuery } from '@tanstack/react-query';
import { Button, Dropdown } from 'antd';
import { api } from '../api/client';
import type { Run, RunResendable } from '../api/types';
import { useAskAbout, useResend } from './useResend';
import { useSettle } from './useSettle';

/** Sends everything again that was rejected or held back. */
export function SendAgain({ run, open }: { run: Run; open: number }) {
  const resend = useResend(run);
  return (
    <Button
      onClick={() => void resend(open)}
      title="What was rejected or held back goes through the flow once more"
    >
      Send {open} again
    </Button>
  );
}

/** Says of records in doubt what became of them. */
export function Settle({ run, doubtful, onDone }: { run: Run; doubtful: number; onDone: () => void }) {
  const settle = useSettle(run, onDone);
  const ask = useAskAbout(run);
  const known = useQuery({
    queryKey: ['resendable', run.id, doubtful],
    queryFn: () => api.get<RunResendable>(`/runs/${run.id}/resendable`),
  });
  const asks = known.data?.asks ?? 0;
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: [
          {
            key: 'ask',
            label: asks ? `Ask what became of ${asks}` : 'Ask: the flow has no rule that does',
            disabled: asks === 0,
          },
          { key: 'done', label: `All ${doubtful} are done` },
          { key: 'not-done', label: `None of the ${doubtful} is done` },
        ],
        onClick: ({ key }) => (key === 'ask' ? void ask() : settle(key as 'done' | 'not-done', doubtful)),
      }}
    >
      <Button title="Somebody has looked at the other side">Resolve {doubtful} in doubt …</Button>
    </Dropdown>
  );
}
