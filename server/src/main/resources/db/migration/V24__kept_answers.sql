-- answers that may be asked for later: of callers who do not wait, and of those who name what they send. It counts once
-- its record has an end in the ledger; the answer is sealed
create table kept_answer (
    place text primary key,
    trigger_id bigint not null references flow_trigger on delete cascade,
    caller text not null,
    -- the caller's own name for what was sent: the same again gets the same answer
    named text,
    -- a hash of what was sent
    sent text not null,
    -- whether the caller does not wait
    later boolean not null,
    run_id bigint not null references run on delete cascade,
    ordinal bigint not null,
    answer bytea,
    at timestamptz not null default now(),
    unique (run_id, ordinal)
);
create unique index kept_answer_named on kept_answer (trigger_id, caller, named) where named is not null;
create index kept_answer_at on kept_answer (at);

-- how many requests a minute a key is good for; null for any number
alter table caller_key add a_minute int;

-- what callers asked and got, by minutes: how many were answered within 1, 2, 5 … ms (the bounds are in AnswerTimes)
create table caller_minute (
    trigger_id bigint not null references flow_trigger on delete cascade,
    at timestamptz not null,
    caller text not null,
    status int not null,
    answered bigint[] not null,
    primary key (trigger_id, at, caller, status)
);
create index caller_minute_at on caller_minute (at);
