-- which revision of a flow is in force where: of a flow and an environment the newest line counts
create table publication (
    id bigint generated always as identity primary key,
    flow_id bigint not null references flow on delete cascade,
    environment text not null,
    -- null: nothing is in force any more
    revision int,
    -- the revisions of the contracts it calls, by their names, and the named values as they were
    contracts jsonb not null default '{}',
    named_values jsonb not null default '{}',
    note text not null default '',
    -- what was in force before it, and is again when it is taken back
    before_id bigint references publication on delete set null,
    published_at timestamptz not null default now(),
    published_by text not null
);
create index publication_newest on publication (flow_id, environment, id desc);

-- runs of before do not say which revisions of contracts they began with
alter table run
    add contracts jsonb,
    -- what began it: by hand, or the trigger and its kind, with the file that came
    add begun_by text not null default 'hand',
    add trigger_id bigint,
    add file text,
    -- what a person asked of it at a server that does not hold it: pause, cancel or cancel-take
    add wanted text;

create table working_days (
    id bigint generated always as identity primary key,
    name text not null unique,
    -- numbers of days of the week, 1 is Monday; dates as text
    weekdays_off jsonb not null default '[]',
    dates_off jsonb not null default '[]',
    opens time not null default '00:00',
    cut_off time,
    version int not null default 1,
    changed_at timestamptz not null default now(),
    changed_by text not null,
    made_by text not null
);

create table flow_trigger (
    id bigint generated always as identity primary key,
    flow_id bigint not null references flow on delete cascade,
    environment text not null,
    kind text not null,
    spec jsonb not null,
    active boolean not null,
    version int not null default 1,
    -- when it is due next; only a clock is
    due_at timestamptz,
    -- whether it was due while a run of its flow went on, and starts when that has ended
    waiting boolean not null default false,
    changed_at timestamptz not null default now(),
    changed_by text not null,
    made_by text not null
);
create index flow_trigger_flow on flow_trigger (flow_id);

-- what a trigger did: started a run, or why it did not
create table trigger_event (
    id bigint generated always as identity primary key,
    trigger_id bigint not null references flow_trigger on delete cascade,
    at timestamptz not null default now(),
    what text not null,
    message text not null default '',
    run_id bigint
);
create index trigger_event_newest on trigger_event (trigger_id, id desc);

-- the times of a clock that were taken care of: each by one server
create table trigger_time (
    trigger_id bigint not null references flow_trigger on delete cascade,
    due_at timestamptz not null,
    taken_at timestamptz not null default now(),
    primary key (trigger_id, due_at)
);

-- files a trigger has taken, by their content: the same content again is noticed
create table taken_file (
    trigger_id bigint not null references flow_trigger on delete cascade,
    sha256 text not null,
    name text not null,
    run_id bigint,
    taken_at timestamptz not null default now(),
    primary key (trigger_id, sha256)
);

-- a secret's next value, and from when it counts
create table secret_next (
    name text primary key references secret on delete cascade,
    kind text not null,
    sealed bytea not null,
    owner text,
    valid_until timestamptz,
    from_at timestamptz not null,
    written_by text not null
);

-- counts changes of secrets: every server reads them anew then
create sequence secret_version;
