import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Table } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { Series, SeriesNumber } from '../api/types';
import { Find, usePaged } from '../shared/paged';
import { Nothing, Trouble, When } from '../shared/parts';
import { SeriesForm } from './SeriesForm';

/** Series: numbers that flows draw in order, where they stand in each environment, and which numbers are open. */
export function SeriesList() {
  const client = useQueryClient();
  const { modal } = App.useApp();
  const [sort, setSort] = useState('name');
  const [open, setOpen] = useState<Series | 'new'>();
  const list = usePaged<Series>('series', { sort });
  const again = () => client.invalidateQueries({ queryKey: ['series'] });
  const remove = (row: Series) =>
    modal.confirm({
      title: `Remove ${row.name}?`,
      content: 'Where it stands is forgotten. Maps that draw from it reject their records.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: async () => {
        await api.remove(`/series/${row.id}`);
        await again();
      },
    });
  const add = (
    <Button type="primary" onClick={() => setOpen('new')}>
      Add a series
    </Button>
  );
  return (
    <>
      <p className="dim">
        A Map draws a number of a series for a record; it is kept before it is sent, and no other record gets
        it. Every environment counts for itself.
      </p>
      <Trouble error={list.list.error} />
      {list.none ? (
        <Nothing title="No series yet" action={add}>
          Papers, bookings, letters: whatever needs a number of its own.
        </Nothing>
      ) : (
        <>
          <div className="row gap-below">
            {add}
            <span className="grow" />
            <Find placeholder="Find a series" onFind={list.find} />
          </div>
          <Table<Series>
            {...list.table}
            onChange={(_, __, sorter) =>
              setSort(
                !Array.isArray(sorter) && sorter.field === 'changedAt' && sorter.order ? 'changed' : 'name',
              )
            }
            expandable={{
              rowExpandable: (row) => row.gapless && row.open > 0,
              expandedRowRender: (row) => <OpenNumbers series={row} onSettled={() => void again()} />,
            }}
            columns={[
              {
                title: 'Name',
                dataIndex: 'name',
                sorter: true,
                render: (name: string, row) => (
                  <button type="button" className="linkish" onClick={() => setOpen(row)}>
                    {name}
                  </button>
                ),
              },
              {
                title: 'Numbers',
                width: 140,
                render: (_, row) => (row.gapless ? 'without gaps' : 'only increasing'),
              },
              {
                title: 'Next',
                render: (_, row) =>
                  row.positions.length ? (
                    row.positions.map((p) => (
                      <div key={`${p.environment} ${p.year}`}>
                        <span className="dim">{p.environment}</span> <span className="mono">{p.next}</span>
                      </div>
                    ))
                  ) : (
                    <>
                      <span className="mono">{row.first}</span> <span className="dim">none drawn yet</span>
                    </>
                  ),
              },
              {
                title: 'Open',
                dataIndex: 'open',
                align: 'right',
                width: 80,
                render: (n: number) => (n ? n : ''),
              },
              {
                title: 'Changed',
                dataIndex: 'changedAt',
                sorter: true,
                width: 160,
                render: (at: string) => <When at={at} />,
              },
              { title: 'by', dataIndex: 'changedBy', width: 100 },
              {
                width: 90,
                render: (_, row) => (
                  <Button size="small" type="text" onClick={() => remove(row)}>
                    Remove
                  </Button>
                ),
              },
            ]}
          />
        </>
      )}
      {open && (
        <SeriesForm
          series={open === 'new' ? undefined : open}
          onClose={() => setOpen(undefined)}
          onSaved={() => {
            setOpen(undefined);
            void again();
          }}
        />
      )}
    </>
  );
}

const GOES_ON = ['running', 'paused', 'interrupted'];

/** The numbers that records hold, and those that were given back. */
function OpenNumbers({ series, onSettled }: { series: Series; onSettled: () => void }) {
  const [error, setError] = useState<unknown>();
  const numbers = usePaged<SeriesNumber & { id: number }>(`series/${series.id}/numbers`);
  const settle = async (row: SeriesNumber, used: boolean) => {
    setError(undefined);
    try {
      const { environment, year, number } = row;
      await api.post(`/series/${series.id}/numbers/settled`, { environment, year, number, used });
      onSettled();
      await numbers.list.refetch();
    } catch (e) {
      setError(e);
    }
  };
  return (
    <>
      <Trouble error={error ?? numbers.list.error} />
      <Table<SeriesNumber & { id: number }>
        {...numbers.table}
        rowKey={(row) => `${row.environment} ${row.year} ${row.number}`}
        columns={[
          { title: 'Environment', dataIndex: 'environment', width: 120 },
          { title: 'Number', dataIndex: 'text', className: 'mono' },
          {
            title: '',
            render: (_, row) =>
              row.run ? (
                <>
                  held by{' '}
                  <Link to={`/runs/${row.run}?record=${row.ordinal}`}>
                    run {row.run}, record {row.ordinal}
                  </Link>{' '}
                  <span className="dim">{row.runState}</span>
                </>
              ) : (
                <span className="dim">given back: it is drawn next</span>
              ),
          },
          {
            width: 230,
            render: (_, row) =>
              row.run &&
              !GOES_ON.includes(row.runState ?? '') && (
                <span className="row">
                  <Button size="small" onClick={() => void settle(row, true)}>
                    Count as used
                  </Button>
                  <Button size="small" onClick={() => void settle(row, false)}>
                    Give back
                  </Button>
                </span>
              ),
          },
        ]}
      />
    </>
  );
}
