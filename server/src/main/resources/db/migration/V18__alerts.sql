-- why a run does nothing at the moment, and since when; null while it does
alter table run add on_hold text, add on_hold_since timestamptz;

-- when somebody is told
create table alert_rule (
    id bigint generated always as identity primary key,
    -- null for every flow, every environment
    flow_id bigint references flow on delete cascade,
    environment text,
    kind text not null,
    spec jsonb not null,
    active boolean not null default true,
    version int not null default 1,
    changed_at timestamptz not null default now(),
    changed_by text not null
);

create table alert (
    id bigint generated always as identity primary key,
    rule_id bigint references alert_rule on delete set null,
    kind text not null,
    flow_id bigint references flow on delete cascade,
    environment text,
    run_id bigint,
    -- the same is told once
    told_key text not null unique,
    subject text not null,
    body text not null,
    raised_at timestamptz not null default now(),
    acknowledged_at timestamptz,
    acknowledged_by text,
    note text not null default ''
);
create index alert_open on alert (id) where acknowledged_at is null;

-- what is sent; several alerts of a run are one message
create table alert_message (
    id bigint generated always as identity primary key,
    channel text not null,
    target text not null,
    subject text not null,
    body text not null,
    due_at timestamptz not null,
    attempts int not null default 0,
    sent_at timestamptz,
    failure text
);
create index alert_message_due on alert_message (due_at) where sent_at is null;
