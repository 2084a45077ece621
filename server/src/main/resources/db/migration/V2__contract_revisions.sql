-- a contract's revisions are immutable; its documents belong to one of them
create table contract_revision (
    contract_id bigint not null references contract on delete cascade,
    revision int not null,
    source text not null,
    entries jsonb not null default '[]',
    unavailable jsonb not null default '{}',
    summary jsonb,
    made_at timestamptz not null default now(),
    made_by text not null,
    primary key (contract_id, revision)
);

alter table contract add column revision int not null default 1;
alter table contract_document add column revision int not null default 1;

insert into contract_revision (contract_id, revision, source, entries, made_at, made_by)
select c.id, 1, c.source,
       (select coalesce(jsonb_agg(d.name), '[]') from contract_document d where d.contract_id = c.id and d.position = 0),
       c.imported_at, ''
from contract c;

alter table contract_document drop constraint contract_document_pkey;
alter table contract_document add primary key (contract_id, revision, position);
alter table contract_document add foreign key (contract_id, revision) references contract_revision on delete cascade;

-- how messages are written for an endpoint where the standards leave a choice
alter table endpoint add column style jsonb not null default '{}';
