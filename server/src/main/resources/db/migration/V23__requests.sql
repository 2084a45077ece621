-- what callers sent, until their records have an end: sealed
create table request (
    run_id bigint not null references run on delete cascade,
    ordinal bigint not null,
    input bytea not null,
    primary key (run_id, ordinal)
);

-- keys of callers; their hashes only
create table caller_key (
    id bigint generated always as identity primary key,
    trigger_id bigint not null references flow_trigger on delete cascade,
    name text not null,
    hash text not null unique,
    ends_at timestamptz,
    made_by text not null,
    made_at timestamptz not null default now(),
    used_at timestamptz,
    unique (trigger_id, name)
);

-- one flow answers at a path
create unique index flow_trigger_path on flow_trigger ((spec ->> 'path')) where kind = 'http';
