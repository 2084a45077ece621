import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Modal } from 'antd';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../api/client';
import type { BundleComparison, BundleTaken } from '../api/types';
import { Differences } from '../publish/Differences';
import { Trouble } from '../shared/parts';

/** Takes a flow bundle of another installation in, after showing what it would change here. */
export function TakeBundle() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { message } = App.useApp();
  const picker = useRef<HTMLInputElement>(null);
  const [given, setGiven] = useState<{ file: File; comparison: BundleComparison }>();
  const [error, setError] = useState<unknown>();
  const form = (file: File) => {
    const body = new FormData();
    body.append('file', file);
    return body;
  };
  const look = async (file: File | undefined) => {
    if (!file) return;
    setError(undefined);
    try {
      setGiven({ file, comparison: await api.form<BundleComparison>('/bundles/comparison', form(file)) });
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e), 8);
    }
  };
  const take = async () => {
    if (!given) return;
    try {
      const taken = await api.form<BundleTaken>('/bundles', form(given.file));
      await client.invalidateQueries();
      navigate(`/flows/${taken.flowId}`);
    } catch (e) {
      setError(e);
    }
  };
  const its = given?.comparison;
  return (
    <>
      <Button onClick={() => picker.current?.click()}>Take in a bundle …</Button>
      {its && (
        <Modal
          open
          width={760}
          title={`Take in ${its.name}?`}
          okText={its.flowId ? `Take in as revision ${(its.revision ?? 0) + 1}` : 'Take in'}
          onOk={() => void take()}
          onCancel={() => setGiven(undefined)}
        >
          <Trouble error={error} />
          <p className="dim">
            {its.flowId
              ? `It becomes the next revision of the flow here; what differs from revision ${its.revision}:`
              : 'There is no flow of this name here: all of it is new.'}
          </p>
          <div className="short-list">
            <Differences stages={its.stages} uses={its.uses} />
          </div>
        </Modal>
      )}
      <input
        ref={picker}
        type="file"
        hidden
        accept=".zip"
        aria-label="Flow bundle"
        onChange={(e) => {
          void look(e.target.files?.[0]);
          e.target.value = '';
        }}
      />
    </>
  );
}
