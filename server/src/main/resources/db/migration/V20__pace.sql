-- how a run went over time, in steps of five seconds: records that ended, those that failed, calls, and how many calls
-- were answered within 1, 2, 5, 10, 20, 50 … ms (the bounds are in Pace)
create table run_pace (
    run_id bigint not null references run on delete cascade,
    at timestamptz not null,
    ended bigint not null,
    failed bigint not null,
    calls bigint not null,
    answered bigint[] not null,
    primary key (run_id, at)
);

-- the records whose calls took longest, as JSON
alter table run add slowest jsonb not null default '[]';

create function add_arrays(a bigint[], b bigint[]) returns bigint[] language sql immutable as
    $$ select array_agg(coalesce(x, 0) + coalesce(y, 0) order by i) from unnest(a, b) with ordinality as t (x, y, i) $$;
