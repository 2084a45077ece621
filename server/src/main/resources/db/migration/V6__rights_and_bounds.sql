-- what a person may do beyond looking; run_in names environments, separated by commas
alter table person
    add build boolean not null default false,
    add manage boolean not null default false,
    add run_in text not null default '';

-- everybody could do everything but allow hosts and manage people
update person set build = true, run_in = 'Test,Live,Simulator', manage = may_allow_hosts;

alter table person drop may_allow_hosts, drop failed_attempts, drop locked_until;

-- wrong sign-ins of a name from an address: the next one waits
create table sign_in_failure (
    name text not null,
    address text not null,
    failures int not null,
    wait_until timestamptz not null,
    primary key (name, address)
);

-- where a secret may be sent, as host:port in small letters
create table secret_destination (
    secret text not null references secret on delete cascade,
    destination text not null,
    primary key (secret, destination)
);

-- secrets go on reaching the endpoints that use them
insert into secret_destination (secret, destination)
select distinct s.name,
    lower(substring(w.address from '^[Hh][Tt][Tt][Pp][Ss]?://([^/?#]+)'))
    || case when substring(w.address from '^[Hh][Tt][Tt][Pp][Ss]?://([^/?#]+)') ~ ':[0-9]+$' then ''
            when lower(w.address) like 'https:%' then ':443' else ':80' end
from secret s join endpoint_environment w
    on w.settings::text like '%"' || replace(s.name, '"', '\"') || '"%'
    or w.settings::text like '%{secret:' || s.name || '}%'
where substring(w.address from '^[Hh][Tt][Tt][Pp][Ss]?://([^/?#]+)') is not null
on conflict do nothing;

-- who made what, so that its maker may remove it
alter table contract add made_by text not null default '';
alter table dataset add made_by text not null default '';
alter table flow add made_by text not null default '';
alter table code_table add made_by text not null default '';
alter table endpoint add made_by text not null default '';

update contract c set made_by = coalesce(
    (select made_by from contract_revision r where r.contract_id = c.id order by revision limit 1), '');
update flow f set made_by = coalesce(
    (select saved_by from flow_revision r where r.flow_id = f.id order by revision limit 1), '');
update code_table set made_by = changed_by;

-- what had runs is kept with its ledger when it is removed; its name is free again
alter table flow add archived_at timestamptz, drop constraint flow_name_key;
create unique index flow_name on flow (name) where archived_at is null;
alter table contract add archived_at timestamptz, drop constraint contract_name_key;
create unique index contract_name on contract (name) where archived_at is null;
alter table run drop constraint run_flow_id_fkey, add foreign key (flow_id) references flow;

-- which datasets, contracts and endpoint a run uses while it goes on
create table run_use (
    run_id bigint not null references run on delete cascade,
    kind text not null,
    name text not null,
    primary key (run_id, kind, name)
);
