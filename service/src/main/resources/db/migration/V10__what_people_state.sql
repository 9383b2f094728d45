-- What people stated, as a list. It is in the log too; here it can be found by person and undone
-- when the log's bytes are aged.
create table public.statement (
  id        text primary key,
  at        timestamptz not null,
  by        text not null,
  reason    text not null,
  about     text[] not null,           -- the references that it sets something of
  body      bytea not null,            -- the statement as JSON, compressed
  undoes    text                       -- the statement that it takes back
);
create index statement_newest on public.statement (at desc, id);
create index statement_about on public.statement using gin (about);

-- What people set is a small part of all facets.
create index facet_now_hand on catalog.facet_now (key) where key like 'hand:%';
-- Recorded links end at their date, which no event announces.
create index link_span_recorded on catalog.link_span (until) where evidence = 'recorded';

-- How well each system was covered, once a day, so that one sees whether it falls or rises.
create table public.coverage_day (
  day           date not null,
  system        text not null,
  workspace     text not null,         -- empty for the system as a whole
  assets        int not null,
  column_level  int not null,
  table_level   int not null,
  no_lineage    int not null,
  primary key (day, system, workspace)
);

-- What each key sent, so that a new connection can be watched until it works.
create table public.key_use (
  name           text primary key,
  first_at       timestamptz not null,
  last_at        timestamptz not null,
  accepted       bigint not null,
  refused        bigint not null,
  refused_at     timestamptz,
  refusal        text,
  newest         bytea[] not null      -- digests of the events it sent last
);

-- Databases that the service reads by itself.
create table public.source_reader (
  name          text primary key,
  settings      text not null,         -- JSON; never a password
  every_minutes int not null,
  enabled       boolean not null,
  changed_by    text not null,
  changed_at    timestamptz not null,
  last_at       timestamptz,
  last_ok_at    timestamptz,
  outcome       text,
  problem       text,
  state         bytea,                 -- what was read last, so that only changes are sent
  locked_until  timestamptz
);
