-- codes of one side and what they are called on the other, shared by flows
create table code_table (
    id bigint generated always as identity primary key,
    name text not null unique,
    otherwise text,
    entries jsonb not null default '[]',
    version int not null default 1,
    changed_at timestamptz not null default now(),
    changed_by text not null
);

-- what people accepted between a contract's operation and a dataset, so that it is proposed again
create table accepted_wire (
    contract text not null,
    operation text not null,
    dataset text not null,
    target text not null,
    wire text not null,
    accepted_at timestamptz not null default now(),
    primary key (contract, operation, dataset, target)
);
