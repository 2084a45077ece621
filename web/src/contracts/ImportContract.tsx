import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Alert, Button, Input, Modal, Segmented, Spin, Upload } from 'antd';
import { useEffect, useState } from 'react';
import { api } from '../api/client';
import type { ImportJob } from '../api/types';
import { Trouble } from '../shared/parts';
import { Findings } from './Findings';

type Way = 'Files' | 'Address' | 'Text';

/** Import by files or a zip, by address, or as pasted text; a blocked host is allowed here, not elsewhere. */
export function ImportContract({ onClose, onDone }: { onClose: () => void; onDone: (id: number) => void }) {
  const [way, setWay] = useState<Way>('Files');
  const [address, setAddress] = useState('');
  const [text, setText] = useState('');
  const [files, setFiles] = useState<File[]>([]);
  const [job, setJob] = useState<ImportJob>();
  const [error, setError] = useState<unknown>();
  const client = useQueryClient();
  const watched = useQuery({
    queryKey: ['import', job?.id],
    queryFn: () => api.get<ImportJob>(`/imports/${job?.id}`),
    enabled: job?.state === 'reading',
    refetchInterval: 250,
  });
  useEffect(() => {
    if (watched.data && watched.data.id === job?.id && watched.data.state !== job?.state) {
      setJob(watched.data);
      if (watched.data.state === 'done') void client.invalidateQueries({ queryKey: ['contracts'] });
    }
  }, [watched.data, job, client]);
  const start = async () => {
    setError(undefined);
    try {
      if (way === 'Files') setJob(await api.upload<ImportJob>('/imports/files', 'files', files));
      else setJob(await api.post<ImportJob>('/imports', way === 'Address' ? { address } : { text }));
    } catch (e) {
      setError(e);
    }
  };
  const allow = async (host: string) => {
    try {
      await api.post('/allowed-hosts', { host });
      await start();
    } catch (e) {
      setError(e);
    }
  };
  const reading = job?.state === 'reading';
  const ready = way === 'Files' ? files.length > 0 : way === 'Address' ? address.trim() !== '' : text.trim() !== '';
  const done = job?.state === 'done' && job.contract !== undefined;
  return (
    <Modal
      open
      width={720}
      title="Import a contract"
      onCancel={onClose}
      footer={
        reading ? (
          <Button onClick={() => void api.post(`/imports/${job.id}/cancel`)}>Cancel the import</Button>
        ) : done ? (
          <Button type="primary" autoFocus onClick={() => onDone(Number(job.contract))}>Open the contract</Button>
        ) : (
          <Button type="primary" disabled={!ready} onClick={() => void start()}>Import</Button>
        )
      }
    >
      {!done && (
        <>
          <Segmented<Way> value={way} onChange={setWay} options={['Files', 'Address', 'Text']} style={{ marginBottom: 12 }} />
          {way === 'Files' && (
            <Upload.Dragger
              multiple
              beforeUpload={(_, all) => {
                setFiles(all);
                return false;
              }}
              fileList={files.map((f, i) => ({ uid: String(i), name: f.name }))}
              onRemove={(gone) => setFiles(files.filter((f) => f.name !== gone.name))}
            >
              <p>Drop a WSDL, several files, or a zip here, or click to choose.</p>
              <p className="dim">Files that refer to each other are found by their relative location.</p>
            </Upload.Dragger>
          )}
          {way === 'Address' && (
            <Input autoFocus className="mono" placeholder="http://…?wsdl" value={address} onChange={(e) => setAddress(e.target.value)} onPressEnter={() => void start()} />
          )}
          {way === 'Text' && (
            <Input.TextArea autoFocus rows={10} className="mono" placeholder="Paste the WSDL" value={text} onChange={(e) => setText(e.target.value)} />
          )}
        </>
      )}
      <Trouble error={error} />
      {reading && (
        <p className="row"><Spin size="small" /> <span className="dim clip">Reading {(watched.data ?? job).document} · {(watched.data ?? job).documents} documents done</span></p>
      )}
      {job && (job.state === 'refused' || job.state === 'host-refused' || job.state === 'cancelled') && (
        <Alert
          style={{ marginTop: 12 }}
          type={job.state === 'cancelled' ? 'info' : 'error'}
          showIcon
          title={job.message}
          action={job.host && <Button size="small" type="primary" onClick={() => void allow(String(job.host))}>Allow {job.host} and try again</Button>}
        />
      )}
      {done && <p>Imported with {job.documents} {job.documents === 1 ? 'document' : 'documents'}{job.findings.length === 0 ? '; nothing unusual was found.' : '. What was unusual:'}</p>}
      {done && job.host && <Alert type="warning" showIcon title={`A document at ${job.host} was not read: the host is not allowed.`} action={<Button size="small" onClick={() => void allow(String(job.host))}>Allow it and import again</Button>} />}
      {job && job.findings.length > (done ? 0 : 1) && <Findings findings={job.findings} />}
    </Modal>
  );
}
