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
