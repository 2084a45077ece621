create table person (
    id bigint generated always as identity primary key,
    name text not null unique,
    password_hash text not null,
    may_allow_hosts boolean not null default false,
    failed_attempts int not null default 0,
    locked_until timestamptz,
    created_at timestamptz not null default now()
);

create table session (
    token_hash text primary key,
    person_id bigint not null references person on delete cascade,
    expires_at timestamptz not null
);

create table allowed_host (
    host text primary key,
    allowed_by text not null,
    allowed_at timestamptz not null default now()
);

create table contract (
    id bigint generated always as identity primary key,
    name text not null unique,
    source text not null,
    imported_at timestamptz not null default now()
);

-- content is shared by hash: the same document is kept once
create table document (
    sha256 text primary key,
    bytes bytea not null
);

create table contract_document (
    contract_id bigint not null references contract on delete cascade,
    position int not null,
    name text not null,
    sha256 text not null references document,
    primary key (contract_id, position)
);

create table operation_effect (
    contract_id bigint not null references contract on delete cascade,
    operation text not null,
    effect text not null,
    confirmed_by text not null,
    primary key (contract_id, operation)
);

create table endpoint (
    id bigint generated always as identity primary key,
    name text not null unique,
    test_address text not null default '',
    live_address text not null default ''
);

create table dataset (
    id bigint generated always as identity primary key,
    name text not null unique,
    spec jsonb not null,
    rows bigint not null default 0,
    findings jsonb not null default '[]',
    finding_count bigint not null default 0,
    created_at timestamptz not null default now()
);

create table flow (
    id bigint generated always as identity primary key,
    name text not null unique,
    revision int not null,
    changed_at timestamptz not null default now(),
    changed_by text not null
);

create table flow_revision (
    flow_id bigint not null references flow on delete cascade,
    revision int not null,
    file text not null,
    saved_at timestamptz not null default now(),
    saved_by text not null,
    primary key (flow_id, revision)
);

create table kept_reply (
    flow_id bigint not null references flow on delete cascade,
    stage text not null,
    record bigint not null,
    endpoint text not null,
    environment text not null,
    request_hash text not null,
    request text not null,
    status int not null,
    reply text,
    failure text,
    millis bigint not null,
    called_at timestamptz not null default now(),
    primary key (flow_id, stage, record, endpoint, environment)
);

create table run (
    id bigint generated always as identity primary key,
    flow_id bigint not null references flow on delete cascade,
    flow_revision int not null,
    contract_hash text not null,
    environment text not null,
    state text not null,
    started_by text not null,
    started_at timestamptz not null default now(),
    ended_at timestamptz,
    total bigint not null,
    claimed bigint not null default 0,
    output_offset bigint not null default 0,
    output_file text,
    message text
);

create table ledger (
    run_id bigint not null references run on delete cascade,
    ordinal bigint not null,
    split_path text not null,
    key text,
    fingerprint text not null,
    outcome text not null,
    rows int not null,
    failure_class text,
    cause text,
    message text,
    stage text,
    blame text,
    note text,
    input text,
    calls int not null,
    primary key (run_id, ordinal)
);

create index ledger_cause on ledger (run_id, cause) where cause is not null;

create table attempt (
    run_id bigint not null,
    ordinal bigint not null,
    number int not null,
    started_at timestamptz not null,
    millis bigint not null,
    status int not null,
    sent boolean not null,
    failure text,
    primary key (run_id, ordinal, number),
    foreign key (run_id) references run on delete cascade
);

create table exchange (
    run_id bigint not null references run on delete cascade,
    ordinal bigint not null,
    address text not null,
    request text not null,
    status int not null,
    reply text,
    primary key (run_id, ordinal)
);
