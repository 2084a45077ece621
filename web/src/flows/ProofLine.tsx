import { Button, Popover, Progress, Select } from 'antd';
import type { Proof } from '../api/types';
import css from './flow.module.css';
import type { Samples } from './useProof';

/** Which records count as samples, and whether the whole message of each is valid. */
export function ProofLine({
  samples,
  onSamples,
  records,
  proof,
  onCancel,
  onRecord,
}: {
  samples: Samples;
  onSamples: (samples: Samples) => void;
  records: number;
  proof: Proof | undefined;
  onCancel: () => void;
  onRecord: (record: number) => void;
}) {
  // what is still being counted is no verdict
  const counting = proof?.state === 'running';
  const wrong = proof ? proof.checked - proof.valid : 0;
  return (
    <div className={css.proof} role="status" aria-label="proof">
      <Select<Samples>
        size="small"
        variant="filled"
        aria-label="Samples"
        className="field-m"
        value={samples}
        onChange={onSamples}
        popupMatchSelectWidth={false}
        options={[
          { value: 'first', label: 'first 50' },
          { value: 'random', label: 'random 50' },
          { value: 'all', label: `all ${records.toLocaleString('en')}` },
        ]}
      />
      {!proof || (proof.state === 'running' && proof.checked === 0) ? (
        <span className="dim">checking …</span>
      ) : proof.state === 'failed' ? (
        <span className="dim clip" title={proof.message}>
          {proof.message}
        </span>
      ) : (
        <>
          {proof.state === 'running' && proof.total > 200 && (
            <>
              <Progress
                size="small"
                showInfo={false}
                percent={(100 * proof.checked) / Math.max(1, proof.total)}
                className="field-xs flush"
              />
              <Button size="small" onClick={onCancel}>
                Stop
              </Button>
            </>
          )}
          {wrong === 0 ? (
            <span className={`clip ${counting ? 'dim' : ''}`}>
              {counting
                ? `checking: ${proof.checked.toLocaleString('en')} of ${proof.total.toLocaleString('en')},` +
                  ' all valid so far'
                : `${proof.valid.toLocaleString('en')} of ${proof.total.toLocaleString('en')} messages valid`}
            </span>
          ) : (
            <Popover
              trigger="click"
              placement="topRight"
              title={`${wrong.toLocaleString('en')} of ${proof.checked.toLocaleString('en')} messages are not valid`}
              content={proof.invalid.slice(0, 14).map((i) => (
                <div key={i.record} className="row narrow">
                  <button type="button" className="linkish" onClick={() => onRecord(i.record)}>
                    record {i.record}
                  </button>
                  <span className="bad clip grow" title={i.message}>
                    {i.message}
                  </span>
                </div>
              ))}
            >
              <button type="button" className="linkish bad clip">
                {wrong.toLocaleString('en')} of {proof.checked.toLocaleString('en')} not valid
                {counting && ' so far'}
              </button>
            </Popover>
          )}
          {proof.state === 'cancelled' && <span className="dim">stopped</span>}
        </>
      )}
    </div>
  );
}
