-- how the items of a record ended that are not simply done, as JSON; null where there is none
alter table record_end add items text;
