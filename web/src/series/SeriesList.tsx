import { useQueryClient } from '@tanstack/react-query';
import { Button, Table } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { Series, SeriesNumber } from '../api/types';
import { NamedList } from '../shared/NamedList';
import { usePaged } from '../shared/paged';
import { Trouble } from '../shared/parts';
import { SeriesForm } from './SeriesForm';

const SAYS = {
  of: 'series',
  one: 'a series',
  intro:
    'A Map draws a number of a series for a record; it is kept before it is sent, and no other record gets it.' +
    ' Every environment counts for itself.',
  none: 'No series yet',
  whereFrom: 'Papers, bookings, letters: whatever needs a number of its own.',
  removing: 'Where it stands is forgotten. Maps that draw from it reject their records.',
};

/** Series: numbers that flows draw in order, where they stand in each environment, and which numbers are open. */
export function SeriesList() {
  const client = useQueryClient();
  const [open, setOpen] = useState<Series | 'new'>();
  const again = () => client.invalidateQueries({ queryKey: ['series'] });
  return (
    <>
      <NamedList<Series>
        says={SAYS}
        onAdd={() => setOpen('new')}
        expandable={{
          rowExpandable: (row) => row.gapless && row.open > 0,
          expandedRowRender: (row) => <OpenNumbers series={row} onSettled={() => void again()} />,
        }}
        name={(row) => (
          <button type="button" className="linkish" onClick={() => setOpen(row)}>
            {row.name}
          </button>
        )}
        columns={[
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
        ]}
      />
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
