-- a sample call of an item of a record keeps a reply of its own
alter table kept_reply add path text not null default '';
alter table kept_reply drop constraint kept_reply_pkey;
alter table kept_reply add primary key (flow_id, stage, record, path, endpoint, environment);
