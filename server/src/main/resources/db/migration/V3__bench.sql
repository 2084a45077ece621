-- every call made by hand on the bench
create table bench_call (
    id bigint generated always as identity primary key,
    contract_id bigint not null references contract on delete cascade,
    service text not null,
    port text not null,
    operation text not null,
    endpoint text not null,
    environment text not null,
    address text not null,
    name text not null default '',
    state text not null,
    request text not null,
    status int not null default 0,
    headers jsonb not null default '{}',
    reply text,
    reply_bytes bigint not null default 0,
    failure text,
    millis bigint not null default 0,
    called_by text not null,
    called_at timestamptz not null default now()
);

create index bench_call_operation on bench_call (contract_id, port, operation, id);
