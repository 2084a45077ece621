import { Table } from 'antd';
import { Link, useNavigate } from 'react-router';
import type { AskPageSummary } from '../api/types';
import { EnvironmentName, useEnvironments } from '../shared/environment';
import { Find, opening, usePaged } from '../shared/paged';
import { Nothing, Trouble } from '../shared/parts';

/** The pages on which a person may ask flows. */
export function AskPageList() {
  const navigate = useNavigate();
  const environments = useEnvironments();
  const pages = usePaged<AskPageSummary>('ask-pages');
  return (
    <div className="page">
      <div className="page-head">
        <h1>Pages</h1>
        <Find placeholder="Find a page" onFind={pages.find} />
      </div>
      <Trouble error={pages.list.error} retry={() => void pages.list.refetch()} />
      {pages.none ? (
        <Nothing title="There is no page you may ask on">
          A flow that answers callers gets one by its trigger “A caller”: tick “A page for people” there.
        </Nothing>
      ) : (
        <Table<AskPageSummary>
          {...pages.table}
          onRow={opening((page) => navigate(`/pages/${page.id}`))}
          columns={[
            {
              title: 'Page',
              dataIndex: 'title',
              sorter: (a, b) => a.title.localeCompare(b.title),
              render: (title: string, page) => <Link to={`/pages/${page.id}`}>{title}</Link>,
            },
            { title: 'Flow', dataIndex: 'flow', sorter: (a, b) => a.flow.localeCompare(b.flow) },
            {
              title: 'In',
              width: 140,
              render: (_, page) => {
                const its = environments.find((e) => e.name === page.environment);
                return its ? <EnvironmentName of={its} /> : page.environment;
              },
            },
            {
              title: 'What for',
              render: (_, page) => <span className="dim">{page.note.split('\n')[0]}</span>,
            },
          ]}
        />
      )}
    </div>
  );
}
