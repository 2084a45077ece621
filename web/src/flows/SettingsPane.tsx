import { Button, Form } from 'antd';
import type { ReactNode } from 'react';
import css from './flow.module.css';

/** A pane that is a list of settings: its head, what it is about in a sentence, and the form. */
export function SettingsPane({
  title,
  says,
  onRemove,
  children,
  foot,
}: {
  title: string;
  says: ReactNode;
  onRemove?: () => void;
  children: ReactNode;
  /** What stands below the form. */
  foot?: ReactNode;
}) {
  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>{title}</h2>
        <span className="dim clip grow">{says}</span>
        {onRemove && (
          <Button size="small" onClick={onRemove}>
            Remove
          </Button>
        )}
      </div>
      <Form
        colon={false}
        layout="horizontal"
        labelCol={{ flex: '150px' }}
        labelAlign="left"
        size="small"
        className="pad-over"
      >
        {children}
      </Form>
      {foot}
    </div>
  );
}
