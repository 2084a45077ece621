import { Tabs } from 'antd';
import type { AskPage } from '../api/types';
import { EnvironmentName, useEnvironments } from '../shared/environment';
import { AskForm } from './AskForm';
import { AskMany } from './AskMany';
import { AskResults } from './AskResults';
import css from './ask.module.css';
import { type Send, useAsking } from './useAsking';

/** A page on which people type what they ask, or paste many rows, and see what comes back. */
export function AskPanes({ page, send, named }: { page: AskPage; send: Send; named: boolean }) {
  const { results, going, ask, cancel, clear } = useAsking(page, send);
  return (
    <main className={css.page}>
      <header>
        <h1 className={css.title}>{page.title}</h1>
        {named && <In environment={page.environment} />}
        {page.note && <p className={css.note}>{page.note}</p>}
      </header>
      <div className={css.panes}>
        <Tabs
          className={css.left}
          items={[
            {
              key: 'one',
              label: 'One',
              children: <AskForm page={page} busy={going > 0} ask={ask} />,
            },
            {
              key: 'many',
              label: 'Many rows',
              children: <AskMany page={page} going={going} ask={ask} cancel={cancel} />,
            },
          ]}
        />
        <AskResults page={page} results={results} clear={clear} />
      </div>
    </main>
  );
}

function In({ environment }: { environment: string }) {
  const its = useEnvironments().find((e) => e.name === environment);
  return its ? <EnvironmentName of={its} /> : null;
}
