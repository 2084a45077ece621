-- answers to messages are sent to a queue: where, under which correlation, and when that was done
alter table kept_answer add reply_to text;
alter table kept_answer add correlation text;
alter table kept_answer add replied_at timestamptz;
create index kept_answer_owed on kept_answer (trigger_id, at) where reply_to is not null and replied_at is null;

-- why a record ends rejected without any work: a message that cannot be read is kept all the same
alter table request add problem text;
