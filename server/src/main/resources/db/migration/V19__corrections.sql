-- what a person changed in a record that was not done, to be sent again: texts of fields by their paths
create table correction (
    run_id bigint not null references run on delete cascade,
    ordinal bigint not null,
    fields jsonb not null,
    version int not null default 1,
    changed_at timestamptz not null default now(),
    changed_by text not null,
    primary key (run_id, ordinal)
);

-- what a person said of a record that is not done: discarded; of one in doubt: done or not-done
create table settlement (
    run_id bigint not null references run on delete cascade,
    ordinal bigint not null,
    what text not null,
    reason text not null,
    settled_at timestamptz not null default now(),
    settled_by text not null,
    primary key (run_id, ordinal)
);

alter table run
    -- how many of its records were discarded, and how many in doubt were settled: what is still open is a count
    add discarded bigint not null default 0,
    add doubt_settled bigint not null default 0,
    -- what a run that sends again does with what was done before: kept, or anew
    add done_before text;
alter table run_pick add fields jsonb;

-- a record by its business key, over all runs
create index record_end_key on record_end (key text_pattern_ops) where key is not null;
