-- what reaching an endpoint takes, by environment; secrets stand in the settings by name only
create table endpoint_environment (
    endpoint_id bigint not null references endpoint on delete cascade,
    environment text not null,
    address text not null default '',
    settings jsonb not null default '{}',
    primary key (endpoint_id, environment)
);

insert into endpoint_environment (endpoint_id, environment, address) select id, 'Test', test_address from endpoint;
insert into endpoint_environment (endpoint_id, environment, address) select id, 'Live', live_address from endpoint;
alter table endpoint drop column test_address, drop column live_address;

-- values are encrypted with a key that is not in the database
create table secret (
    name text primary key,
    kind text not null,
    sealed bytea not null,
    owner text,
    valid_until timestamptz,
    changed_by text not null,
    changed_at timestamptz not null default now()
);

alter table bench_call
    add sent text,
    add sent_headers jsonb not null default '{}',
    add first_byte_millis bigint,
    add name_millis bigint,
    add connect_millis bigint,
    add tls_millis bigint,
    add cause text,
    add note text;

create table bench_attachment (
    call_id bigint not null references bench_call on delete cascade,
    position int not null,
    content_id text not null,
    type text not null,
    bytes bytea not null,
    primary key (call_id, position)
);

-- a service answering in a contract's place
create table simulator (
    id bigint generated always as identity primary key,
    name text not null unique,
    contract_id bigint not null references contract on delete cascade,
    rules jsonb not null default '[]',
    version int not null default 1,
    running boolean not null default true,
    made_by text not null,
    made_at timestamptz not null default now()
);

create table simulator_request (
    id bigint generated always as identity primary key,
    simulator_id bigint not null references simulator on delete cascade,
    received_at timestamptz not null default now(),
    operation text,
    rule int,
    request text not null,
    status int not null,
    reply text,
    problem text
);

create index simulator_request_newest on simulator_request (simulator_id, id);

alter table endpoint add simulator_id bigint references simulator on delete set null;
