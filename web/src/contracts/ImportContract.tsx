import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Alert, Button, Checkbox, Input, Modal, Segmented, Spin, Upload } from 'antd';
import { useEffect, useState } from 'react';
import { api, query } from '../api/client';
import type { Contract, ImportJob, ImportObstacle } from '../api/types';
import { Trouble } from '../shared/parts';
import { DescribeByHand, NO_DESCRIPTION } from './DescribeByHand';
import { Findings } from './Findings';

type Way = 'Files' | 'Address' | 'Text' | 'By hand';
type Access = {
  user: string;
  password: string;
  proxy: string;
  proxyUser: string;
  proxyPassword: string;
  trust: string;
};
const NO_ACCESS: Access = { user: '', password: '', proxy: '', proxyUser: '', proxyPassword: '', trust: '' };

/**
 * Import by files or a zip, by address, or as pasted text; a blocked host, a login, a proxy or an unknown certificate
 * is solved here, not elsewhere. With a contract it reads that one again.
 */
export function ImportContract({
  refreshes,
  onClose,
  onDone,
}: {
  refreshes?: Contract;
  onClose: () => void;
  onDone: (id: number, job: number) => void;
}) {
  const fromWeb = refreshes && /^https?:/i.test(refreshes.source);
  const [way, setWay] = useState<Way>(fromWeb ? 'Address' : 'Files');
  const [address, setAddress] = useState(fromWeb ? refreshes.source : '');
  const [text, setText] = useState('');
  const [files, setFiles] = useState<File[]>([]);
  const [described, setDescribed] = useState(NO_DESCRIPTION);
  const [strict, setStrict] = useState(false);
  const [access, setAccess] = useState(NO_ACCESS);
  const [more, setMore] = useState(false);
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
  const start = async (also: Partial<Access> = {}) => {
    setError(undefined);
    setAccess({ ...access, ...also });
    try {
      if (way === 'Files')
        setJob(
          await api.upload<ImportJob>(
            `/imports/files${query({ contract: refreshes?.id, strict: strict || undefined })}`,
            'files',
            files,
          ),
        );
      else if (way === 'By hand')
        setJob(
          await api.post<ImportJob>('/imports/described', { contract: refreshes?.id, operation: described }),
        );
      else
        setJob(
          await api.post<ImportJob>('/imports', {
            contract: refreshes?.id,
            strict,
            ...(way === 'Address' ? { address, ...access, ...also } : { text }),
          }),
        );
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
  const ready =
    way === 'By hand'
      ? described.name !== '' && described.path !== ''
      : way === 'Files'
        ? files.length > 0
        : way === 'Address'
          ? address.trim() !== ''
          : text.trim() !== '';
  const done = job?.state === 'done' && job.contract !== undefined;
  const field = (name: keyof Access, placeholder: string) =>
    name.toLowerCase().includes('password') ? (
      <Input.Password
        className="field-xl"
        placeholder={placeholder}
        autoComplete="off"
        value={access[name]}
        onChange={(e) => setAccess({ ...access, [name]: e.target.value })}
      />
    ) : (
      <Input
        className="field-xl"
        placeholder={placeholder}
        autoComplete="off"
        value={access[name]}
        onChange={(e) => setAccess({ ...access, [name]: e.target.value })}
      />
    );
  return (
    <Modal
      open
      width={760}
      title={refreshes ? `Refresh ${refreshes.name}` : 'Import a contract'}
      onCancel={onClose}
      footer={
        reading ? (
          <Button onClick={() => void api.post(`/imports/${job.id}/cancel`)}>Cancel the import</Button>
        ) : done ? (
          <Button type="primary" autoFocus onClick={() => onDone(Number(job.contract), job.id)}>
            {refreshes ? 'See what changed' : 'Open the contract'}
          </Button>
        ) : (
          <Button type="primary" disabled={!ready} onClick={() => void start()}>
            {refreshes ? 'Read it again' : way === 'By hand' ? 'Make the contract' : 'Import'}
          </Button>
        )
      }
    >
      {!done && (
        <>
          <Segmented<Way>
            value={way}
            onChange={setWay}
            options={['Files', 'Address', 'Text', 'By hand']}
            className="gap-below"
          />
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
              <p>Drop a WSDL or an OpenAPI document, several files, or a zip here, or click to choose.</p>
              <p className="dim">Files that refer to each other are found by their relative location.</p>
            </Upload.Dragger>
          )}
          {way === 'Address' && (
            <Input
              autoFocus
              className="mono"
              placeholder="http://…?wsdl or …/openapi.json"
              value={address}
              onChange={(e) => setAddress(e.target.value)}
              onPressEnter={() => void start()}
            />
          )}
          {way === 'Text' && (
            <Input.TextArea
              autoFocus
              rows={10}
              className="mono"
              placeholder="Paste the WSDL or OpenAPI document"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          )}
          {way === 'By hand' && (
            <DescribeByHand value={described} onChange={setDescribed} adding={!!refreshes} />
          )}
          <div className="row" style={{ marginTop: 10, display: way === 'By hand' ? 'none' : undefined }}>
            <Checkbox checked={strict} onChange={(e) => setStrict(e.target.checked)}>
              Refuse instead of repairing
            </Checkbox>
            <span className="grow" />
            {way === 'Address' && (
              <button type="button" className="linkish" onClick={() => setMore(!more)}>
                {more ? 'No login or proxy' : 'Login or proxy'}
              </button>
            )}
          </div>
          {way === 'Address' && more && (
            <div className="labelled-several gap-above">
              <span className="dim">Login</span>
              {field('user', 'name')}
              {field('password', 'password')}
              <span className="dim">used once, not kept</span>
              <span className="dim">Proxy</span>
              {field('proxy', 'host:port')}
              <span />
              <span />
              <span className="dim">Proxy login</span>
              {field('proxyUser', 'name')}
              {field('proxyPassword', 'password')}
              <span />
            </div>
          )}
        </>
      )}
      <Trouble error={error} />
      {reading && (
        <p className="row">
          <Spin size="small" />{' '}
          <span className="dim clip">
            Reading {(watched.data ?? job).document} · {(watched.data ?? job).documents} documents done
          </span>
        </p>
      )}
      {job && (job.state === 'refused' || job.state === 'cancelled') && !job.obstacle && (
        <Alert
          className="gap-above"
          type={job.state === 'cancelled' ? 'info' : 'error'}
          showIcon
          title={job.message}
        />
      )}
      {done && (
        <p>
          {refreshes ? 'Read' : 'Imported'} with {job.documents}{' '}
          {job.documents === 1 ? 'document' : 'documents'}
          {job.findings.length === 0 ? '; nothing unusual was found.' : '. What was unusual:'}
        </p>
      )}
      {job && !reading && job.obstacle && (
        <Obstacle
          obstacle={job.obstacle}
          partly={done}
          known={job.obstacle.kind === 'proxy-login' ? access.proxyUser : access.user}
          onAllow={allow}
          onAccess={(also) => void start(also)}
        />
      )}
      {job && job.findings.length > (done ? 0 : 1) && <Findings findings={job.findings} />}
    </Modal>
  );
}

