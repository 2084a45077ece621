-- the books of a run: what may leave, what became of it, how every record ended, and what the run has come to

create function month_of(at timestamptz) returns date language sql immutable as
    $$ select date_trunc('month', at at time zone 'UTC')::date $$;

alter table run
    add limit_records bigint not null default 0,
    add pilot boolean not null default false,
    add take_results boolean not null default false,
    add read bigint not null default 0,
    add done bigint not null default 0,
    add rejected bigint not null default 0,
    add left_out bigint not null default 0,
    add in_doubt bigint not null default 0,
    add held_back bigint not null default 0,
    add saved bigint not null default 0,
    add rows bigint not null default 0,
    add calls bigint not null default 0,
    add stages jsonb not null default '{}';
alter table run rename contract_hash to contract_hashes;

-- a part of a run is worked on by whoever holds its lease; a fencing number keeps an earlier holder from writing
create table run_part (
    run_id bigint not null references run on delete cascade,
    part int not null,
    holder text not null,
    fence bigint not null,
    lease_until timestamptz not null,
    positions jsonb not null default '{}',
    primary key (run_id, part)
);

create table record_end (
    month date not null,
    run_id bigint not null,
    ordinal bigint not null,
    path text not null default '',
    part int not null default 0,
    key text,
    fingerprint text not null,
    ended text not null,
    rows int not null,
    failure_class text,
    cause text,
    message text,
    stage text,
    blame text,
    note text,
    saved boolean not null default false,
    input text,
    calls int not null,
    primary key (month, run_id, ordinal, path)
) partition by range (month);
create index record_end_cause on record_end (run_id, cause, ordinal) where cause is not null;
create index record_end_ended on record_end (run_id, ended, ordinal);

-- what was made and what came back is sealed: it is not masked, a run needs it to go on
create table passage (
    month date not null,
    run_id bigint not null,
    ordinal bigint not null,
    path text not null default '',
    stage text not null,
    number int not null,
    outcome text not null,
    changes boolean not null,
    fingerprint text,
    made bytea,
    reply bytea,
    primary key (month, run_id, ordinal, path, stage, number)
) partition by range (month);
create index passage_open on passage (run_id, ordinal) where made is not null;

create table passage_attempt (
    month date not null,
    run_id bigint not null,
    ordinal bigint not null,
    path text not null default '',
    stage text not null,
    number int not null,
    attempt int not null,
    started_at timestamptz not null,
    millis bigint not null,
    status int not null,
    sent boolean not null,
    failure text,
    primary key (month, run_id, ordinal, path, stage, number, attempt)
) partition by range (month);

create table passage_exchange (
    month date not null,
    run_id bigint not null,
    ordinal bigint not null,
    path text not null default '',
    stage text not null,
    number int not null,
    address text not null,
    request text not null,
    status int not null,
    reply text,
    primary key (month, run_id, ordinal, path, stage, number)
) partition by range (month);

create table run_cause (
    run_id bigint not null references run on delete cascade,
    failure_class text not null,
    cause text not null,
    ended text not null,
    stage text,
    blame text,
    count bigint not null,
    primary key (run_id, failure_class, cause, ended)
);

create function keep_month(wanted date) returns void language plpgsql as $$
declare
    name text;
begin
    foreach name in array array['record_end', 'passage', 'passage_attempt', 'passage_exchange'] loop
        execute format('create table if not exists %I partition of %I for values from (%L) to (%L)',
            name || to_char(wanted, '_YYYY_MM'), name, wanted, (wanted + interval '1 month')::date);
    end loop;
end $$;

select keep_month(month) from (select distinct month_of(started_at) as month from run) months;

insert into record_end (month, run_id, ordinal, key, fingerprint, ended, rows, failure_class, cause, message, stage, blame,
    note, input, calls)
select month_of(r.started_at), l.run_id, l.ordinal, l.key, l.fingerprint,
    case l.outcome when 'written' then 'done' else l.outcome end, l.rows, l.failure_class, l.cause, l.message, l.stage,
    l.blame, l.note, l.input, l.calls
from ledger l join run r on r.id = l.run_id;

-- until now a flow had one call, called "call" unless a person named it otherwise: the ledger did not say
insert into passage (month, run_id, ordinal, stage, number, outcome, changes)
select distinct month_of(r.started_at), a.run_id, a.ordinal, 'call', 1,
    case l.outcome when 'written' then 'done' when 'in-doubt' then 'in-doubt' else 'not-done' end, false
from attempt a join run r on r.id = a.run_id join ledger l on l.run_id = a.run_id and l.ordinal = a.ordinal;
insert into passage_attempt (month, run_id, ordinal, stage, number, attempt, started_at, millis, status, sent, failure)
select month_of(r.started_at), a.run_id, a.ordinal, 'call', 1, a.number, a.started_at, a.millis, a.status, a.sent, a.failure
from attempt a join run r on r.id = a.run_id;
insert into passage_exchange (month, run_id, ordinal, stage, number, address, request, status, reply)
select month_of(r.started_at), e.run_id, e.ordinal, 'call', 1, e.address, e.request, e.status, e.reply
from exchange e join run r on r.id = e.run_id;

insert into run_cause (run_id, failure_class, cause, ended, stage, blame, count)
select run_id, coalesce(failure_class, ''), cause, ended, min(stage), min(blame), count(*)
from record_end where cause is not null group by run_id, coalesce(failure_class, ''), cause, ended;

update run r set
    read = c.ended, done = c.done, rejected = c.rejected, in_doubt = c.in_doubt, rows = c.rows, calls = c.calls
from (select run_id, count(*) ended, count(*) filter (where ended = 'done') done,
        count(*) filter (where ended = 'rejected') rejected, count(*) filter (where ended = 'in-doubt') in_doubt,
        coalesce(sum(rows), 0) rows, coalesce(sum(calls), 0) calls
    from record_end group by run_id) c
where c.run_id = r.id;

drop table exchange;
drop table attempt;
drop table ledger;
alter table run drop claimed, drop output_offset;
