-- What values of assets look like, where a steward lets them be sampled. Values are never kept.
create table public.value_sample (
  asset     text primary key,     -- the reference that leads
  source    text not null,        -- the preview source that it was read from
  at        timestamptz not null,
  looks     text not null,        -- JSON: of each column that looks like something, what and how often
  fault     text                  -- why it could not be read
);
create index value_sample_source on public.value_sample (source);
