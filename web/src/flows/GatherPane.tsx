import type { SplitStage as Split } from '../api/flow';
import { gatherOf } from '../api/outline';
import css from './flow.module.css';
import type { PaneProps } from './panes';
import { RecordSheet } from './RecordSheet';

/** What a Split gathers: an item for each, or a shape of its own made by fills. */
export function GatherPane({ stage, number, ...rest }: Omit<PaneProps<Split>, 'onVariable'>) {
  const { gather } = stage;
  if (!gather) return null;
  const { columns = [], fills = [], groups = [] } = gather;
  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>{number} · Gather</h2>
        <span className="dim clip grow">
          {columns.length > 0
            ? `only this is kept as $${gather.as}`
            : `$${gather.as} has an item for each: its position, its end, and what its stages made`}
        </span>
      </div>
      <RecordSheet
        {...rest}
        call={undefined}
        stage={{
          id: gatherOf(stage.id),
          columns,
          fills,
          groups,
          document: groups.length > 0 ? 'xml' : undefined,
        }}
        heading={`$${gather.as}`}
        everything={false}
        onChange={(its) =>
          rest.onChange({
            ...stage,
            gather: {
              ...gather,
              columns: its.columns.length > 0 ? its.columns : undefined,
              fills: its.fills.length > 0 ? its.fills : undefined,
            },
          })
        }
      />
      {columns.length === 0 && (
        <p className="dim pad-sides-l">
          Add columns to make a shape of its own instead: a total, a list of labels. Later stages see only
          that.
        </p>
      )}
    </div>
  );
}
