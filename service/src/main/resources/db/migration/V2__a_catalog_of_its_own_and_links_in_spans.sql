-- Whatever is computed from the log gets a schema of its own, so that it can be made anew beside the
-- live one and put in its place. The rules of reading changed as well: what was computed before is
-- dropped, and the log is applied again.
create schema catalog;

truncate facet, facet_now, facet_body, run_facet, shape, run_shape, declared, described,
  run, check_result, job_version, job_map, card, recent_event, event_seen, graph_change;
drop table link, recent_event, run_moment;
delete from dataset;
delete from job;
delete from refused_event where problem = 'not-applicable';
update event_block set applied_at = null, change_number = null;
update graph_head set number = number + 1000, epoch = gen_random_uuid();

alter table dataset set schema catalog;
alter table job set schema catalog;
alter table facet set schema catalog;
alter table facet_now set schema catalog;
alter table facet_body set schema catalog;
alter table run_facet set schema catalog;
alter table shape set schema catalog;
alter table run_shape set schema catalog;
alter table declared set schema catalog;
alter table described set schema catalog;
alter table run set schema catalog;
alter table check_result set schema catalog;
alter table job_version set schema catalog;
alter table job_map set schema catalog;
alter table card set schema catalog;

-- ---------------------------------------------------------------- the log
alter table event_block alter column body drop not null; -- null once aged
alter table event_block add column source text;          -- a file or a topic; null for HTTP
create index event_block_received on event_block (received_at);
alter table refused_event add column source text;
alter table refused_event add column retried_at timestamptz;
alter table refused_event add column outcome text;       -- of the retry: accepted, or why not
create index refused_event_open on refused_event (id) where outcome is null or outcome <> 'accepted';

create table recent_event (
  block_id    bigint not null,
  position    int not null,
  received_at timestamptz not null,
  event_time  timestamptz not null,
  type        text not null,
  about       text not null,
  producer    text not null,
  changed     text[] not null,         -- what of the catalog it changed, in words
  primary key (block_id, position)
);

-- Who sends. Counters: left out of comparisons.
create table emitter (
  id          bigint generated always as identity primary key,
  producer    text not null,
  namespace   text not null,           -- of the jobs or datasets it reports of
  version     text,
  engine      text,
  version_at  timestamptz,
  first_event timestamptz not null,
  last_event  timestamptz not null,
  last_received timestamptz not null,
  events      bigint not null,
  unique (producer, namespace)
);
create table emitter_minute (
  emitter_id  bigint not null,
  minute      timestamptz not null,    -- received
  events      bigint not null,
  primary key (emitter_id, minute)
);
create table emitter_hour (
  emitter_id  bigint not null,
  hour        timestamptz not null,    -- of the event times
  events      bigint not null,
  primary key (emitter_id, hour)
);

-- Files that were picked up: each content once, and how far a large one was taken.
create table taken_file (
  path        text not null,
  digest      bytea not null,
  bytes       bigint not null,
  first_at    timestamptz not null,
  done_at     timestamptz,
  taken       bigint not null,         -- events of it that are durable, from its beginning
  accepted    bigint not null,
  duplicates  bigint not null,
  refused     bigint not null,
  problem     text,
  primary key (path, digest)
);

alter table graph_head add column applier uuid;          -- who applied last; another drops what it remembers

-- ---------------------------------------------------------------- the facts
-- The newest block that stated a fact: when its bytes are aged, a rebuild carries the fact over.
alter table catalog.facet add column block bigint not null default 0;
alter table catalog.run_facet add column block bigint not null default 0;
alter table catalog.run_shape add column block bigint not null default 0;
alter table catalog.declared add column block bigint not null default 0;
alter table catalog.described add column block bigint not null default 0;
create index facet_life on catalog.facet (subject_id) where key = 'lifecycleStateChange';

create table catalog.renamed (
  from_dataset  bigint not null,
  to_dataset    bigint not null,
  at_s          bigint not null,
  at_n          int not null,
  block         bigint not null,
  primary key (from_dataset, to_dataset, at_s, at_n)
);
create index renamed_to on catalog.renamed (to_dataset);

-- ---------------------------------------------------------------- the catalog, computed from facts
-- The moments of a run are facts, and in one row with what is computed of them: of its first event
-- and of each kind of end the least, of its newest event and of those while running the greatest.
alter table catalog.run
  add column start_s bigint not null, add column start_n int not null,
  add column heard_s bigint not null, add column heard_n int not null,
  add column running_s bigint, add column running_n int,
  add column completed_s bigint, add column completed_n int,
  add column aborted_s bigint, add column aborted_n int,
  add column failed_s bigint, add column failed_n int,
  add column block bigint not null,    -- the oldest block that told any of them
  add column heard_at timestamptz not null;
alter table catalog.run add column root_run uuid;
alter table catalog.run add column root_job text;
alter table catalog.run add column nominal_end timestamptz;

alter table catalog.check_result drop column passed;
alter table catalog.check_result add column status text not null; -- pass, fail, skip
alter table catalog.check_result add column expected text;
alter table catalog.check_result add column actual text;
alter table catalog.check_result add column content bytea;        -- the check itself, such as its SQL
alter table catalog.check_result add column content_type text;
create index check_result_job on catalog.check_result (job_id, at desc);

alter table catalog.job_version add column changes text[] not null default '{}';

-- A job's links that were seen last together share a span, so that another run of the same job
-- moves one row and not all its links.
create table catalog.link_span (
  owner_kind  smallint not null,
  owner_id    bigint not null,
  span        int not null,
  declared    boolean not null,
  version     text not null,
  last_seen   timestamptz not null,
  until       timestamptz,
  primary key (owner_kind, owner_id, span)
);
create table catalog.link_row (
  owner_kind    smallint not null,
  owner_id      bigint not null,
  span          int not null,
  from_dataset  bigint not null,
  from_column   text not null,
  to_dataset    bigint not null,
  to_column     text not null,
  flow          text not null,
  masking       boolean not null,
  first_seen    timestamptz not null
);
create index link_row_owner on catalog.link_row (owner_kind, owner_id);
create index link_row_to on catalog.link_row (to_dataset);
create index link_row_from on catalog.link_row (from_dataset);
create view catalog.link as
  select owner_kind, owner_id, from_dataset, from_column, to_dataset, to_column, flow, masking,
    declared, version, first_seen, last_seen, until
  from catalog.link_row join catalog.link_span using (owner_kind, owner_id, span);

-- ---------------------------------------------------------------- counters
create table intake_count (
  single      boolean primary key default true check (single),
  received    bigint not null,         -- entries of applied blocks
  applied     bigint not null,
  duplicates  bigint not null
);
insert into intake_count (received, applied, duplicates) values (0, 0, 0);
