import { Button, Dropdown } from 'antd';
import type { Run } from '../api/types';
import { useResend } from './useResend';
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
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: [
          { key: 'done', label: `All ${doubtful} are done` },
          { key: 'not-done', label: `None of the ${doubtful} is done` },
        ],
        onClick: ({ key }) => settle(key as 'done' | 'not-done', doubtful),
      }}
    >
      <Button title="Somebody has looked at the other side">Resolve {doubtful} in doubt …</Button>
    </Dropdown>
  );
}
