-- A link may be reported by a run, read out of its SQL, both, or declared without a run.
drop view catalog.link;
alter table catalog.link_span add column evidence text not null default 'observed';
update catalog.link_span set evidence = 'declared' where declared;
alter table catalog.link_span alter column evidence drop default;
alter table catalog.link_span drop column declared;
create view catalog.link as
  select owner_kind, owner_id, from_dataset, from_column, to_dataset, to_column, flow, masking,
    evidence, evidence = 'declared' as declared, version, first_seen, last_seen, until
  from catalog.link_row join catalog.link_span using (owner_kind, owner_id, span);

-- The texts that a job ran, to read them again when a schema comes to be known.
create index run_facet_sql on catalog.run_facet (job_id) where role = 3 and key = 'sql';

-- By which version of the rules for reading SQL the links stand; a newer service reads all again.
alter table graph_head add column sql_rules int not null default 0;

-- What columns are set to on branches that carry no data, a column and a text at the same place.
alter table catalog.job_map add column constant_columns text[] not null default '{}';
alter table catalog.job_map add column constant_texts text[] not null default '{}';
