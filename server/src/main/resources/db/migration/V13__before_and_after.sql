-- what the flow adds up over its records, by name and end
alter table run add sums jsonb;
