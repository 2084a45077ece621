import { App, Input, Modal } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { Person } from '../api/types';
import { Trouble } from './parts';

/** A new password for oneself or, by those who manage people, for another; it asks for one's own as it is now. */
export function NewPassword({ person, own, onClose }: { person: Person; own: boolean; onClose: () => void }) {
  const { message } = App.useApp();
  const [old, setOld] = useState('');
  const [password, setPassword] = useState('');
  const [error, setError] = useState<unknown>();
  const set = async () => {
    setError(undefined);
    try {
      await api.put(`/people/${person.id}/password`, { password, old });
      void message.success(
        own ? 'Set; you are signed out everywhere else' : `Set; ${person.name} is signed out everywhere`,
      );
      onClose();
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal
      open
      title={own ? 'New password' : `New password for ${person.name}`}
      okText="Set"
      okButtonProps={{ disabled: !old || !password }}
      onOk={() => void set()}
      onCancel={onClose}
      destroyOnHidden
    >
      <div className="stack loose">
        <Input.Password
          autoFocus
          placeholder={own ? 'Your password now' : 'Your own password'}
          aria-label="Old password"
          autoComplete="current-password"
          value={old}
          onChange={(e) => setOld(e.target.value)}
        />
        <Input.Password
          placeholder="The new one, at least 12 characters"
          aria-label="New password"
          autoComplete="new-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
          onPressEnter={() => old && password && void set()}
        />
        <p className="dim flush">
          All sessions of {own ? 'yours' : person.name} end{own && ', but this one'}.
        </p>
        <Trouble error={error} />
      </div>
    </Modal>
  );
}
