-- The newest block that reported anything of a run: with the oldest, where its start and its end stand
-- in the log, also of an end that says nothing else. 0 where it is not known; a rebuild finds it.
alter table catalog.run add column last_block bigint not null default 0;
