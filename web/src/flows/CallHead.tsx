import { Button, Select } from 'antd';
import type { CallStage as Call, FlowFile } from '../api/flow';
import { allStages } from '../api/outline';
import css from './flow.module.css';
import { useContracts, useOperations } from './useChoices';

/** Which operation a Call calls. */
export function CallHead({
  file,
  stage,
  number,
  onChange,
  onRemove,
}: {
  file: FlowFile;
  stage: Call;
  number: string;
  onChange: (stage: Call) => void;
  onRemove: () => void;
}) {
  const contracts = useContracts();
  const operations = useOperations(stage.contract);
  const operation = operations.find((o) => o.port === stage.port && o.key === stage.operation);
  return (
    <div className={css.stageHead}>
      <h2>{number} · Call</h2>
      <Select
        size="small"
        variant="filled"
        aria-label="Contract"
        showSearch
        placeholder="contract"
        className="pick"
        popupMatchSelectWidth={false}
        value={stage.contract}
        options={contracts.map((c) => ({ value: c.name, label: c.name }))}
        onChange={(contract) =>
          onChange({
            ...stage,
            contract,
            endpoint: contract,
            service: undefined,
            port: undefined,
            operation: undefined,
            fills: [],
          })
        }
      />
      <Select
        size="small"
        variant="filled"
        aria-label="Operation"
        showSearch={{ optionFilterProp: 'label' }}
        placeholder="operation"
        popupMatchSelectWidth={false}
        className="pick-l"
        value={stage.operation ? `${stage.service}|${stage.port}|${stage.operation}` : undefined}
        options={operations
          .filter((o) => o.callable)
          .map((o) => ({ value: `${o.service}|${o.port}|${o.key}`, label: `${o.key} · ${o.port}` }))}
        onChange={(picked: string) => {
          const [service, port, key] = picked.split('|');
          const its = operations.find((o) => o.port === port && o.key === key);
          onChange({
            ...stage,
            service,
            port,
            operation: key,
            fills: key === stage.operation ? stage.fills : [],
            delivery: { ...stage.delivery, effect: its?.effect === 'reads' ? 'reads' : 'changes' },
          });
        }}
      />
      <span className="dim clip grow">
        {operation?.protocol} · {stage.delivery.effect === 'reads' ? 'reads' : 'changes data'} · as{' '}
        <span className="mono">${stage.as}</span>
      </span>
      {allStages(file).filter((s) => s.verb === 'Call').length > 1 && (
        <Button size="small" onClick={onRemove}>
          Remove
        </Button>
      )}
    </div>
  );
}
