-- the stages each record came to, by their numbers in the outline; runs from before do not say it
alter table record_end add entered text;

-- a run that sends records of another one again: which of that one's records its own are
alter table run add origin_run bigint references run;
create table run_pick (
    run_id bigint not null references run on delete cascade,
    ordinal bigint not null,
    origin_run bigint not null,
    origin_ordinal bigint not null,
    primary key (run_id, ordinal),
    unique (origin_run, origin_ordinal)
);
