-- the last record that needs what was claimed for a batch under the record that leads it; null for what is a record's own
alter table passage add last_member bigint;

-- the places a record had in batches, as JSON; null where it was in none
alter table record_end add batches text;

-- what a record that was not done was accepted with, sealed, so that it is not sent in a batch again; null for nothing
alter table record_end add verdicts bytea;
