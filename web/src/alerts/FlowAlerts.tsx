import { useParams } from 'react-router';
import { FlowHead } from '../publish/FlowHead';
import { AlertList } from './AlertList';
import { AlertRules } from './AlertRules';

/** Who is told about a flow, and what was told. */
export function FlowAlerts() {
  const { id = '' } = useParams();
  return (
    <div className="page">
      <FlowHead id={id} />
      <AlertRules flow={id} />
      <h2 className="h-medium gap-above">What was told</h2>
      <AlertList flow={id} open={false} />
    </div>
  );
}
