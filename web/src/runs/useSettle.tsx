import { App, Input } from 'antd';
import { api } from '../api/client';
import type { Run } from '../api/types';

type What = 'discarded' | 'done' | 'not-done';

const ASKS: Record<What, { title: string; says: string; ok: string }> = {
  discarded: {
    title: 'Discard',
    says: 'They are not sent again. Their ends stay in the ledger, with who discarded them and why.',
    ok: 'Discard',
  },
  done: {
    title: 'Say it is done',
    says: 'Somebody has seen at the other side that it took place. It is not sent again.',
    ok: 'It is done',
  },
  'not-done': {
    title: 'Say it is not done',
    says: 'Somebody has seen at the other side that it did not take place. It can be sent again then.',
    ok: 'It is not done',
  },
};

/** Asks for a reason and says what becomes of records that wait; all of a cause where no record is named. */
export function useSettle(run: Run, onDone: () => void) {
  const { modal, message } = App.useApp();
  return (what: What, records: number, some: { cause?: string; ordinals?: number[] } = {}) => {
    let reason = '';
    const asks = ASKS[what];
    modal.confirm({
      title: `${asks.title}: ${records} ${records === 1 ? 'record' : 'records'}`,
      content: (
        <>
          <p>{asks.says}</p>
          <Input.TextArea
            autoFocus
            rows={2}
            aria-label="Reason"
            placeholder="Why"
            onChange={(e) => {
              reason = e.target.value;
            }}
          />
        </>
      ),
      okText: asks.ok,
      okButtonProps: { danger: what === 'discarded' },
      onOk: async () => {
        try {
          await api.post(`/runs/${run.id}/settlements`, { what, reason, ...some });
          onDone();
        } catch (e) {
          void message.error(e instanceof Error ? e.message : String(e), 8);
          throw e;
        }
      },
    });
  };
}
