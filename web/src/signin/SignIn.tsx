import { Alert, Button, Input } from 'antd';
import { type FormEvent, useState } from 'react';
import { api } from '../api/client';
import type { Person } from '../api/types';

export function SignIn({ problem, onDone }: { problem?: string; onDone: (person: Person) => void }) {
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [wrong, setWrong] = useState(problem);
  const [busy, setBusy] = useState(false);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    try {
      onDone(await api.post<Person>('/sign-in', { name, password }));
    } catch (e) {
      setWrong(e instanceof Error ? e.message : String(e));
      setBusy(false);
    }
  };
  return (
    <form onSubmit={(e) => void submit(e)} className="sign-in">
      <div className="row loose gap-below-s">
        <img src="/mark.svg" alt="" width={38} />
        <div>
          <h1 className="h-title">Wire Kettle</h1>
          <div className="dim">Business data through SOAP services and back</div>
        </div>
      </div>
      {wrong && <Alert type="error" title={wrong} showIcon />}
      <label>
        Name
        <Input
          autoFocus
          name="name"
          autoComplete="username"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <label>
        Password
        <Input.Password
          name="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
      </label>
      <Button type="primary" htmlType="submit" loading={busy}>
        Sign in
      </Button>
    </form>
  );
}
