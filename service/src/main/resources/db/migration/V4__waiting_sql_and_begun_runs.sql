-- The jobs and views whose SQL could not be read in time: it is read again later.
create table catalog.pending_sql (
  owner_kind  smallint not null,
  owner_id    bigint not null,
  primary key (owner_kind, owner_id)
);

-- The first event that says a run started or went on. Without one, and without an end, its state is
-- not known: events of other types, or of none, say nothing of it.
alter table catalog.run add column begun_s bigint;
alter table catalog.run add column begun_n int;
update catalog.run set begun_s = start_s, begun_n = start_n;
