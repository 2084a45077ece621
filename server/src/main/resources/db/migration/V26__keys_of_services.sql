-- A key may be good for several flows: those that answer the operations of one service.
alter table caller_key drop constraint caller_key_hash_key;
alter table caller_key add unique (trigger_id, hash);