/** What stands between the import and a document, with the way past it. */
function Obstacle({
  obstacle,
  partly,
  known,
  onAllow,
  onAccess,
}: {
  obstacle: ImportObstacle;
  partly: boolean;
  known: string;
  onAllow: (host: string) => Promise<void>;
  onAccess: (access: Partial<Access>) => void;
}) {
  const [name, setName] = useState(known);
  const [password, setPassword] = useState('');
  const proxy = obstacle.kind === 'proxy-login';
  const login = () =>
    name && onAccess(proxy ? { proxyUser: name, proxyPassword: password } : { user: name, password });
  return (
    <Alert
      className="gap-around"
      type={partly ? 'warning' : 'error'}
      showIcon
      title={`${partly ? 'A document was not read: ' : ''}${obstacle.message}`}
      description={
        obstacle.kind === 'certificate' ? (
          <>
            <div>
              It names <b>{obstacle.subject}</b>, signed by{' '}
              {obstacle.issuer === obstacle.subject ? 'itself' : obstacle.issuer}, valid until{' '}
              {obstacle.validUntil?.slice(0, 10)}.
            </div>
            <div className="mono anywhere gap-around-s">
              SHA-256 {obstacle.fingerprint?.match(/../g)?.join(':').toUpperCase()}
            </div>
            <Button size="small" type="primary" onClick={() => onAccess({ trust: obstacle.fingerprint })}>
              Trust this certificate for this import
            </Button>
          </>
        ) : obstacle.kind === 'host' ? (
          <Button size="small" type="primary" onClick={() => void onAllow(obstacle.host)}>
            Allow {obstacle.host} and try again
          </Button>
        ) : (
          <div className="row">
            <Input
              size="small"
              className="field-l"
              placeholder="name"
              aria-label="Login name"
              autoFocus={!known}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <Input.Password
              size="small"
              className="field-l"
              placeholder="password"
              aria-label="Login password"
              autoFocus={!!known}
              value={password}
              onChange={(e) => setPassword(e.target.value)}
              onPressEnter={login}
            />
            <Button size="small" type="primary" disabled={!name} onClick={login}>
              Log in and try again
            </Button>
            <span className="dim">used once, not kept</span>
          </div>
        )
      }
    />
  );
}
