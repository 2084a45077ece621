-- which secrets stand for others in an environment, by the names fills use
alter table environment add column secrets jsonb not null default '{}';
