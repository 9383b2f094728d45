create extension if not exists pg_trgm;

-- ---------------------------------------------------------------- the log
create table event_block (
  id             bigint generated always as identity primary key,
  received_at    timestamptz not null,
  events         int not null,
  body           bytea not null,       -- compressed; the events exactly as received
  reading        int not null,         -- version of the reading rules they were accepted under
  applied_at     timestamptz,
  change_number  bigint                -- the graph change that made them visible
);
create index event_block_waiting on event_block (id) where applied_at is null;

create table event_seen (
  digest    bytea primary key,         -- SHA-256 of the event's bytes
  block_id  bigint not null,
  position  int not null
);

create table refused_event (
  id           bigint generated always as identity primary key,
  block_id     bigint not null,
  position     int not null,
  received_at  timestamptz not null,
  problem      text not null,
  reason       text not null
);

create table recent_event (
  block_id    bigint not null,
  position    int not null,
  received_at timestamptz not null,
  event_time  timestamptz not null,
  type        text not null,
  about       text not null,
  producer    text not null,
  primary key (block_id, position)
);

-- ---------------------------------------------------------------- the facts
create table dataset (
  id   bigint generated always as identity primary key,
  ref  text not null unique
);
create table job (
  id   bigint generated always as identity primary key,
  ref  text not null unique
);

create table facet_body (
  digest  bytea primary key,
  body    bytea not null
);

-- Every value a facet of a dataset (1) or job (2) ever had.
create table facet (
  subject_kind  smallint not null,
  subject_id    bigint not null,
  key           text not null,
  at_s          bigint not null,
  at_n          int not null,
  digest        bytea not null,
  far           boolean not null,
  primary key (subject_kind, subject_id, key, at_s, at_n, digest)
);
-- The winner of each: greatest (time, digest), far-future times left out.
create table facet_now (
  subject_kind  smallint not null,
  subject_id    bigint not null,
  key           text not null,
  at_s          bigint not null,
  at_n          int not null,
  digest        bytea not null,
  primary key (subject_kind, subject_id, key)
);

-- Facets of a run: of the run itself (0), of its reading (1) and writing (2) of a dataset, and the
-- job facets that tell which code it ran (3).
create table run_facet (
  run_id      uuid not null,
  job_id      bigint not null,
  role        smallint not null,
  dataset_id  bigint not null,         -- 0 where there is none
  key         text not null,
  at_s        bigint not null,
  at_n        int not null,
  digest      bytea not null,
  far         boolean not null,
  primary key (run_id, job_id, role, dataset_id, key, at_s, at_n, digest)
);
create index run_facet_dataset on run_facet (dataset_id, key) where dataset_id > 0;

-- Moments of a run: 0 first seen, 1 completed, 2 aborted, 3 failed (the least of each); 4 last seen,
-- 5 running (the greatest of each).
create table run_moment (
  run_id  uuid not null,
  job_id  bigint not null,
  kind    smallint not null,
  at_s    bigint not null,
  at_n    int not null,
  primary key (run_id, job_id, kind)
);

create table shape (
  digest  bytea primary key,
  body    bytea not null
);
create table run_shape (
  run_id  uuid not null,
  job_id  bigint not null,
  digest  bytea not null,
  primary key (run_id, job_id, digest)
);
create index run_shape_job on run_shape (job_id);

-- Lineage stated without a run: by job events (2) and by dataset events (1).
create table declared (
  owner_kind  smallint not null,
  owner_id    bigint not null,
  at_s        bigint not null,
  at_n        int not null,
  digest      bytea not null,
  far         boolean not null,
  primary key (owner_kind, owner_id, at_s, at_n, digest)
);

-- What only some event names without saying anything of it is mentioned, not described.
create table described (
  subject_kind  smallint not null,
  subject_id    bigint not null,
  primary key (subject_kind, subject_id)
);

-- ---------------------------------------------------------------- the catalog, computed from facts
create table run (
  run_id      uuid not null,
  job_id      bigint not null,
  state       text not null,
  started_at  timestamptz not null,
  ended_at    timestamptz,
  parent_run  uuid,
  parent_job  text,
  nominal_at  timestamptz,
  error       text,
  rows_read   bigint,
  rows_written bigint,
  bytes_written bigint,
  code        text,                    -- fingerprint
  primary key (run_id, job_id)
);
create index run_of_job on run (job_id, started_at desc);
create index run_newest on run (started_at desc);
create index run_children on run (parent_run);
create index run_parent_job on run (parent_job);

create table check_result (
  run_id      uuid not null,
  job_id      bigint not null,
  dataset_id  bigint not null,
  name        text not null,
  column_path text not null,           -- empty for the whole dataset
  at          timestamptz not null,
  passed      boolean not null,
  severity    text,
  detail      text,
  primary key (run_id, job_id, dataset_id, name, column_path)
);
create index check_result_dataset on check_result (dataset_id, at desc);

create table link (
  owner_kind    smallint not null,
  owner_id      bigint not null,
  from_dataset  bigint not null,
  from_column   text not null,
  to_dataset    bigint not null,
  to_column     text not null,
  flow          text not null,
  masking       boolean not null,
  declared      boolean not null,
  version       text not null,
  first_seen    timestamptz not null,
  last_seen     timestamptz not null,
  until         timestamptz
);
create index link_owner on link (owner_kind, owner_id);
create index link_to on link (to_dataset);
create index link_from on link (from_dataset);

create table job_version (
  job_id     bigint not null,
  number     int not null,
  hash       text not null,
  first_run  timestamptz not null,
  last_run   timestamptz not null,
  primary key (job_id, hash)
);

-- Which output columns the newest version of a job, or the declaration of a dataset, tells the
-- sources of; and whether its emitter could not read parts of it.
create table job_map (
  owner_kind  smallint not null,
  owner_id    bigint not null,
  described   text[] not null,
  gap         boolean not null,
  primary key (owner_kind, owner_id)
);

create table card (
  ref       text primary key,
  kind      text not null,
  system    text not null,
  name      text not null,             -- its last part
  title     text,
  url       text,
  owners    text[] not null,
  tags      text[] not null,
  retired   boolean not null,
  haystack  text not null,             -- all that search looks at, in lower case
  body      bytea not null             -- the card whole
);
create index card_haystack on card using gin (haystack gin_trgm_ops);
create index card_kind on card (kind);

create table graph_head (
  single  boolean primary key default true check (single),
  epoch   uuid not null,
  number  bigint not null,
  term    bigint not null
);
insert into graph_head (epoch, number, term) values (gen_random_uuid(), 0, 0);
create table graph_change (
  number   bigint primary key,
  made_at  timestamptz not null,
  refs     text[] not null             -- the datasets and jobs whose cards or links changed
);

-- ---------------------------------------------------------------- access
create table account (
  name           text primary key,
  display_name   text not null,
  password_hash  text not null,
  role           text not null
);
create table api_key (
  id          bigint generated always as identity primary key,
  name        text not null unique,
  role        text not null,
  hash        bytea not null unique,
  created_at  timestamptz not null,
  revoked_at  timestamptz
);
