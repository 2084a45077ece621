-- where flows run and operations are called: what hangs on one (endpoints, rights, series, watermarks) names it
create table environment (
    name text primary key,
    colour text not null,
    position int not null,
    live boolean not null default false,
    -- its constants by name, in reach of flows as $env
    named_values jsonb not null default '{}',
    version int not null default 1,
    changed_at timestamptz not null default now(),
    changed_by text not null default ''
);
insert into environment (name, colour, position, live) values
    ('Test', 'slate', 1, false), ('Live', 'ink', 2, true), ('Simulator', 'moss', 3, false);

-- the values a run began with: one that goes on has the same
alter table run add named_values jsonb not null default '{}';
