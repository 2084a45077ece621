-- series numbers are drawn from; the counters are of each environment
create table series (
    id bigint generated always as identity primary key,
    name text not null unique,
    gapless boolean not null,
    start bigint not null,
    pattern text,
    yearly boolean not null,
    zone text,
    version int not null default 1,
    changed_at timestamptz not null default now(),
    changed_by text not null,
    made_by text not null
);

-- the number drawn next; year is 0 where a series goes on over the years
create table series_next (
    series_id bigint not null references series on delete cascade,
    environment text not null,
    year int not null,
    next bigint not null,
    primary key (series_id, environment, year)
);

-- numbers of gapless series that are held by a record on its way, or were given back: then no run holds them
create table series_number (
    series_id bigint not null references series on delete cascade,
    environment text not null,
    year int not null,
    number bigint not null,
    run_id bigint,
    ordinal bigint,
    path text,
    stage text,
    primary key (series_id, environment, year, number)
);
create unique index series_number_place on series_number (run_id, ordinal, path, stage, series_id)
    where run_id is not null;

-- the numbers drawn for a record, as JSON; and, sealed, what it hands on to the next one of its key
alter table record_end add numbers text, add carried bytea;
create index record_end_carried on record_end (run_id, key, ordinal) where carried is not null;

-- how far a flow has read the operation that gives its records
create table watermark (
    flow_id bigint not null references flow on delete cascade,
    environment text not null,
    value text not null,
    run_id bigint,
    moved_at timestamptz not null default now(),
    primary key (flow_id, environment)
);
