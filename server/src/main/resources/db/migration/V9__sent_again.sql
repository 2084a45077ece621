-- how many of a run's records were sent again: what is still open is a count that moves, not one that is made
alter table run add resent bigint not null default 0;
update run r set resent = (select count(*) from run_pick k where k.origin_run = r.id);
