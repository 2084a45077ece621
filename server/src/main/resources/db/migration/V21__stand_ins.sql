-- which datasets and folders stand for others in an environment, by the names flows use
alter table environment add column datasets jsonb not null default '{}';

-- those a run began with: one that goes on has the same
alter table run add column datasets jsonb not null default '{}';
