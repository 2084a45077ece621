import { useQueryClient } from '@tanstack/react-query';
import { Dropdown, Modal, Select } from 'antd';
import { type ReactNode, useMemo, useState } from 'react';
import { NavLink, useNavigate } from 'react-router';
import { api } from '../api/client';
import type { Person } from '../api/types';
import { type Environment, EnvironmentContext, EnvironmentName, useEnvironments } from './environment';
import { Finder } from './Finder';
import { KeyList } from './KeyList';
import { NewPassword } from './NewPassword';
import css from './Shell.module.css';
import { useKeys } from './useKeys';

const SCREENS = [
  ['/', 'Desk'],
  ['/contracts', 'Contracts'],
  ['/datasets', 'Datasets'],
  ['/flows', 'Flows'],
  ['/runs', 'Runs'],
  ['/pages', 'Pages'],
  ['/settings', 'Settings'],
] as const;

export function Shell({ person, children }: { person: Person; children: ReactNode }) {
  const all = useEnvironments();
  const [wanted, setWanted] = useState(localStorage.getItem('environment') ?? 'Test');
  const there = all.length === 0 || all.some((e) => e.name === wanted);
  const environment: Environment = there ? wanted : (all.find((e) => !e.live)?.name ?? wanted);
  const its = all.find((e) => e.name === environment);
  const [finding, setFinding] = useState(false);
  const [keys, setKeys] = useState(false);
  const [password, setPassword] = useState(false);
  const client = useQueryClient();
  const navigate = useNavigate();
  useKeys({ 'Ctrl+k': () => setFinding(true), '?': () => setKeys(true) }, ['Ctrl+k']);
  const chosen = useMemo(
    () => ({
      environment,
      choose: (e: Environment) => {
        localStorage.setItem('environment', e);
        setWanted(e);
      },
    }),
    [environment],
  );
  const signOut = async () => {
    await api.post('/sign-out');
    client.clear();
    client.setQueryData(['me'], null);
    navigate('/');
  };
  return (
    <EnvironmentContext.Provider value={chosen}>
      <div className={css.shell}>
        <header className={`${css.bar} ${its ? `env-${its.colour}` : ''} ${its?.live ? css.live : ''}`}>
          <b>Wire Kettle</b>
          <nav className={css.nav}>
            {SCREENS.map(([to, name]) => (
              <NavLink
                key={to}
                to={to}
                end={to === '/'}
                className={({ isActive }) => (isActive ? css.on : '')}
              >
                {name}
              </NavLink>
            ))}
          </nav>
          <button type="button" className={css.find} onClick={() => setFinding(true)}>
            <span>Find anything</span>
            <kbd>Ctrl K</kbd>
          </button>
          <Select
            aria-label="Environment"
            size="small"
            value={environment}
            onChange={(e: Environment) => {
              chosen.choose(e);
              // keys belong to the page again
              (document.activeElement as HTMLElement | null)?.blur();
            }}
            className="field-m"
            options={all.map((e) => ({ value: e.name, label: <EnvironmentName of={e} /> }))}
          />
          <Dropdown
            trigger={['click']}
            menu={{
              items: [
                { key: 'keys', label: 'Keys', extra: '?' },
                { key: 'password', label: 'New password' },
                { key: 'out', label: 'Sign out' },
              ],
              onClick: ({ key }) => {
                if (key === 'out') void signOut();
                else if (key === 'password') setPassword(true);
                else setKeys(true);
              },
            }}
          >
            <button type="button" className="linkish plain-link">
              {person.name}
            </button>
          </Dropdown>
        </header>
        <main className={css.main}>{children}</main>
      </div>
      {finding && <Finder onClose={() => setFinding(false)} />}
      {password && <NewPassword person={person} own onClose={() => setPassword(false)} />}
      <Modal open={keys} onCancel={() => setKeys(false)} footer={null} title="Keys" width={560}>
        <KeyList />
      </Modal>
    </EnvironmentContext.Provider>
  );
}
