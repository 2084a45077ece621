import { Button, Modal } from 'antd';
import type { ApiProblem } from '../api/client';

/** Somebody else saved the flow first: one of the two goes on. */
export function SavedFirst({ problem, onMine }: { problem: ApiProblem | undefined; onMine: () => void }) {
  return (
    <Modal
      open={problem !== undefined}
      title="Someone else saved first"
      closable={false}
      footer={[
        <Button key="theirs" onClick={() => window.location.reload()}>
          Take theirs, drop mine
        </Button>,
        <Button key="mine" type="primary" onClick={onMine}>
          Save mine as the next revision
        </Button>,
      ]}
    >
      <p>{problem?.message}</p>
      <div className="row at-top">
        {(['theirs', 'yours'] as const).map((side) => (
          <div key={side} className="grow">
            <b>{side}</b>
            <pre className="xml short-list">{JSON.stringify(problem?.body[side], null, 1)}</pre>
          </div>
        ))}
      </div>
    </Modal>
  );
}
