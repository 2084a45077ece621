import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Dropdown, Popover } from 'antd';
import { type ReactNode, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../api/client';
import type { FlowFile } from '../api/flow';
import type { Preview, Run, SheetProposal } from '../api/types';
import { RunCounts, When } from '../shared/parts';
import { DutyForm } from './DutyForm';
import css from './flow.module.css';
import { InForce } from './InForce';

/** The line above a flow: its name, what is wrong with it, its last run, and what can be done with the whole of it. */
export function FlowBar({
  flowId,
  file,
  revision,
  attention,
  last,
  filled,
  sample,
  children,
  settled,
  onRename,
  onChange,
  onProblem,
  onSheet,
}: {
  flowId: number;
  file: FlowFile;
  revision: number;
  attention: Preview['attention'];
  last: Run | undefined;
  /** The stage or rule whose fills a mapping sheet is about. */
  filled: string | undefined;
  sample: { record: number; environment: string };
  /** The buttons that run it. */
  children: ReactNode;
  settled: () => Promise<number>;
  onRename: (name: string) => void;
  onChange: (file: FlowFile) => void;
  onProblem: (stage: string | undefined, field: string | undefined) => void;
  onSheet: (place: string, proposals: SheetProposal[]) => void;
}) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const [duty, setDuty] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const readSheet = async (chosen: File | undefined) => {
    if (!chosen || !filled) return;
    try {
      await settled();
      const body = new FormData();
      body.append('file', chosen);
      body.append('record', String(sample.record));
      body.append('environment', sample.environment);
      body.append('stage', filled);
      onSheet(filled, await api.form<SheetProposal[]>(`/flows/${flowId}/mapping-sheet`, body));
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e), 8);
    }
  };
  const rename = () => {
    let typed = file.name;
    modal.confirm({
      title: 'Rename the flow',
      content: (
        <input
          className="ant-input full pad-tight"
          defaultValue={file.name}
          onChange={(e) => {
            typed = e.target.value;
          }}
        />
      ),
      onOk: () => typed.trim() && onRename(typed.trim()),
    });
  };
  const remove = () =>
    modal.confirm({
      title: `Remove ${file.name}?`,
      content: 'It leaves the lists. Its runs and their ledgers stay.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: async () => {
        await api.remove(`/flows/${flowId}`);
        await client.invalidateQueries({ queryKey: ['flows'] });
        navigate('/flows');
      },
    });
  const download = (what: string) => window.location.assign(`/api/flows/${flowId}/${what}`);
  const menu: Record<string, () => void> = {
    publish: () => navigate(`/flows/${flowId}/publish?environment=${sample.environment}`),
    alerts: () => navigate(`/flows/${flowId}/alerts`),
    duty: () => setDuty(true),
    triggers: () => navigate(`/flows/${flowId}/triggers`),
    rename,
    remove,
    sheet: () => picker.current?.click(),
    csv: () => download(`mapping-sheet?form=csv&stage=${filled ?? ''}`),
    xlsx: () => download(`mapping-sheet?form=xlsx&stage=${filled ?? ''}`),
    bundle: () => download(`bundle?environment=${sample.environment}`),
  };
  return (
    <div className={css.bar}>
      <h1 className="clip" title={file.name} onDoubleClick={rename}>
        {file.name}
      </h1>
      <span className="chip">revision {revision}</span>
      <InForce flowId={flowId} />
      {attention.length > 0 ? (
        <Popover
          trigger="click"
          placement="bottomLeft"
          content={
            <div className="narrow">
              {attention.slice(0, 14).map((p) => (
                <div key={`${p.stage} ${p.field} ${p.message}`} className="pad-line">
                  <button
                    type="button"
                    className="linkish"
                    onClick={() => onProblem(p.stage ?? undefined, p.field ?? undefined)}
                  >
                    {p.message}
                  </button>
                </div>
              ))}
            </div>
          }
        >
          <button type="button" className="chip caution">
            {attention.length} {attention.length === 1 ? 'problem' : 'problems'}
          </button>
        </Popover>
      ) : (
        <span className="chip fine">ready</span>
      )}
      <span className="dim clip grow">
        {last && (
          <>
            last run <When at={last.startedAt} /> ·{' '}
            <a onClick={() => navigate(`/runs/${last.id}`)}>
              <RunCounts run={last} />
            </a>
          </>
        )}
      </span>
      {children}
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'publish', label: 'Publish …' },
            { key: 'triggers', label: 'Triggers' },
            { key: 'alerts', label: 'Alerts' },
            { key: 'duty', label: 'Runbook and brake …' },
            { key: 'rename', label: 'Rename' },
            { key: 'sheet', label: 'Take in a mapping sheet …', disabled: !filled },
            { key: 'csv', label: 'Download the mapping as CSV' },
            { key: 'xlsx', label: 'Download the mapping as XLSX' },
            { key: 'bundle', label: 'Download as a bundle' },
            { key: 'remove', label: 'Remove', danger: true },
          ],
          onClick: ({ key }) => menu[key](),
        }}
      >
        <Button aria-label="more">⋯</Button>
      </Dropdown>
      {duty && <DutyForm file={file} onChange={onChange} onClose={() => setDuty(false)} />}
      <input
        ref={picker}
        type="file"
        hidden
        accept=".csv,.xlsx"
        aria-label="Mapping sheet"
        onChange={(e) => {
          void readSheet(e.target.files?.[0]);
          e.target.value = '';
        }}
      />
    </div>
  );
}
